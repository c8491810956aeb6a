"""Alternatives, such as actual and plan: nothing is added up over them, and where they are it is said."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest

from dastan.core.analysis.document import Analysis, HeaderPath, Limit, Order, PlacedMeasure
from dastan.core.analysis.gestures import PutDimension, PutMeasure, Rewrite, TakeDimension, apply_gesture
from dastan.core.analysis.sentence import sentence_of
from dastan.core.analysis.warnings import warnings_of
from dastan.core.model.conditions import Condition, MemberFilter
from dastan.core.words.reading import read_question
from dastan.core.words.vocabulary import Vocabulary
from dastan.sources.columnar.column_source import ColumnSource
from dastan.sources.folders.folder import open_folder
from tests.core.asked import ask, by, heads, question, table

MODEL = """dastan: model/1
name: books
caption: Books
tables:
  books: {file: books.csv}
  versions: {file: versions.csv}
  depots: {file: depots.csv}
relationships:
  - {role: version, from_table: books, from_column: version, to_table: versions, to_column: version}
  - {role: depot, from_table: books, from_column: depot, to_table: depots, to_column: depot}
dimensions:
  - name: version
    caption: Version
    table: versions
    key: version
    default: [[actual]]
    alternatives: true
    attributes: [{name: version, key: version}]
    hierarchies: [{name: version, levels: [version]}]
  - name: depot
    caption: Depot
    table: depots
    key: depot
    attributes: [{name: depot, key: depot}]
    hierarchies: [{name: depot, levels: [depot]}]
measures:
  - {name: cost, caption: Cost, table: books, aggregate: sum, expression: cost}
  - name: planned
    caption: Planned
    table: books
    aggregate: sum
    expression: cost
    where: [{kind: members, dimension: version, hierarchy: version, members: [[plan]]}]
"""
ACTUAL = MemberFilter(dimension="version", hierarchy="version", members=(("actual",),))


@pytest.fixture
def source(tmp_path: Path) -> ColumnSource:
    (tmp_path / "model.yaml").write_text(MODEL)
    (tmp_path / "books.csv").write_text(
        "version,depot,cost\nactual,north,5\nactual,south,2\nplan,north,4\nplan,south,3\n"
    )
    (tmp_path / "versions.csv").write_text("version\nactual\nplan\n")
    (tmp_path / "depots.csv").write_text("depot\nnorth\nsouth\n")
    return open_folder(tmp_path).source


def books(*measures: str, **parts: object) -> Analysis:
    return Analysis(model="books", question=question(*measures, **parts).question)


def told(source: ColumnSource, *measures: str, filters: tuple[Condition, ...] = (), **parts: object) -> list[str]:
    return [each.text for each in warnings_of(books(*measures, filters=filters, **parts), source.model)]


def test_no_total_is_over_them_on_either_axis(source: ColumnSource) -> None:
    across = ask(books("cost", rows=(by("depot", "depot"),), columns=(by("version", "version"),)), source)
    assert heads(across) == ["actual", "plan"]
    assert table(across) == [("north", "5", "4"), ("south", "2", "3"), ("All of Depot", "7", "7")]
    down = ask(books("cost", rows=(by("version", "version"),)), source)
    assert table(down) == [("actual", "7"), ("plan", "7")]


def test_nor_over_what_they_stand_under_but_over_what_stands_under_them(source: ColumnSource) -> None:
    under = ask(books("cost", rows=(by("depot", "depot"), by("version", "version"))), source)
    assert table(under) == [
        ("north", ""),
        (" actual", "5"),
        (" plan", "4"),
        ("south", ""),
        (" actual", "2"),
        (" plan", "3"),
    ]
    over = ask(books("cost", rows=(by("version", "version"), by("depot", "depot"))), source)
    assert [row for row in table(over) if not row[0].startswith(" ")] == [("actual", "7"), ("plan", "7")]


def test_standing_beside_each_other_they_lift_the_default(source: ColumnSource) -> None:
    begun = apply_gesture(books(), PutMeasure(measure="cost"), source.model)
    assert begun.question.filters == (ACTUAL,)
    placed = PutDimension(dimension="version", hierarchy="version", axis="columns", at=0)
    after = apply_gesture(begun, placed, source.model)
    assert after.question.filters == ()
    assert sentence_of(after, source.model, source.members).text == "Cost against Version"
    # So they do where the first measure comes to them; but what somebody writes is meant.
    first = apply_gesture(books(columns=(by("version", "version"),)), PutMeasure(measure="cost"), source.model)
    assert first.question.filters == ()
    written = replace(after.question, filters=(ACTUAL,))
    assert apply_gesture(begun, Rewrite(question=written), source.model).question == written
    # Taken off the table again, they are not added up: the default is back.
    taken = apply_gesture(after, TakeDimension(dimension="version", hierarchy="version"), source.model)
    assert taken.question.filters == (ACTUAL,)
    # What somebody chose stays, whatever stands where.
    plan = MemberFilter(dimension="version", hierarchy="version", members=(("plan",),))
    kept = apply_gesture(books("cost", filters=(plan,)), placed, source.model)
    assert kept.question.filters == (plan,)


def test_a_written_question_that_drops_other_versions_has_the_usual_one(source: ColumnSource) -> None:
    plan = MemberFilter(dimension="version", hierarchy="version", members=(("plan",),))
    alone = books("cost").question
    for before in (books("cost", filters=(plan,)), books("cost", columns=(by("version", "version"),))):
        assert apply_gesture(before, Rewrite(question=alone), source.model).question.filters == (ACTUAL,)
    # Written without the usual one where that stood, it was meant to go; and it does not come back by itself.
    for before in (books("cost", filters=(ACTUAL,)), books("cost")):
        assert apply_gesture(before, Rewrite(question=alone), source.model).question.filters == ()


def test_one_against_another_is_typed(source: ColumnSource) -> None:
    found = read_question("cost by depot, actual against plan", Vocabulary(source.model, source.members)).question
    assert found is not None
    assert [each.dimension for each in found.columns] == ["version"]
    assert found.filters == (replace(ACTUAL, members=(("actual",), ("plan",))),)


def test_where_they_are_added_up_it_is_said_with_its_remedy(source: ColumnSource) -> None:
    document = books("cost", rows=(by("depot", "depot"),))
    (found,) = warnings_of(document, source.model)
    assert found.text == "Cost adds up all of Version, where each stands in place of the others."
    assert found.gesture is not None
    assert apply_gesture(document, found.gesture, source.model).question.filters == (ACTUAL,)
    assert told(source, "cost", filters=(ACTUAL,)) == []
    assert told(source, "cost", columns=(by("version", "version"),)) == []
    assert told(source, "planned") == []


def test_what_ranks_by_all_of_them_together_is_told(source: ColumnSource) -> None:
    limit = Limit(level="depot", amount=1, by=PlacedMeasure(measure="cost"))
    across = by("version", "version")
    depots = by("depot", "depot", limits=(limit,))
    ranked = ["What ranks by Cost adds up all of Version, where each stands in place of the others."]
    assert told(source, "cost", rows=(depots,), columns=(across,)) == ranked
    # In each version by itself nothing is added up; nor where one is kept and none stands.
    assert told(source, "cost", rows=(across, depots)) == []
    assert told(source, "cost", rows=(depots,), filters=(ACTUAL,)) == []
    plan = HeaderPath(members=(("plan",),))
    for column, expected in ((HeaderPath(), ranked), (plan, [])):
        order = Order(by="measure", measure=PlacedMeasure(measure="cost"), column=column)
        assert told(source, "cost", rows=(by("depot", "depot", order=order),), columns=(across,)) == expected
