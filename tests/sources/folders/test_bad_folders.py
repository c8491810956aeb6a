"""Whatever is wrong with a folder is said with its file, its place and what to do."""

from __future__ import annotations

import os
from decimal import Decimal
from pathlib import Path

import pyarrow as pa
import pyarrow.parquet as pq
import pytest

from dastan.core.errors import AppError, ModelError, SourceError
from dastan.sources.folders.folder import open_folder
from tests.sources.folder import LINES, MODEL, SALES, write_folder


def message(folder: Path) -> str:
    """All that is said when the folder is opened."""
    with pytest.raises(AppError) as caught:
        open_folder(folder)
    error = caught.value
    faults = [f"{each['place']}: {each['message']} {each['hint']}" for each in error.details.get("faults", ())]
    return "\n".join([str(error), *faults])


@pytest.mark.parametrize(
    ("sales", "words"),
    [
        (SALES + "2025-03-03,T1,Kiosk,1\n", "sales.csv, line 8: 4 values where the header has 5 columns."),
        (SALES.replace("Boat,2", '"Boat,2'), "sales.csv, line 4: a quote opens there and never closes."),
        ("Sales of tickets\n" + SALES, "If the column names are on line 2, say so at the table: `header: 2`."),
        (SALES + "Total,11\n\n", "sales.csv, line 8: 2 values where the header has 5 columns."),
        (SALES + "Total,11\n\n", "If it is no record, such as a total, say so at the table: `footer: 1`."),
        (SALES.replace(",", ";"), 'sales.csv, line 1: the column names are parted by ";", not by “,”.'),
        (SALES.replace("Kiosk,3", "Kiosk,n/a"), 'say so at the table in the model: `blanks: ["n/a"]`.'),
        (SALES.replace("2024-01-05", "2024-01-05T23:30:00Z"), "holds times with a zone, such as 2024-01-05T23:30:00Z"),
        (SALES.replace("Boat,2", 'Boat 5" wide,2'), "sales.csv, line 4: a quote stands inside of a value."),
        (SALES.replace("Boat,2", '"Boat"s,2'), "sales.csv, line 4: text follows the quote that closes a value"),
        # Two that are odd but make a pair, over a line's end.
        (SALES.replace("Boat", '"Boat'), "sales.csv, line 5: text follows the quote that closes a value"),
        (SALES.encode().replace(b"Boat,2", b"B\xf6at,2"), "sales.csv, line 4: the text is not utf-8 (byte 0xf6)."),
        ("", "sales.csv is empty."),
        ("\n \n", "sales.csv is empty."),
        (SALES.replace("Kiosk,1,5.00", "Kiosk,one,5.00"), 'sales.csv, line 6 has “one”'),
        (SALES.replace("price", "cost"), 'Column “price” is not in table “sales”.'),
        (SALES.replace("2024-02-05", "5 Feb 2024"), 'does not hold dates: sales.csv, line 3 has “5 Feb 2024”.'),
        (SALES.replace("2025-02-07", "2025-02-30"), 'does not hold dates: sales.csv, line 5 has “2025-02-30”.'),
    ],
    ids=["ragged", "open quote", "title", "short", "total", "semicolon", "words", "zone", "inside", "after", "paired", "encoding", "empty", "blank", "mixed types", "vanished", "date", "no such day"],
)  # fmt: skip
def test_a_broken_csv_is_named_with_its_line(tmp_path: Path, sales: str | bytes, words: str) -> None:
    assert words in message(write_folder(tmp_path, sales=sales))


def test_an_encoding_named_in_the_model_is_used(tmp_path: Path) -> None:
    model = MODEL.replace("{file: sales.csv}", "{file: sales.csv, encoding: cp1252}")
    folder = write_folder(tmp_path, model=model, sales=SALES.encode().replace(b"Boat", b"B\xf6at"))
    members = open_folder(folder).source.members("seller", "seller")
    assert members.levels[0].captions == ("Böat", "Kiosk", "without a seller")


def test_a_declared_type_that_does_not_fit_names_the_value(tmp_path: Path) -> None:
    declared = "{file: sales.csv, columns: {quantity: {type: integer}}}"
    model = MODEL.replace("{file: sales.csv}", declared)
    folder = write_folder(tmp_path, model=model, sales=SALES.replace("Kiosk,1,0.10", "Kiosk,1.5,0.10"))
    assert "sales.csv, line 3: “1.5” in column “quantity” is not a whole number." in message(folder)


def test_a_line_number_counts_line_breaks_inside_quotes(tmp_path: Path) -> None:
    sales = SALES.replace("T1,Kiosk,3", '"T1","Kiosk\nat the quay",3').replace("Kiosk,4", "Kiosk,four")
    assert "sales.csv, line 8 has “four”" in message(write_folder(tmp_path, sales=sales))


