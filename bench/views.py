"""What eight calculated columns cost beside their bases alone, on the demo's journeys in a folder.

Prints the median time of the bases, the ratios with views beside them, and how many requests a source was asked.
Run by `make bench-views FOLDER=…`; it measures and asserts nothing.
"""

from __future__ import annotations

import argparse
import statistics
import time
from datetime import date
from pathlib import Path

from dastan.core.analysis.document import Analysis, MadeMeasure, PlacedDimension, PlacedMeasure, Question
from dastan.core.analysis.views import Change, Rank, RunningTotal, Share, View
from dastan.core.engine.answer import answer
from dastan.core.engine.cache import GroupCache
from dastan.core.engine.waist import Groups, Request, Rights
from dastan.core.language.reading import read_formula
from dastan.core.model.conditions import Condition, MemberFilter
from dastan.core.words.vocabulary import Vocabulary
from dastan.sources.columnar import load_kernels
from dastan.sources.files.folder import open_folder

ROUNDS = 9
TODAY = date(2026, 1, 1)


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
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folder", type=Path, help="a folder with the demo's data")
    opened = open_folder(parser.parse_args().folder)
    load_kernels()
    asked: list[Request] = []

    def group(request: Request) -> Groups:
        asked.append(request)
        return opened.source.group(request)

    vocabulary = Vocabulary(opened.model, opened.source.members)
    made = tuple(
        MadeMeasure(name=f"made_{at}", caption=f"Made {at}", formula=read_formula(text, vocabulary).expression)
        for at, text in enumerate(FORMULAS)
    )

    def took(measures: tuple[PlacedMeasure, ...], table: str) -> tuple[float, int]:
        rows, columns, filters = TABLES[table]
        question = Question(measures=measures, rows=rows, columns=columns, filters=filters)
        document = Analysis(model=opened.model.name, question=question, made=made)
        times = []
        for _ in range(ROUNDS):
            asked.clear()
            cache = GroupCache(group, opened.source.members)
            started = time.perf_counter()
            answer(document, opened.model, opened.source, Rights("bench"), TODAY, cache.group)
            times.append(time.perf_counter() - started)
        return 1000 * statistics.median(times), len(asked)

    for table in TABLES:
        own, _ = took(BASES, table)
        parts = [f"{table}: the bases {own:.1f} ms"]
        for words, more in (
            ("six above and along", ABOVE_AND_ALONG),
            ("two changes", CHANGES),
            ("all eight", ABOVE_AND_ALONG + CHANGES),
            ("eight formulas", tuple(PlacedMeasure(measure=each.name) for each in made)),
        ):
            ms, requests = took(BASES + more, table)
            parts.append(f"with {words} × {ms / own:.2f}, {requests} asked")
        print("; ".join(parts))


if __name__ == "__main__":
    main()
