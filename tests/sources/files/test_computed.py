"""Columns worked out from others: by hand, and against SQLite, which reads the same standard SQL."""

from __future__ import annotations

import random
import sqlite3
from contextlib import suppress
from datetime import date
from decimal import Decimal
from pathlib import Path

import pyarrow as pa
import pytest

from dastan.core.analysis.document import Analysis, PlacedMeasure, Question
from dastan.core.engine.answer import answer
from dastan.core.engine.waist import RecordsRequest, Rights
from dastan.core.errors import ModelError, SourceError
from dastan.core.formula.columns import ColumnOf
from dastan.core.model.reach import Grain
from dastan.sources.files.columns import Place
from dastan.sources.files.computed import work_out
from dastan.sources.folders.folder import open_folder
from tests.sources.folder import MODEL, write_folder

COLUMNS = {
    "n": pa.array([3, -2, None, 10, 0], pa.int64()),
    "price": pa.array([Decimal("1.25"), Decimal("0.10"), Decimal("-2.50"), None, Decimal("9.99")], pa.decimal128(38, 2)),
    "share": pa.array([0.5, None, 2.0, -1.5, 0.0]),
    "name": pa.array(["Harbour Loop", " pier ", None, "Ålesund-7", ""]),
    "code": pa.array(["a-12-x", "b", "c-3", None, "--9"]).dictionary_encode(),
    "day": pa.array([date(2024, 2, 29), date(2025, 1, 1), None, date(2023, 12, 31), date(2024, 7, 4)]),
    "until": pa.array([date(2024, 3, 1), None, date(2024, 1, 1), date(2024, 1, 1), date(2024, 7, 4)]),
    "stamp": pa.array(["2024-03-31T00:30:00Z", "2024-07-01 23:15:00+02:00", "nonsense", None, "2024-12-31T23:59:59"]),
    "ok": pa.array([True, False, None, True, False]),
}  # fmt: skip


def worked(text: str) -> list[object]:
    def column(wanted: ColumnOf) -> tuple[pa.ChunkedArray, Place]:
        if wanted.name not in COLUMNS:
            raise SourceError(f"no {wanted.name}")
        return pa.chunked_array([COLUMNS[wanted.name]]), Place("t", wanted.name, lambda row: f"record {row + 1}")

    return work_out(text, Place("t", "made", str), 5, column).to_pylist()


