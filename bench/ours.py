"""Dastan's own engine on the journeys of the comparison: whole answers, headers and order included."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from pathlib import Path
from typing import Any

from bench.peers import PATH, Cells
from dastan.core.analysis.document import Analysis, Limit, Opening, PlacedDimension, PlacedMeasure, Question
from dastan.core.engine.answer import Answer, answer
from dastan.core.engine.cache import GroupCache
from dastan.core.engine.waist import LevelRef, MemberSet, RecordsRequest, Request, Rights
from dastan.core.formula.bases import BaseAggregate
from dastan.core.model.conditions import FilterGroup, MemberFilter
from dastan.core.model.reach import Grain
from dastan.sources.columnar import load_kernels
from dastan.sources.folders.folder import open_folder

JOURNEYS = Grain("journeys", ())
EVERYTHING = Rights("bench")


class Own:
    """The engine as a server holds it; `warm` keeps what was answered before."""

    name = "Dastan"

    def __init__(self, folder: Path, *, warm: bool = True) -> None:
        load_kernels()
        self.source = open_folder(folder).source
        if warm:
            self.source.warm()
        self.forget()

    def forget(self) -> None:
        """Forgets all answers, so that the next question is scanned for."""
        self.cache = GroupCache(self.source.group, self.source.members)

    def ask(self, question: str) -> Any:
        return getattr(self, question)()

    def _answer(self, document: Analysis) -> Answer:
        return answer(document, self.source.model, self.source, EVERYTHING, date(2025, 12, 31), self.cache.group)

    def crosstab(self) -> Any:
        return self._answer(_document(("boardings",), [("line", "line")], [("product", "product")]))

    def subtotals(self) -> Any:
        opened = tuple(
            Opening(dimension=each, hierarchy=each, levels=(level,))
            for each, level in (("line", "region"), ("product", "category"))
        )
        return self._answer(
            _document(("boardings", "fare", "delay"), [("line", "region")], [("product", "category")], openings=opened)
        )

    def filtered(self) -> Any:
        filters = (_only("product", (1,), (5,)), _only("calendar", (2024,)))
        return self._answer(_document(("boardings",), [("line", "line")], [("stop", "area")], filters=filters))

    def distinct(self) -> Any:
        return self._answer(_document(("cards",), [("line", "line")], [("product", "category")]))

    def records(self) -> Any:
        condition = (
            MemberSet("line", "line", ((3, 3),)), MemberSet("product", "product", ((5, 5),)),
            MemberSet("calendar", "calendar", ((2023,),)),
        )  # fmt: skip
        return self.source.records(RecordsRequest(JOURNEYS, condition, EVERYTHING, 0, 1000))

    def best(self) -> Any:
        by = PlacedMeasure(measure="boardings")
        limit = Limit(level="line", amount=5, by=by, others=True)
        rows = PlacedDimension(dimension="line", hierarchy="line", level="region", limits=(limit,))
        opened = (Opening(dimension="line", hierarchy="line", levels=("region",)),)
        question = Question(measures=(by,), rows=(rows,), filters=(_only("calendar", (2024,)),))
        return self._answer(Analysis(model="star", question=question, openings=opened))

    def median(self) -> Any:
        return self._answer(_document(("median",), [("line", "line")], [("calendar", "year")]))

    def spread(self) -> Any:
        measures = ("least", "greatest", "deviation")
        return self._answer(_document(measures, [("line", "line")], [("product", "category")]))

    def either(self) -> Any:
        some = FilterGroup(join="any", parts=(_only("product", (1,), (5,)), _only("calendar", (2024,))))
        return self._answer(_document(("boardings",), [("line", "line")], [("product", "product")], filters=(some,)))

    def wide(self) -> Any:
        # At the waist, as the others answer it: groups without headers.
        levels = (LevelRef("stop", "stop", "stop"), LevelRef("line", "line", "line"))
        aggregates = (BaseAggregate("count"), BaseAggregate("sum", "boardings"))
        return self.cache.group(Request(JOURNEYS, levels, aggregates, (), EVERYTHING))

    def drill(self) -> Any:
        found = []
        for path in PATH:
            opened = tuple(path[: at + 1] for at in range(len(path)))
            openings = (Opening(dimension="calendar", hierarchy="calendar", open=opened),)
            document = _document(
                ("boardings",), [("calendar", "year")], [("line", "region")], openings=openings, columns_in="region"
            )
            found.append(self._answer(document))
        return found

    def followed(self) -> list[tuple[str, Callable[[], Any]]]:
        """Steps after years by regions, each in words and as what asks it."""

        def of(rows: str, opened: tuple[tuple[int, ...], ...] = (), turned: bool = False, **more: Any) -> Any:
            openings = (Opening(dimension="calendar", hierarchy="calendar", open=opened),)
            time_, lines = [("calendar", rows)], [("line", "region")]
            document = _document(
                ("boardings",), lines if turned else time_, time_ if turned else lines, openings=openings, **more
            )
            return self._answer(document)

        return [
            ("years by regions, the first time", lambda: of("year")),
            ("go down: one year opened", lambda: of("year", ((2024,),))),
            ("go down: a quarter, and a month opened", lambda: of("year", ((2024,), (2024, 2), (2024, 2, 5)))),
            ("come up", lambda: of("year", ((2024,),))),
            ("another level: months", lambda: of("month")),
            ("another level: days", lambda: of("day")),
            ("turned", lambda: of("year", ((2024,),), turned=True)),
            ("one region kept", lambda: of("year", ((2024,),), filters=(_only("line", (3,)),))),
            ("no grand total", lambda: of("year", ((2024,),), row_total="none")),
        ]

    def cells(self, question: str, found: Any) -> Cells:
        if question == "records":
            return {("count",): (found.total, len(found.rows))}
        if question == "wide":
            stops, lines = (self.source.members(each, each).levels[-1].keys for each in ("stop", "line"))
            return {
                (stops[stop], lines[line]): (float(value),)
                for stop, line, value in zip(*found.codes, found.values[1].data, strict=True)
            }
        if question == "drill":
            cells: Cells = {}
            for step, each in enumerate(found):
                for (row, column), values in _cells(each).items():
                    if len(row) == step + 1 and len(column) == 1 and row[:-1] == PATH[step]:
                        key = str(row[-1])[:10] if step == 3 else row[-1]
                        key = int(str(key)[-2:]) if step == 2 and "-" in str(key) else key
                        cells[(step, str(key), column[-1])] = values
            return cells
        wanted: Cells = {}
        for (row, column), values in _cells(found).items():
            if question == "subtotals":
                wanted[(*_padded(row), *_padded(column))] = values
            elif question == "distinct":
                wanted[(row[-1] if row else None, column[-1] if column else None)] = values
            elif question == "best":
                if len(row) == 2:
                    wanted[row] = values
            elif row and column:
                wanted[(row[-1], column[-1])] = values
        return wanted


def _padded(path: tuple[object, ...]) -> tuple[object, object]:
    return (*path, None, None)[:2]  # type: ignore[return-value]


def _only(dimension: str, *paths: tuple[object, ...]) -> MemberFilter:
    return MemberFilter(dimension=dimension, hierarchy=dimension, members=paths)  # type: ignore[arg-type]


def _document(
    measures: tuple[str, ...],
    rows: list[tuple[str, str]],
    columns: list[tuple[str, str]],
    columns_in: str | None = None,
    openings: Any = (),
    **more: Any,
) -> Analysis:
    def placed(axis: list[tuple[str, str]], hierarchy: str | None = None) -> tuple[PlacedDimension, ...]:
        return tuple(PlacedDimension(dimension=each, hierarchy=hierarchy or each, level=level) for each, level in axis)

    question = Question(
        measures=tuple(PlacedMeasure(measure=each) for each in measures), rows=placed(rows),
        columns=placed(columns, columns_in), totals_of_one="shown", **more,
    )  # fmt: skip
    return Analysis(model="star", question=question, openings=openings)


def _cells(found: Answer) -> dict[tuple[tuple[object, ...], tuple[object, ...]], tuple[float | None, ...]]:
    """Every cell by the paths of its headers; the rest that a limit leaves has None at its end."""
    paths = []
    for axis in (found.rows, found.columns):
        own = []
        for entry in range(len(axis)):
            chain = axis.chain(entry)
            path: tuple[object, ...] = ()
            for each in chain:
                if each.is_others:
                    path = (*path, None)
                else:
                    path = axis.placements[each.place].members.path_of(each.depth, each.code)
            start = axis.placements[chain[-1].place].start if chain else 0
            own.append(path if not chain or chain[-1].is_others else path[start:])
        paths.append(own)
    return {
        (paths[0][row], paths[1][column]): tuple(
            None if (value := each.at(at)) is None else round(float(value), 6) for each in found.values
        )
        for at, (row, column) in enumerate(zip(found.cell_rows.tolist(), found.cell_columns.tolist(), strict=True))
    }
