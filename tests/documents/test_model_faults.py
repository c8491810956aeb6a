"""Every fault of a model document is named with its line, its place and what to do."""

from __future__ import annotations

import json
from datetime import date
from pathlib import Path

import pytest

from dastan.core.analysis.document import Analysis, PlacedDimension, PlacedMeasure, Question
from dastan.core.engine.answer import answer
from dastan.core.engine.waist import Rights
from dastan.core.errors import ModelError
from dastan.documents.read import read_model
from dastan.sources.folders.folder import open_folder
from tests.core.engine.test_oracle import cells
from tests.sources.folder import MODEL, write_folder


def faults(text: str) -> list[str]:
    with pytest.raises(ModelError) as caught:
        read_model(text)
    return [f"{each['place']}: {each['message']} {each['hint']}" for each in caught.value.details["faults"]]


@pytest.mark.parametrize(
    ("old", "new", "words"),
    [
        ("aggregate: count}", "aggregate: cuont}", '“cuont” is not possible here. Did you mean “count”'),
        ("table: sales, aggregate: count", "table: sale, aggregate: count", 'Table “sale” is not in the model. Did you mean “sales”?'),
        ("levels: [mode, line]", "levels: [modes, line]", 'Level “modes” is not an attribute of “Line”. Did you mean “mode”'),
        ("expression: quantity}", "expression: quantity *}", "The row formula `quantity *` cannot be read"),
        (", expression: quantity}", "}", '“Sold” does not say what to aggregate.'),
        ("name: sold", "name: Sold", '“Sold” cannot be a name.'),
        ("name: sold", "name: takings", 'The name “takings” is taken already.'),
        ('"#,##0.00"', '"0x.."', '“0x..” is not a number pattern.'),
        ("caption: Seller\n", "captoin: Seller\n", '“captoin” is not a field here.'),
        ("{calendar: {}}", "{}", 'Table “days” does not say where its rows come from.'),
        ("role: line}", "role: day}", 'Table “sales” has two relationships with the role “day”.'),
        ("{calendar: {}}", "{calendar: {financial_year_starts: 13}}", "A financial year starts in a month from 1 to 12."),
        ("aggregate: count}", "aggregate: percentile, expression: price, percentile: 101}", "does not say which percentile"),
        ("aggregate: count}", "aggregate: balance, expression: price, time: seler}", "does not say by which calendar"),
        ("aggregate: count}", "aggregate: ratio, numerator: sold, denominator: taking}", 'The denominator of “Sales” is not in the model.'),
        ("aggregate: count}", "aggregate: count, where: [{dimension: lyne, hierarchy: line, members: [[Tram]]}]}", 'Dimension “lyne” is not in the model'),
        ("aggregate: count}", "aggregate: count, where: [{dimension: line, hierarchy: line, members: []}]}", "names no member"),
        ("aggregate: count}", "aggregate: count, where: [{kind: kei, dimension: line, state: left_blank}]}", 'no condition of kind “kei”. Did you mean “key”?'),
        ("aggregate: count}", "aggregate: count, where: [{kind: key, dimension: line, state: blank}]}", 'Did you mean “left_blank”?'),
        ("aggregate: count}", "aggregate: count, where: [{kind: attribute, dimension: line, attribute: mode, operator: equal, values: [[x]]}]}", "['x'] cannot stand here."),
        ("aggregate: count}", "aggregate: count, where: [{kind: measure, measure: sold, at: [{dimension: line, hierarchy: line, level: line}], operator: more, values: [1]}]}", "cannot look at measures"),
        ("aggregate: count}", "aggregate: weighted_average, expression: price}", "A weight is missing."),
        ("aggregate: count}", "aggregate: last, expression: price}", "does not say by which calendar"),
        ("levels: [seller]", "levels: [seller], parent_child: {key: seller, parent: seller}", "no way down, or several"),
        ("levels: [seller]", "sets: [{name: a, caption: A, hierarchy: sellers, members: [[x]]}]", 'Set “A” is of no hierarchy'),
        ("condition: {dimension: seller", "condition: {dimension: seler", 'Dimension “seler” is not in the model. Did you mean “seller”?'),
        ("members: [[Tram]]}]}", "members: [[Tram]], prompt: x}]}", 'There is no question “x”.'),
        ("values: [{prompt: big_from}]", "values: []", "A comparison needs a value."),
        ("aggregate: count}", "aggregate: open, started: day, time: calendar}", "does not say when a record is open"),
        ("aggregate: count}", "aggregate: formula, formula: 'sold / takinks'}", 'There is no measure “takinks”. Did you mean “Takings”'),
        ("aggregate: count}", "aggregate: formula, formula: 'sold /'}", "The formula is not finished."),
        ("aggregate: count}", "aggregate: formula, formula: 'sold only \"Line\" = \"T1\"'}", 'Write "mode" › "line".'),
        ("aggregate: count}", "aggregate: formula, formula: 'sales + 1'}", "The definition goes in a circle: Sales → Sales."),
        ("aggregate: count}", "aggregate: formula}", 'has a `formula` where its aggregate is “formula”, and only there'),
        ("aggregate: count}", "aggregate: count, formula: 'sold'}", 'has a `formula` where its aggregate is “formula”, and only there'),
        ("aggregate: count}", "aggregate: count, roles: {calendar: night}}", 'no relationship to Calendar with the role “night”'),
    ],
)  # fmt: skip
def test_a_fault_is_named_with_its_line_and_what_to_do(old: str, new: str, words: str) -> None:
    text = MODEL.replace(old, new, 1)
    assert text != MODEL
    found = faults(text)
    assert any(words in each for each in found), found
    changed = next(
        line for line, (a, b) in enumerate(zip(MODEL.splitlines(), text.splitlines(), strict=False), 1) if a != b
    )
    first = next(each for each in found if words in each)
    line = int(first.split("line ")[1].split()[0].rstrip(":"))
    assert changed - 2 <= line <= changed + 1


