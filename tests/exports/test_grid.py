"""A crosstab as plain text: all that has figures, however it is cut into blocks, and never without a limit."""

from __future__ import annotations

import csv
import io
import json

import pytest

from dastan.core.analysis.document import Opening
from dastan.core.engine.answer import Answer
from dastan.core.errors import LimitError
from dastan.exports import grid
from dastan.exports.csv import write_csv
from dastan.exports.json import json_texts
from tests.core.asked import ask, by, question


def crosstab() -> Answer:
    """Lines in their modes, of which bus has one line that says all that it does; by family of fare."""
    opening = Opening(dimension="line", hierarchy="line", levels=("mode", "team"))
    return ask(
        question(
            "revenue", "boardings", rows=(by("line", "mode"),), columns=(by("fare", "family"),), openings=(opening,),
            totals_of_one="hidden",
        )
    )  # fmt: skip


def as_json(answer: Answer) -> dict:
    return json.loads(b"".join(json_texts(answer, "Revenue", ["seen"])))


def as_csv(answer: Answer) -> list[list[str]]:
    file = io.StringIO(newline="")
    write_csv(answer, file)
    return list(csv.reader(io.StringIO(file.getvalue())))


def test_a_total_that_would_repeat_its_only_child_is_left_out_and_never_empty() -> None:
    found = as_json(crosstab())
    assert (found["sentence"], found["warnings"]) == ("Revenue", ["seen"])
    rows = {
        tuple(each["path"][-1] for each in row): values
        for row, values in zip(found["rows"], found["values"], strict=True)
    }
    assert ("bus",) not in rows
    columns = [[each["path"][-1] for each in column] for column in found["columns"]]
    assert columns == [["a"], ["b"], []]
    # Line 3 is the one bus: 10.00 by fare b, in one record of four people.
    assert next(values for path, values in rows.items() if path[-1] == "L3") == [
        [None, None],
        ["10.00", 4],
        ["10.00", 4],
    ]
    assert rows[()] == [["7.50", 3], ["11.25", 5], ["18.75", 8]]


def test_csv_and_json_say_the_same_in_blocks_of_any_size(monkeypatch: pytest.MonkeyPatch) -> None:
    whole, text = as_json(crosstab()), as_csv(crosstab())
    flat = [["" if each is None else str(each) for pair in row for each in pair] for row in whole["values"]]
    assert [row[-6:] for row in text[1:]] == flat
    monkeypatch.setattr(grid, "_BLOCK_VALUES", 1)
    assert (as_json(crosstab()), as_csv(crosstab())) == (whole, text)


def test_one_that_would_be_mostly_empty_and_endless_is_refused_before_anything_is_written(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setattr(grid, "MOST_VALUES", 20)
    file = io.StringIO()
    with pytest.raises(LimitError, match=r"and 3 columns would be \d+ numbers, most of them empty") as error:
        write_csv(crosstab(), file)
    assert "--format numbers" in error.value.hint
    assert file.getvalue() == ""
    with pytest.raises(LimitError):
        next(json_texts(crosstab(), ""))