@pytest.mark.parametrize(
    ("text", "values"),
    [
        ("n * 2 + 1", [7, -3, 1, 21, 1]),  # what is empty is skipped in +, as in every formula
        ("n * price", [Decimal("3.75"), Decimal("-0.20"), None, None, Decimal("0.00")]),
        ("price / n", [pytest.approx(1.25 / 3), pytest.approx(-0.05), None, None, None]),
        ("case when n > 2 then 'many' when n is null then 'unknown' else 'few' end", ["many", "few", "unknown", "many", "few"]),
        ("case when n > 5 then price end", [None, None, None, None, None]),
        ("case when n < 5 then price else 0.5 end", [Decimal("1.25"), Decimal("0.10"), Decimal("0.50"), Decimal("0.50"), Decimal("9.99")]),
        ("name || '/' || code", ["Harbour Loop/a-12-x", " pier /b", None, None, "/--9"]),
        ("upper(trim(name))", ["HARBOUR LOOP", "PIER", None, "ÅLESUND-7", ""]),
        ("char_length(name)", [12, 6, None, 9, 0]),
        ("substring(name, 9, 4)", ["Loop", "", None, "7", ""]),
        ("substring(name, 9)", ["Loop", "", None, "7", ""]),
        ("replace(code, '-', '+')", ["a+12+x", "b", "c+3", None, "++9"]),
        ("part(code, '-', 2)", ["12", None, "3", None, ""]),
        ("cast(part(code, '-', 2) as integer)", [12, None, 3, None, None]),
        ("cast(part(code, '-', 3) as integer)", [None, None, None, None, 9]),
        ("code like '%-%'", [True, False, True, None, True]),
        ("code not like 'a%'", [False, True, True, None, True]),
        ("n in (3, 10) or ok", [True, False, None, True, False]),
        ("not (n between 0 and 5)", [False, True, None, True, False]),
        ("extract(quarter from day)", [1, 1, None, 4, 3]),
        ("extract(week from day)", [9, 1, None, 52, 27]),
        ("extract(weekday from day)", [4, 3, None, 7, 4]),
        ("day + 1", [date(2024, 3, 1), date(2025, 1, 2), None, date(2024, 1, 1), date(2024, 7, 5)]),
        ("until - day", [1, None, None, 1, 0]),
        ("least(day, until)", [date(2024, 2, 29), None, None, date(2023, 12, 31), date(2024, 7, 4)]),
        ("coalesce(until, day)", [date(2024, 3, 1), date(2025, 1, 1), date(2024, 1, 1), date(2024, 1, 1), date(2024, 7, 4)]),
        ("nullif(day, until)", [date(2024, 2, 29), date(2025, 1, 1), None, date(2023, 12, 31), None]),
        ("day = date '2024-07-04'", [False, False, None, False, True]),
        ("date(2024, n, 1)", [date(2024, 3, 1), None, None, date(2024, 10, 1), None]),
        ("date(2023, 2, 29)", [None] * 5),
        ("cast('31.01.2025' as date)", [None] * 5),
        ("cast(substring(stamp, 1, 10) as date)", [date(2024, 3, 31), date(2024, 7, 1), None, None, date(2024, 12, 31)]),
        ("extract(hour from cast(stamp as timestamp))", [0, 21, None, None, 23]),
        # On that night clocks went from 1:00 UTC to summer time; in July they are two hours ahead.
        ("cast(cast(stamp as timestamp) at time zone 'Europe/Berlin' as text)",
         ["2024-03-31 01:30:00", "2024-07-01 23:15:00", None, None, "2025-01-01 00:59:59"]),
        ("cast(cast(stamp as timestamp) at time zone 'Europe/Berlin' as date)",
         [date(2024, 3, 31), date(2024, 7, 1), None, None, date(2025, 1, 1)]),
        ("band(n, 0, 5)", ["0 to 5", "under 0", None, "5 and over", "0 to 5"]),
        ("band_number(n, 0, 5)", [2, 1, None, 3, 2]),
        ("band(price, 0.5, 2)", ["0.5 to 2", "under 0.5", "under 0.5", None, "2 and over"]),
        ("cast(price as text) || ' cr'", ["1.25 cr", "0.10 cr", "-2.50 cr", None, "9.99 cr"]),
        ("cast(ok as text)", ["true", "false", None, "true", "false"]),
        ("cast(share as integer)", [0, None, 2, -1, 0]),
        ("round(price, 1) -- to a tenth", [Decimal("1.3"), Decimal("0.1"), Decimal("-2.5"), None, Decimal("10.0")]),
        ('"n" + -1', [2, -3, -1, 9, -1]),
        ("case when ok then null else n end", [None, -2, None, None, 0]),
    ],
)  # fmt: skip
def test_a_formula_gives_each_record_its_value(text: str, values: list[object]) -> None:
    assert worked(text) == values


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("n + name", "Column “made” of table “t”: This is a text, where a number is wanted. (Character 5.)"),
        ("n || 'x'", "This is a number, where a text is wanted. (Character 1.)"),
        ("case when n then 1 end", "This is a number, where true or false is wanted. (Character 11.)"),
        ("coalesce(n, name)", "A number and a text stand where one kind is wanted. (Character 1.)"),
        ("extract(hour from day)", "There is no hour in a day. (Character 1.)"),
        ("cast(n as date)", "A number cannot be made a date. (Character 1.)"),
        ("band(n, 5, 1)", "The limits of bands do not rise. (Character 1.)"),
        ("band(n, n)", "The limits of bands are written out. (Character 9.)"),
        ("substring(name, n)", "What substring cuts by is written out. (Character 17.)"),
        ("part(name, '-', 0)", "This is a whole number from 1 on. (Character 17.)"),
        ("upper(name, code)", "upper takes 1 values, not 2. (Character 1.)"),
        ("upper(", "The formula ends too soon."),
        ("n @ 2", "“@” is not expected here. (Character 3.)"),
        ("uper(name)", "There is no function uper."),
        ("stamp at time zone 'Europe/Berlim'", "There is no time zone “Europe/Berlim”."),
        ("date '2024-13-01'", "“2024-13-01” is not a date."),
        ("n * 9000000000000000000", "A number has at most 18 digits."),
        ("n * 900000000000000000 * 100", "64 bits"),
    ],
)  # fmt: skip
def test_what_makes_no_sense_is_told_with_its_place(text: str, says: str) -> None:
    with pytest.raises(SourceError) as error:
        worked(text)
    assert says in str(error.value) or "18 digits" in str(error.value)