def test_all_faults_are_told_at_once() -> None:
    text = MODEL.replace("levels: [mode, line]", "levels: [modes, line]").replace(
        "name: sales, caption", "name: takings, caption"
    )
    assert len(faults(text)) == 2


@pytest.mark.parametrize(
    ("text", "words"),
    [("", "holds no model"), ("dastan: model/2", "says `dastan: model/2`"), ("a: 1", "does not say which version")],
)
def test_what_is_no_model_is_refused(text: str, words: str) -> None:
    with pytest.raises(ModelError) as caught:
        read_model(text)
    assert words in str(caught.value)


def test_the_document_has_room_for_what_later_versions_compute() -> None:
    """Parent-child hierarchies and dimension tables that lead on to others are read, and not shown yet."""
    text = MODEL.replace(
        "      - {name: line, levels: [mode, line]}",
        "      - {name: line, levels: [mode, line]}\n      - {name: tree, parent_child: {key: line, parent: mode}}",
    ).replace(
        "relationships:\n",
        "relationships:\n  - {from_table: lines, from_column: mode, to_table: days, to_column: year, role: odd}\n",
    )
    model = read_model(text)
    assert model.dimension("line").hierarchy("tree").parent_child is not None


def test_the_demo_model_is_sound() -> None:
    demo = Path("dastan/demo/varrow_bay.yaml").read_text()
    assert len(read_model(demo).measures) == 28


def test_the_published_schemas_are_current_and_accept_the_demo() -> None:
    import jsonschema
    from ruamel.yaml import YAML

    from dastan.documents.schema import analysis_schema, model_schema

    for name, schema in (("model", model_schema()), ("analysis", analysis_schema())):
        assert json.loads(Path(f"docs/schema/{name}.schema.json").read_text()) == schema
    document = YAML(typ="safe", pure=True).load(Path("dastan/demo/varrow_bay.yaml"))
    jsonschema.validate(document, model_schema())


def test_a_model_says_a_formula_as_text_and_it_is_answered_like_any_measure(tmp_path: Path) -> None:
    """Trams sold 4 and ferries 2; 5 have no line that is known."""
    formula = 'sold / (sold only "Mode" = "Tram" everywhere)'
    text = MODEL.replace("aggregate: count}", f"aggregate: formula, formula: '{formula}'}}", 1)
    opened = open_folder(write_folder(tmp_path, model=text))
    placed = PlacedDimension(dimension="line", hierarchy="line", level="mode")
    asked = Question(measures=(PlacedMeasure(measure="sales"),), rows=(placed,))
    document = Analysis(model=opened.model.name, question=asked)
    found = cells(answer(document, opened.model, opened.source, Rights("tester"), date(2025, 6, 1)))
    assert {row[0][1][0] if row else "all": value for (row, _, _), value in found.items()} == {
        "Tram": 1.0, "Ferry": 0.5, None: 1.25, "all": 2.75,
    }  # fmt: skip
