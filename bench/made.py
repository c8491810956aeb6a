"""What joint members, lists, financial layouts and limits by made measures cost, on the demo's journeys in a folder.

Prints the median time of a plain table, and the ratio of the same with each beside it, with how many requests a source
was asked. Run by `make bench-made FOLDER=…`; it measures and asserts nothing.
"""

from __future__ import annotations

from dataclasses import replace

from bench.asked import from_command_line
from dastan.core.analysis.document import Analysis, Joint, Limit, MadeMeasure, PlacedDimension, PlacedMeasure, Question
from dastan.core.analysis.views import Balance, Step
from dastan.core.language.reading import read_formula
from dastan.core.model.conditions import Condition, MemberFilter
from dastan.core.words.vocabulary import Vocabulary
from dastan.sources.folders.folder import OpenModel

SHARE = '"Boardings" / ("Boardings" over the whole)'
CHANGE = '"Boardings" - ("Boardings" in the year before)'


def placed(hierarchy: str, level: str, limit: Limit | None = None, dimension: str = "") -> PlacedDimension:
    limits = () if limit is None else (limit,)
    return PlacedDimension(dimension=dimension or hierarchy, hierarchy=hierarchy, level=level, limits=limits)


def table(
    *rows: PlacedDimension, measures: tuple[str, ...] = ("boardings", "fare_revenue"), **more: object
) -> Analysis:
    question = Question(
        measures=tuple(PlacedMeasure(measure=each) for each in measures), rows=rows,
        columns=(placed("calendar", "month"),), **more,  # type: ignore[arg-type]
    )  # fmt: skip
    return Analysis(model="varrow_bay", question=question)


def viewed(document: Analysis, *views: Step | Balance) -> Analysis:
    own = document.question.measures
    more = tuple(replace(own[0], view=each) for each in views)
    return replace(document, question=replace(document.question, measures=(*own, *more)))


def ranked(by: str) -> Limit:
    return Limit(level="stop", amount=20, by=PlacedMeasure(measure=by), per="whole")


def listed(name: str) -> Condition:
    return MemberFilter(dimension="line", hierarchy="line", list=name)


def cases(opened: OpenModel) -> dict[str, dict[str, Analysis]]:
    """What is measured: a plain table, named first, and the same with something more."""
    lines = opened.source.members("line", "line")
    paths = [lines.path_of(2, code) for code in range(0, len(lines.levels[2]) - 2)]
    joints = tuple(
        Joint(name=f"joint_{at}", caption=f"Joint {at}", dimension="line", hierarchy="line",
              members=tuple(paths[at : at + 6]), how="together" if at < 12 else "difference" if at < 18 else "ratio")
        for at in range(0, 24, 6)
    )  # fmt: skip
    joints = tuple(each if each.how == "together" else replace(each, members=each.members[:2]) for each in joints)
    vocabulary = Vocabulary(opened.model, opened.source.members)
    made = tuple(
        MadeMeasure(name=name, caption=name, formula=read_formula(text, vocabulary).expression)
        for name, text in (("share", SHARE), ("change", CHANGE))
    )
    by_lines = table(placed("line", "line"))
    costs = table(placed("posting_account", "account", dimension="account"), measures=("posted",))
    vehicles = table(placed("depot", "depot"), measures=("vehicles_available",))
    return {
        "lines by months": {
            "plain": by_lines,
            "two joined, a difference, a ratio": replace(by_lines, joints=joints),
            "a list by a rule": table(placed("line", "line"), filters=(listed("busiest_lines"),)),
            "two steps": viewed(by_lines, Step(along="columns"), Step(along="columns", shows="difference")),
        },
        "the 20 largest stops by months": {
            "plain": table(placed("stop", "stop", ranked("boardings"))),
            "by a share": replace(table(placed("stop", "stop", ranked("share"))), made=made),
            "by a change on the year before": replace(table(placed("stop", "stop", ranked("change"))), made=made),
        },
        "accounts by months": {
            "plain": costs,
            "as an operating statement": table(
                placed("operating_statement", "operating_statement", dimension="account"), measures=("posted",)
            ),
        },
        "vehicles by months": {
            "plain": vehicles,
            "opening balance and movement": viewed(vehicles, Balance(shows="opening"), Balance(shows="movement")),
        },
    }


def main() -> None:
    asked = from_command_line(__doc__)
    for name, documents in cases(asked.opened).items():
        own = asked.took(documents.pop("plain"))
        parts = [f"{name}: {own.ms:.1f} ms, {own.requests} asked"]
        for words, each in documents.items():
            found = asked.took(each)
            parts.append(f"{words} × {found.ms / own.ms:.2f}, {found.requests} asked")
        print("; ".join(parts))


if __name__ == "__main__":
    main()