# SQLite reads the same standard SQL for what follows, and adds blanks as we do once they are coalesced.
PARTS = ["n", "m", "coalesce(n, 0)", "abs(m)", "7", "nullif(n, m)"]
TRUTHS = ["n > m", "n is null", "m between 1 and 4", "n in (1, 2, 3)", "s like 'a%'", "s = t", "not (n <> 2)", "s || t = 'ab'"]  # fmt: skip
TEXTS = ["s", "t", "upper(s)", "s || t", "coalesce(s, 'x')", "trim(t)", "replace(s, 'a', 'b')", "substring(t, 1, 2)"]


def random_formula(draw: random.Random, kind: str, depth: int) -> str:
    own = {"number": PARTS, "truth": TRUTHS, "text": TEXTS}[kind]
    if depth == 0 or draw.random() < 0.25:
        return draw.choice(own)

    def inner(wanted: str) -> str:
        return random_formula(draw, wanted, depth - 1)

    if draw.random() < 0.4:
        otherwise = f" else {inner(kind)}" if draw.random() < 0.7 else ""
        return f"case when {inner('truth')} then {inner(kind)} when {inner('truth')} then {inner(kind)}{otherwise} end"
    if kind == "number":
        operator = draw.choice(["+", "-", "*"])
        left, right = (f"coalesce({inner('number')}, 1)" for _ in range(2))
        return draw.choice([f"({left} {operator} {right})", f"coalesce({inner(kind)}, {inner(kind)})"])
    if kind == "text":
        return draw.choice([f"({inner(kind)} || {inner(kind)})", f"coalesce({inner(kind)}, {inner(kind)})"])
    joined = draw.choice(["and", "or"])
    return draw.choice([f"({inner(kind)} {joined} {inner(kind)})", f"(not {inner(kind)})", f"({inner('number')} <= {inner('number')})"])  # fmt: skip


@pytest.mark.parametrize("seed", range(4))
def test_random_formulas_are_what_sqlite_makes_of_them(seed: int) -> None:
    draw = random.Random(seed)
    rows = [
        (
            *(draw.choice([None, 0, 1, 2, 3, 5, -4]) for _ in range(2)),
            *(draw.choice([None, "", "a", "ab", " Bc ", "b"]) for _ in range(2)),
        )
        for _ in range(40)
    ]
    connection = sqlite3.connect(":memory:")
    connection.execute("PRAGMA case_sensitive_like = on")
    connection.execute("CREATE TABLE r (n, m, s, t)")
    connection.executemany("INSERT INTO r VALUES (?, ?, ?, ?)", rows)
    kinds = {"n": pa.int64(), "m": pa.int64(), "s": pa.string(), "t": pa.string()}
    columns = {
        name: pa.chunked_array([pa.array([row[at] for row in rows], kind)])
        for at, (name, kind) in enumerate(kinds.items())
    }
    for _ in range(150):
        kind = draw.choice(["number", "text", "truth"])
        text = random_formula(draw, kind, 3)
        found = work_out(
            text, Place("r", "made", str), 40, lambda each: (columns[each.name], Place("r", each.name, str))
        )
        wanted = [value for (value,) in connection.execute(f"SELECT {text} FROM r ORDER BY rowid")]
        got = [int(each) if isinstance(each, bool) else each for each in found.to_pylist()]
        assert got == wanted, text


