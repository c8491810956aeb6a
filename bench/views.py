"""What eight calculated columns cost beside their bases alone, on the demo's journeys in a folder.

Prints the median time of the bases, and with views beside them how many times that it took, how many times the bases
with what else the source was asked for (another year, a further level), and how often that was.
Run by `make bench-views FOLDER=…`; it measures and asserts nothing.
"""

from __future__ import annotations

from bench.asked import Took, from_command_line
from dastan.core.analysis.document import Analysis, MadeMeasure, PlacedDimension, PlacedMeasure, Question
from dastan.core.analysis.views import Change, Rank, RunningTotal, Share, View
from dastan.core.language.reading import read_formula
from dastan.core.model.conditions import Condition, MemberFilter
from dastan.core.words.vocabulary import Vocabulary


def placed(hierarchy: str, level: str) -> PlacedDimension:
    return PlacedDimension(dimension=hierarchy, hierarchy=hierarchy, level=level)


def viewed(measure: str, view: View) -> PlacedMeasure:
    return PlacedMeasure(measure=measure, view=view)


BASES = (PlacedMeasure(measure="fare_revenue"), PlacedMeasure(measure="boardings"))
ABOVE_AND_ALONG = (
    viewed("fare_revenue", Share(of="whole")),
    viewed("fare_revenue", Share(of="row")),
    viewed("fare_revenue", Share(of="column")),
    viewed("boardings", Share(of="parent")),
    viewed("fare_revenue", RunningTotal(along="rows")),
    viewed("boardings", Rank(along="rows")),
)
CHANGES = tuple(viewed(each.measure, Change(on="year", dimension="calendar")) for each in BASES)
ONE_YEAR: tuple[Condition, ...] = (MemberFilter(dimension="calendar", hierarchy="calendar", members=((2025,),)),)
FORMULAS = (
    '"Fare revenue" / "Boardings"',
    '"Boardings" / ("Boardings" over all "Line")',
    '"Fare revenue" only "Mode" = "Tram"',
    '"Boardings" / ("Boardings" only "Mode" = "Tram" everywhere)',
    '"Fare revenue" to date in "Year"',
    '"Fare revenue" - ("Fare revenue" in the year before)',
    'case when "Boardings" > 1000 then round("Fare revenue", 0) else 0 end',
    '"Fare revenue" average over "Fare product"',
)
TABLES: dict[str, tuple[tuple[PlacedDimension, ...], tuple[PlacedDimension, ...], tuple[Condition, ...]]] = {
    "lines by months": ((placed("line", "line"),), (placed("calendar", "month"),), ()),
    "lines by the months of a year": ((placed("line", "line"),), (placed("calendar", "month"),), ONE_YEAR),
    "stops by months": ((placed("stop", "stop"),), (placed("calendar", "month"),), ()),
    "stops and lines by the months of a year": (
        (placed("stop", "stop"), placed("line", "line")),
        (placed("calendar", "month"),),
        ONE_YEAR,
    ),
}


def main() -> None:
    asked = from_command_line(__doc__)
    opened = asked.opened
    vocabulary = Vocabulary(opened.model, opened.source.members)
    made = tuple(
        MadeMeasure(name=f"made_{at}", caption=f"Made {at}", formula=read_formula(text, vocabulary).expression)
        for at, text in enumerate(FORMULAS)
    )

    def took(measures: tuple[PlacedMeasure, ...], table: str) -> Took:
        rows, columns, filters = TABLES[table]
        question = Question(measures=measures, rows=rows, columns=columns, filters=filters)
        return asked.took(Analysis(model=opened.model.name, question=question, made=made))

    for table in TABLES:
        own = took(BASES, table)
        parts = [f"{table}: the bases {own.ms:.1f} ms"]
        for words, more in (
            ("six above and along", ABOVE_AND_ALONG),
            ("two changes", CHANGES),
            ("all eight", ABOVE_AND_ALONG + CHANGES),
            ("eight formulas", tuple(PlacedMeasure(measure=each.name) for each in made)),
        ):
            found = took(BASES + more, table)
            grouped = own.ms - own.asked_ms + found.asked_ms
            parts.append(f"with {words} × {found.ms / own.ms:.2f} ({found.ms / grouped:.2f}), {found.requests} asked")
        print("; ".join(parts))


if __name__ == "__main__":
    main()