def test_a_parquet_file_cut_short_is_named(tmp_path: Path) -> None:
    folder = write_folder(tmp_path, model=MODEL.replace("lines.csv", "lines.parquet"))
    pq.write_table(pa.table({"line": ["T1"], "name": ["Shore"], "mode": ["Tram"]}), folder / "lines.parquet")
    open_folder(folder)
    whole = (folder / "lines.parquet").read_bytes()
    (folder / "lines.parquet").write_bytes(whole[: len(whole) // 2])
    assert "lines.parquet is cut short or is not a Parquet file." in message(folder)


def test_a_table_that_vanished_is_named_with_what_there_is(tmp_path: Path) -> None:
    folder = write_folder(tmp_path)
    (folder / "lines.csv").rename(folder / "line.csv")
    said = message(folder)
    assert "Table “lines”: there is no file “lines.csv”" in said
    assert "Did you mean “line.csv”" in said


def test_a_file_outside_the_folder_is_refused(tmp_path: Path) -> None:
    assert "lies outside the folder" in message(
        write_folder(tmp_path, model=MODEL.replace("lines.csv", "../lines.csv"))
    )


def test_a_folder_without_a_model_says_what_is_needed(tmp_path: Path) -> None:
    assert "holds no model.yaml" in message(tmp_path)


def test_a_duplicate_key_on_the_one_side_shows_the_duplicates(tmp_path: Path) -> None:
    folder = write_folder(tmp_path, lines=LINES + "T1,Shore tram again,Tram\n")
    said = message(folder)
    assert "Key “T1” stands in 2 rows of “lines”" in said
    assert "relationships[1].to_column" in said


def test_records_that_match_nothing_are_counted_and_reported(tmp_path: Path) -> None:
    notes = open_folder(write_folder(tmp_path)).notes
    assert [str(each) for each in notes] == [
        "sales: 1 of 6 records have no line and 1 have one that is not in lines (such as X9)"
    ]


def noticed(tmp_path: Path, **changed: str | bytes) -> list[str]:
    return [str(each) for each in open_folder(write_folder(tmp_path, **changed)).notes]


def test_a_measure_that_is_a_year_and_written_as_an_amount_is_noticed(tmp_path: Path) -> None:
    sales = SALES.replace("quantity", "year", 1)
    own = MODEL.replace("expression: quantity * price", "expression: year * price")
    newest = "  - {name: newest, caption: Newest, table: sales, aggregate: max, expression: year}\n"
    for at_end, is_told in (("", True), (', format: "0"', False)):
        model = own.replace("aggregate: sum, expression: quantity}", "aggregate: sum, expression: year}").replace(
            "filters:\n", newest.replace("}", at_end + "}") + "filters:\n"
        )
        found = [each for each in noticed(tmp_path, sales=sales, model=model) if "year" in each]
        assert [each.startswith("“Newest” is a year by its column") for each in found] == [True] * is_told


def test_what_was_passed_over_or_may_be_meant_otherwise_is_noticed(tmp_path: Path) -> None:
    plain = noticed(tmp_path)
    blank = SALES.replace("2024-02-07", ",,,,\n\n2024-02-07") + ",,,,\n"
    assert [*plain, "sales.csv: 2 lines that hold nothing were passed over"] == noticed(tmp_path, sales=blank)
    # Whatever was passed over, a fault is found on its line.
    assert "sales.csv, line 9 has “four”" in message(
        write_folder(tmp_path, sales=blank.replace("Kiosk,4", "Kiosk,four"))
    )
    thousands = noticed(tmp_path, sales=SALES.replace("1.25", "1.250").replace("0.10", "0.1"))
    assert thousands == plain  # these are fractions
    dotted = "".join(
        f"{line.rsplit(',', 1)[0]},1.{at}00\n" if at else f"{line}\n" for at, line in enumerate(SALES.split())
    )
    assert (
        "sales: column price has three digits after each point, and was read as fractions"
        in noticed(tmp_path, sales=dotted)[1]
    )
    swallowed = SALES.replace("Boat,2", '"Boat,2').replace("Boat,,", 'Boat",,')
    assert "sales.csv, line 4: a quoted value goes on over the line’s end" in noticed(tmp_path, sales=swallowed)[1]


def test_what_is_said_of_a_column_that_is_not_there_is_a_fault(tmp_path: Path) -> None:
    model = MODEL.replace("{file: sales.csv}", "{file: sales.csv, columns: {quantty: {type: integer}}}")
    said = message(write_folder(tmp_path, model=model))
    assert "tables.sales.columns.quantty: Column “quantty” is not in table “sales”. Did you mean “quantity”?" in said


def test_lines_at_the_end_that_are_said_to_be_no_records_are_left_out(tmp_path: Path) -> None:
    model = MODEL.replace("{file: sales.csv}", "{file: sales.csv, footer: 2}")
    plain = open_folder(write_folder(tmp_path)).source.tables["sales"]
    found = open_folder(write_folder(tmp_path, model=model, sales=SALES + "Total,11\n\n12 March 2025\n \n"))
    assert found.source.tables["sales"].row_count == plain.row_count == 6
    assert found.source.tables["sales"].column("quantity").equals(plain.column("quantity"))
    nothing = MODEL.replace("{file: sales.csv}", "{file: sales.csv, footer: 20}")
    assert "sales.csv: `footer: 20` leaves nothing of it." in message(write_folder(tmp_path, model=nothing))
    assert "counted from 0" in message(write_folder(tmp_path, model=model.replace("footer: 2", "footer: -1")))


def test_a_total_at_the_end_and_keys_that_are_only_written_otherwise_are_noticed(tmp_path: Path) -> None:
    assert noticed(tmp_path, sales=SALES + ",,,11,\n")[-1:] == [
        "sales: the last record has in quantity the sum of all others; if it is a total, leave it out, for it counts twice: "
        "`footer: 1` at the table"
    ]
    folded = noticed(tmp_path, sales=SALES.replace("F1", "f1 "))
    assert folded == [
        "sales: 1 of 6 records have no line and 3 have one that is not in lines (such as “f1 ”, where that has “F1”, X9)"
    ]


def test_utf8_that_is_declared_otherwise_is_refused(tmp_path: Path) -> None:
    model = MODEL.replace("{file: sales.csv}", "{file: sales.csv, encoding: latin-1}")
    assert "sales.csv is UTF-8, and is declared latin-1" in message(
        write_folder(tmp_path, model=model, sales=SALES.replace("Boat", "Böat"))
    )


def test_other_contents_of_the_same_length_and_time_are_another_folder(tmp_path: Path) -> None:
    folder = write_folder(tmp_path)
    before = open_folder(folder)
    assert before.is_current()
    times = (folder / "sales.csv").stat()
    (folder / "sales.csv").write_text(SALES.replace("Kiosk,3", "Kiosk,5"))
    os.utime(folder / "sales.csv", ns=(times.st_atime_ns, times.st_mtime_ns))
    assert not before.is_current()
    assert open_folder(folder).version != before.version


def test_long_numbers_and_codes_stay_apart_as_keys_and_are_refused_as_numbers(tmp_path: Path) -> None:
    long = {"T1": "1234567890123456781", "F1": "1234567890123456782", "T2": "1234567890123456783"}
    files = {"sales": SALES, "lines": LINES}
    for key, number in long.items():
        files = {name: text.replace(key, number) for name, text in files.items()}
    opened = open_folder(write_folder(tmp_path, **files))
    assert opened.source.members("line", "line").levels[1].captions == (
        "Island ferry",
        "Shore tram",
        "Hill tram",
        "without a line",
    )
    assert str(opened.notes[0]).startswith("sales: 1 of 6 records have no line and 1 have one that is not in lines")
    said = message(write_folder(tmp_path, sales=SALES.replace("1.25", "0.1")))
    assert "Column “price” of table “sales” is kept as text" in said
    assert "{price: {type: decimal}}" in said


def test_a_calendar_spans_whole_years_of_the_dates_that_point_at_it(tmp_path: Path) -> None:
    source = open_folder(write_folder(tmp_path)).source
    assert source.tables["days"].row_count == 366 + 365
    assert source.members("calendar", "calendar").levels[1].captions[:2] == ("Jan 2024", "Feb 2024")


def test_text_that_is_not_yaml_is_named_with_its_line(tmp_path: Path) -> None:
    with pytest.raises(ModelError) as caught:
        open_folder(write_folder(tmp_path, model=MODEL.replace("caption: Tickets sold", "caption: [Tickets")))
    assert "model.yaml, line" in caught.value.message


def test_a_model_that_is_not_text_is_refused(tmp_path: Path) -> None:
    with pytest.raises(SourceError, match=r"model.yaml is not UTF-8 text"):
        open_folder(write_folder(tmp_path, model=b"\xff\xfe\x00"))


@pytest.mark.parametrize(
    ("page", "words"),
    [
        ("javascript:alert(1)", "“javascript:alert(1)” is no address of a page."),
        ("https://desk.example/{sale", "The braces of “https://desk.example/{sale” do not name columns."),
        ("https://desk.example/{sale.id}", "The braces of “https://desk.example/{sale.id}” do not name columns."),
        ("https://desk.example/{}", "The braces of “https://desk.example/{}” do not name columns."),
        ("https://desk.example/{receipt}", "Column “receipt” is not in table “sales”."),
    ],
)
def test_an_address_of_records_that_cannot_be_made_is_named(tmp_path: Path, page: str, words: str) -> None:
    model = MODEL.replace("{file: sales.csv}", f'{{file: sales.csv, records: {{page: "{page}"}}}}')
    assert words in message(write_folder(tmp_path, model=model))


def test_a_link_that_leads_out_of_the_folder_is_refused(tmp_path: Path) -> None:
    outside = tmp_path / "elsewhere.csv"
    outside.write_text(SALES)
    (tmp_path / "shop").mkdir()
    folder = write_folder(tmp_path / "shop")
    (folder / "sales.csv").unlink()
    (folder / "sales.csv").symlink_to(outside)
    assert "sales.csv is a link that leads out of the folder" in message(folder)
    outside.rename(folder / "real.csv")
    (folder / "sales.csv").unlink()
    (folder / "sales.csv").symlink_to(folder / "real.csv")
    assert open_folder(folder).model.name == "tickets"


def test_a_role_that_compares_days_with_what_is_none_is_a_fault(tmp_path: Path) -> None:
    condition = "{kind: attribute, dimension: calendar, attribute: year, operator: more, values: [last]}"
    model = MODEL.replace("conditions: [{dimension", f"conditions: [{condition}, {{dimension")
    assert "roles[0].conditions[0]: “last” is no number, and “year” holds numbers." in message(
        write_folder(tmp_path, model=model)
    )


def test_what_stands_above_the_header_and_words_for_nothing_are_taken_as_declared(tmp_path: Path) -> None:
    plain = open_folder(write_folder(tmp_path)).source
    model = MODEL.replace("{file: sales.csv}", '{file: sales.csv, header: 3, blanks: ["n/a"]}')
    titled = "Sales of tickets\n\n" + SALES.replace("Boat,,", "Boat,n/a,")
    found = open_folder(write_folder(tmp_path, model=model, sales=titled)).source
    for name in ("day", "quantity", "price"):
        assert found.tables["sales"].column(name).equals(plain.tables["sales"].column(name))
    broken = titled.replace("Kiosk,4", "Kiosk,four")
    assert "sales.csv, line 9 has “four”" in message(write_folder(tmp_path, model=model, sales=broken))
    # Blank lines above need no word, and tabs are what a .tsv has.
    again = open_folder(write_folder(tmp_path, sales="\n\n" + SALES)).source
    assert again.tables["sales"].row_count == plain.tables["sales"].row_count
    (tmp_path / "sales.tsv").write_text(SALES.replace(",", "\t"))
    tabs = open_folder(write_folder(tmp_path, model=MODEL.replace("sales.csv", "sales.tsv"))).source
    assert tabs.tables["sales"].column("price").equals(plain.tables["sales"].column("price"))


@pytest.mark.parametrize(
    ("quantity", "price", "declared"),
    [
        ("3", "1,25 €", 'numbers: {decimal: ","}'),
        ("3.000", "1.234,50", 'numbers: {decimal: ",", thousands: "."}'),
        ("3,000", "$1,234.50", 'numbers: {thousands: ","}'),
        (" 3 ", "(1.25)", "numbers: {}"),
        ("3-", "12 %", "numbers: {}"),
    ],
)
def test_numbers_are_read_as_they_are_declared_to_be_written_and_the_declaration_is_proposed(
    tmp_path: Path, quantity: str, price: str, declared: str
) -> None:
    lines = ["day;line;seller;quantity;price", f"2024-01-05;T1;Kiosk;{quantity};{price}", "2024-02-05;T1;Kiosk;1;7"]
    sales = "\n".join(lines) + "\n"
    plain = MODEL.replace("{file: sales.csv}", '{file: sales.csv, delimiter: ";"}')
    assert declared in message(write_folder(tmp_path, model=plain, sales=sales))
    model = MODEL.replace("{file: sales.csv}", f'{{file: sales.csv, delimiter: ";", {declared}}}')
    table = open_folder(write_folder(tmp_path, model=model, sales=sales)).source.tables["sales"]
    expected = {
        "1,25 €": "1.25", "1.234,50": "1234.50", "$1,234.50": "1234.50", "(1.25)": "-1.25", "12 %": "12",
        "3": "3", "3.000": "3000", "3,000": "3000", " 3 ": "3", "3-": "-3",
    }  # fmt: skip
    for name, text in (("quantity", quantity), ("price", price)):
        assert table.column(name)[0].as_py() == Decimal(expected[text])
        assert table.column("seller")[0].as_py() == "Kiosk"