WITH_COLUMNS = MODEL.replace(
    "sales: {file: sales.csv}",
    """sales:
    file: sales.csv
    columns:
      mode_of_line: {formula: "upper(mode of lines)"}
      size: {formula: "case when quantity >= 3 then 'large' else 'small' end"}
      big: {formula: "size = 'large' and mode_of_line = 'TRAM'"}
      half: {formula: "quantity * price / 2", type: decimal, scale: 3}""",
).replace(
    "measures:",
    """  - name: size
    caption: Size
    table: sales
    attributes:
      - {name: size, caption: Size, key: size}
      - {name: carried, caption: Carried by, key: mode_of_line}
    hierarchies:
      - {name: size, levels: [carried, size]}
measures:
  - {name: halves, caption: Halves, table: sales, aggregate: sum, expression: half, format: "#,##0.000"}""",
)


def test_moments_are_read_as_people_write_them_and_one_wrong_text_spoils_nothing() -> None:
    texts = [
        "2024-03-31T08:15", "2024-03-31 08:15:30.123456789", "2024-03-31T08:15:30+0200", "2024-02-30T08:15:00",
        "2024-13-01T08:15:00Z", "2024-03-31T24:00:00", "2024-03-31T08:15:30 or so", "",
    ]  # fmt: skip
    values = pa.chunked_array([pa.array(texts)])
    found = work_out(
        "cast(cast(s as timestamp) as text)", Place("t", "x", str), 8, lambda _: (values, Place("t", "s", str))
    )
    assert found.to_pylist() == [
        "2024-03-31 08:15:00", "2024-03-31 08:15:30", "2024-03-31 06:15:30", None, None, None, None, None,
    ]  # fmt: skip


def test_a_column_that_nothing_uses_is_looked_at_as_well(tmp_path: Path) -> None:
    model = MODEL.replace("{file: sales.csv}", "{file: sales.csv, columns: {odd: {formula: \"quantity || 'x'\"}}}")
    with pytest.raises(ModelError) as error:
        open_folder(write_folder(tmp_path, model=model))
    assert error.value.details["faults"][0]["place"] == "tables.sales.columns.odd.formula"


def test_a_model_s_columns_are_dimensions_and_measures_like_those_of_files(tmp_path: Path) -> None:
    opened = open_folder(write_folder(tmp_path, model=WITH_COLUMNS))
    sales = opened.source.tables["sales"]
    assert sales.column("mode_of_line").to_pylist() == ["TRAM", "TRAM", "FERRY", "FERRY", None, None]
    assert sales.column("size").to_pylist() == ["large", "small", "small", "small", "small", "large"]
    assert sales.column("big").to_pylist() == [True, False, False, False, False, None]
    found = opened.source.members("size", "size")
    assert list(found.levels[0].captions)[:2] == ["FERRY", "TRAM"]


def test_the_records_tell_the_time_of_a_moment(tmp_path: Path) -> None:
    moment = """moment: {formula: "cast(seller || '' as timestamp)"}
      at_noon: {formula: "cast(cast(day as text) || ' 12:30:00' as timestamp)"}
      big:"""
    opened = open_folder(write_folder(tmp_path, model=WITH_COLUMNS.replace("big:", moment)))
    page = opened.source.records(RecordsRequest(Grain("sales"), (), Rights("x"), columns=("day", "moment", "at_noon")))
    assert page.rows[0][:3] == ("2024-01-05", None, "2024-01-05 12:30:00")


@pytest.mark.parametrize(
    ("formula", "says"),
    [
        ("a circle of it", "not expected here"),
        ("size || 'x'", "is worked out from itself: size → size"),
        ("mode of depots", "Table “sales” leads to no “depots”"),
        ("nowhere || 'x'", "Column “nowhere” is not in table “sales”"),
        ("quantity || 'x'", "This is a number, where a text is wanted."),
    ],
)
def test_a_column_that_cannot_be_worked_out_is_a_fault_of_its_model(tmp_path: Path, formula: str, says: str) -> None:
    model = WITH_COLUMNS.replace("case when quantity >= 3 then 'large' else 'small' end", formula)
    with pytest.raises((ModelError, SourceError)) as error:
        open_folder(write_folder(tmp_path, model=model))
    assert says in str(error.value) + str(error.value.details)


