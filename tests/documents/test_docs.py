"""What the documentation shows is true: its example model, analysis and answer."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from typer.testing import CliRunner

from dastan.cli import app
from dastan.core.formula.columns import BANDS, PARTS_OF_TIMES, TEXT_FUNCTIONS, TYPES
from dastan.core.language.words import CLAUSES, FUNCTIONS, SCALARS
from dastan.sources.files.columns import Place
from dastan.sources.files.computed import work_out


def blocks(file: str, language: str) -> list[str]:
    return re.findall(rf"^```{language}\n(.*?)^```", Path(file).read_text(), re.DOTALL | re.MULTILINE)


def test_the_documented_example_gives_the_documented_answer(tmp_path: Path) -> None:
    sales, lines = blocks("docs/model.md", "csv")
    (tmp_path / "sales.csv").write_text(sales)
    (tmp_path / "lines.csv").write_text(lines)
    (tmp_path / "model.yaml").write_text(blocks("docs/model.md", "yaml")[0])
    (tmp_path / "analysis.json").write_text(blocks("docs/analysis.md", "json")[0])
    checked = CliRunner().invoke(app, ["check", str(tmp_path)])
    assert checked.stdout in Path("docs/model.md").read_text()
    answered = CliRunner().invoke(app, ["query", str(tmp_path), str(tmp_path / "analysis.json")])
    assert answered.stdout.replace("\r", "") == blocks("docs/analysis.md", "csv")[0]
    said = CliRunner().invoke(app, ["query", str(tmp_path), str(tmp_path / "analysis.json"), "--format", "json"])
    sentence = re.search(r'"sentence": "(.*)"', said.stdout)
    assert sentence
    assert sentence[1] in Path("docs/analysis.md").read_text().replace("\n", " ")


def test_every_worked_example_of_the_contract_is_what_the_engine_answers(tmp_path: Path) -> None:
    reader = CliRunner()
    sheets = blocks("docs/numbers.md", "csv")
    for name, text in zip(("taps", "lines", "incidents", "fleet"), sheets, strict=False):
        (tmp_path / f"{name}.csv").write_text(text)
    (tmp_path / "model.yaml").write_text(blocks("docs/numbers.md", "yaml")[0])
    asked = blocks("docs/numbers.md", "json")
    assert len(asked) == 19
    for analysis, expected in zip(asked, sheets[4:], strict=True):
        (tmp_path / "analysis.json").write_text(analysis)
        answered = reader.invoke(app, ["query", str(tmp_path), str(tmp_path / "analysis.json")])
        assert answered.stdout.replace("\r", "") == expected, analysis


def test_every_formula_gives_the_documented_values_and_every_word_is_explained(tmp_path: Path) -> None:
    reader, text = CliRunner(), Path("docs/formula.md").read_text()
    reader.invoke(app, ["demo", "--folder", str(tmp_path), "--only-data", "--journeys", "20000"])
    examples = re.findall(
        r"^```formula (.*)\n((?:.*\n)+?)```\n\nRead aloud: (.*)\n\n```csv\n((?:.*\n)+?)```", text, re.MULTILINE
    )
    assert len(examples) == text.count("```formula ") > 12
    for shown, formula, said, expected in examples:
        answered = reader.invoke(app, ["formula", str(tmp_path / "demo"), formula.strip(), "--shown", shown])
        assert answered.stdout.replace("\r", "") == expected, formula
        assert answered.stderr.strip() in said.replace(". Counted in ", " (").rstrip(".") + ")", formula
    plain = " ".join(text.split())
    for word in (*CLAUSES, *SCALARS):
        assert all(each in plain for each in word.text.split()), word.text
    for function in FUNCTIONS:
        assert f"`{function}`" in text or f"{function}(" in text, function


def test_every_screenshot_is_linked_from_the_readme() -> None:
    readme = Path("README.md").read_text()
    shots = sorted(Path("docs/screenshots").glob("*.png"))
    assert 0 < len(shots) < 20
    assert [each.name for each in shots if f"docs/screenshots/{each.name}" not in readme] == []


def test_every_documented_formula_of_columns_gives_what_is_said_of_it() -> None:
    text = Path("docs/columns.md").read_text()
    examples = re.findall(r"^\| `(.*?)` \|(.*)\|$", text, re.MULTILINE)
    assert len(examples) > 40
    for written, wanted in examples:
        formula = written.replace("\\|", "|")
        found = work_out(formula, Place("docs", formula, str), 1, lambda each: pytest.fail(each.name))
        value = found.to_pylist()[0]
        said = "" if value is None else str(value).lower() if isinstance(value, bool) else str(value)
        assert said == wanted.strip(), formula
    words = {*TEXT_FUNCTIONS, *BANDS, *PARTS_OF_TIMES, *TYPES, "date(", "extract", "at time zone", "like", "between"}
    assert [each for each in words if each not in text] == []
