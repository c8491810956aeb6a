"""A model put into the text that somebody wrote: it says what it should, and all else stays as it stood."""

from __future__ import annotations

import difflib
from dataclasses import replace
from importlib import resources

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from dastan.core.errors import AppError
from dastan.core.model.document import Assumption, SemanticModel
from dastan.core.model.gestures import (
    DescribeDimension,
    LeaveOutDimension,
    LeaveOutMeasure,
    LeaveOutTable,
    ModelGesture,
    NameSomething,
    PlaceDimension,
    PlaceMeasure,
    PutMeasure,
    TypeColumn,
    Untie,
    apply_to_model,
)
from dastan.documents.read import plain_model, read_model
from dastan.documents.write import rewritten, written

MODEL_YAML = resources.files("dastan.demo").joinpath("varrow_bay.yaml").read_text(encoding="utf-8")
SMALL = """\
# What we count.
dastan: model/1
name: taps   # analyses know it by this
caption: Taps

tables:
  # One file a year.
  taps:
    file: taps-*.csv
    delimiter: ";"
  lines: {file: lines.csv}   # kept by planning

relationships:
  - {from_table: taps, from_column: line_id, to_table: lines, to_column: line_id, role: line}

dimensions:
  - name: line
    caption: Line
    table: lines
    key: line_id
    attributes:
      # What people say on the platform.
      - {name: line, caption: Line, key: line_id}
    hierarchies:
      - {name: line, levels: [line]}

# Numbers.
measures:
  - name: taps
    caption: Taps     # also called boardings
    table: taps
    aggregate: count
  - {name: paid, caption: Paid, table: taps, aggregate: sum, expression: amount}
"""


def changed_lines(before: str, after: str) -> list[str]:
    found = difflib.unified_diff(before.splitlines(), after.splitlines(), lineterm="", n=0)
    return [each for each in found if each[:2] not in ("--", "++", "@@")]


def test_the_same_model_leaves_the_text_as_it_is() -> None:
    assert rewritten(SMALL, read_model(SMALL)) == SMALL


def test_one_word_is_changed_where_it_stands() -> None:
    model = read_model(SMALL)
    after = rewritten(SMALL, apply_to_model(model, DescribeDimension(name="line", caption="Route")))
    assert changed_lines(SMALL, after) == ["-    caption: Line", "+    caption: Route"]


def test_a_comment_on_the_line_of_a_value_stays() -> None:
    model = read_model(SMALL)
    after = rewritten(
        SMALL, apply_to_model(model, PutMeasure(measure=replace(model.measure("taps"), caption="Boardings")))
    )
    assert changed_lines(SMALL, after) == [
        "-    caption: Taps     # also called boardings",
        "+    caption: Boardings     # also called boardings",
    ]


def test_what_is_new_comes_behind_its_like_and_a_new_part_at_the_end() -> None:
    model = read_model(SMALL)
    made = replace(model.measure("paid"), name="most", caption="Most paid", aggregate="max")
    wanted = replace(
        model, measures=(*model.measures, made), assumed=(Assumption(about="taps", says="it is so: really"),)
    )
    after = rewritten(SMALL, wanted)
    assert read_model(after) == wanted
    assert changed_lines(SMALL, after) == [
        "+  - {name: most, caption: Most paid, table: taps, aggregate: max, expression: amount}",
        "+assumed:",
        "+  - about: taps",
        "+    says: 'it is so: really'",
    ]


def test_what_goes_takes_its_own_lines_alone() -> None:
    model = read_model(SMALL)
    after = rewritten(SMALL, apply_to_model(model, LeaveOutMeasure(name="taps")))
    assert changed_lines(SMALL, after) == [
        "-  - name: taps",
        "-    caption: Taps     # also called boardings",
        "-    table: taps",
        "-    aggregate: count",
    ]


def test_a_list_in_another_order() -> None:
    model = read_model(SMALL)
    wanted = apply_to_model(
        apply_to_model(model, PlaceMeasure(name="taps")),
        PutMeasure(measure=replace(model.measure("paid"), format="0.0")),
    )
    after = rewritten(SMALL, wanted)
    assert read_model(after) == wanted
    assert after.count("#") == SMALL.count("#")
    assert after.index("name: paid") < after.index("name: taps\n")


def test_conditions_are_read_back_as_what_they_are() -> None:
    model = read_model(MODEL_YAML)
    assert read_model(written(model)) == model
    kinds = {each.condition.kind for each in model.filters}
    assert len(kinds) > 1


def test_a_text_that_cannot_be_changed_in_places_is_written_anew() -> None:
    model = read_model(SMALL)
    in_one_line = written(model).replace("\n\n", "\n")
    odd = "{dastan: model/1, name: x, caption: X, tables: {t: {file: t.csv}}, dimensions: [{name: d, caption: D, table: t, attributes: [{name: a, key: a}], hierarchies: [{name: h, levels: [a]}]}], measures: [{name: m, caption: M, table: t, aggregate: count}]}"
    wanted = replace(read_model(odd), caption="Y")
    assert read_model(rewritten(odd, wanted)) == wanted
    assert read_model(in_one_line) == model


@pytest.fixture(scope="module")
def demo() -> SemanticModel:
    return read_model(MODEL_YAML)


def _gestures(model: SemanticModel) -> st.SearchStrategy[ModelGesture]:
    measures = st.sampled_from([each.name for each in model.measures])
    dimensions = st.sampled_from([each.name for each in model.dimensions])
    tables = st.sampled_from(list(model.tables))
    ties = st.sampled_from(model.relationships)
    captions = st.text(st.sampled_from("abÄ 'xyz:#-{}[]\"&*"), min_size=1, max_size=8).filter(str.strip)
    return st.one_of(
        st.builds(lambda name, caption: DescribeDimension(name=name, caption=caption), dimensions, captions),
        st.builds(lambda name, text: DescribeDimension(name=name, description=text), dimensions, captions),
        st.builds(lambda name, other: PlaceDimension(name=name, before=other), dimensions, st.none() | dimensions),
        st.builds(lambda name, other: PlaceMeasure(name=name, before=other), measures, st.none() | measures),
        st.builds(lambda name: LeaveOutMeasure(name=name), measures),
        st.builds(lambda name: LeaveOutDimension(name=name), dimensions),
        st.builds(lambda name: LeaveOutTable(table=name), tables),
        st.builds(lambda tie: Untie(table=tie.from_table, role=tie.role), ties),
        st.builds(lambda table: TypeColumn(table=table, column="amount", type="decimal", scale=2), tables),
        st.builds(lambda table, is_key: NameSomething(table=table, column="card_number", is_key=is_key), tables, st.booleans()),
        st.builds(lambda name, form: PutMeasure(measure=replace(model.measure(name), format=form)), measures, st.sampled_from(["0.0", "#,##0 'cr'"])),
    )  # fmt: skip


@settings(max_examples=12, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(data=st.data())
def test_whatever_is_done_the_text_says_it(data: st.DataObject, demo: SemanticModel) -> None:
    model = demo
    for _ in range(data.draw(st.integers(1, 4))):
        try:
            model = apply_to_model(model, data.draw(_gestures(demo)))
        except AppError:
            continue
    after = rewritten(MODEL_YAML, model)
    assert plain_model(read_model(after)) == plain_model(model)
    # Nothing that stays was written otherwise: what is new is little.
    assert len(changed_lines(MODEL_YAML, after)) < 250