def test_columns_of_two_tables_in_a_circle_say_so(tmp_path: Path) -> None:
    model = WITH_COLUMNS.replace(
        "lines: {file: lines.csv}",
        'lines: {file: lines.csv, columns: {back: {formula: "forth of there"}}}\n'
        '  depots: {file: depots.csv, columns: {forth: {formula: "back of here"}}}',
    ).replace("upper(mode of lines)", "back of lines")
    further = "  - {from_table: lines, from_column: mode, to_table: depots, to_column: mode, role: there}\n"
    further += "  - {from_table: depots, from_column: line, to_table: lines, to_column: line, role: here}\ndimensions:"
    model = model.replace("dimensions:", further, 1)
    (tmp_path / "depots.csv").write_text("mode,line\nTram,T1\nFerry,F1\n")
    with pytest.raises((ModelError, SourceError)) as error:
        open_folder(write_folder(tmp_path, model=model))
    assert "worked out from itself" in str(error.value) + str(error.value.details)


def test_nothing_said_of_a_column_is_a_fault(tmp_path: Path) -> None:
    model = MODEL.replace("sales: {file: sales.csv}", "sales: {file: sales.csv, columns: {quantity: {}}}")
    with pytest.raises(ModelError) as error:
        open_folder(write_folder(tmp_path, model=model))
    assert "Nothing is said of column “quantity”" in str(error.value.details)


def test_a_measure_is_of_a_formula_over_the_columns_of_its_records(tmp_path: Path) -> None:
    further = """measures:
  - {name: of_trams, caption: Of trams, table: sales, aggregate: sum, expression: "case when mode of lines = 'Tram' then quantity * price end"}
  - {name: dear, caption: Dear, table: sales, aggregate: sum, expression: price >= 1}"""
    opened = open_folder(write_folder(tmp_path, model=WITH_COLUMNS.replace("measures:", further, 1)))
    document = Analysis(
        model="tickets",
        question=Question(measures=tuple(PlacedMeasure(measure=each) for each in ("of_trams", "dear", "takings"))),
    )
    result = answer(document, opened.model, opened.source, Rights("x"), date(2025, 3, 1))
    # 3 × 1.25 + 1 × 0.10 by trams; three tickets cost a crown or more.
    assert [each.at(0) for each in result.values] == [Decimal("3.85"), 3, Decimal("31.03")]


def test_a_measure_s_formula_that_goes_wrong_says_where(tmp_path: Path) -> None:
    for expression, says in (
        ("case when price then 1 end", "true or false is wanted"),
        ("quantity * case when end", "ends too soon"),
        ("upper(seller)", "is not all numbers"),
    ):
        model = MODEL.replace("expression: quantity * price", f"expression: '{expression}'")
        with pytest.raises((ModelError, SourceError)) as error:
            open_folder(write_folder(tmp_path, model=model))
        assert says in str(error.value) + str(error.value.details), expression


def test_whatever_is_written_is_read_or_refused_in_words() -> None:
    draw = random.Random(7)
    pieces = [*"n+-*/()',\"@ ", "case", " when ", " then ", " end", "not ", " in ", " like ", "'x'", "price", "date", "extract(", " from ", "cast(", " as text)", " of ", "1", "null", "--", "/*", " at time zone "]  # fmt: skip
    for _ in range(1_500):
        text = "".join(draw.choices(pieces, k=draw.randint(1, 25)))
        with suppress(SourceError):
            worked(text)
    for deep in ("(" * 1_900 + "n" + ")" * 1_900, "-" * 3_900 + "n", "not " * 900 + "ok", "n" + " + n" * 900):
        with suppress(SourceError):
            worked(deep)
