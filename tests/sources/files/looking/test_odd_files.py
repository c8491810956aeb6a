"""Text files as people have them: how each is read, what is said of it, and where it is not sure."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pytest

from dastan.core.errors import SourceError
from dastan.core.model.document import Assumption
from dastan.sources.files.csv_file import form_of, read_csv
from dastan.sources.files.looking.text_form import look_at_text
from dastan.sources.files.looking.values_form import with_values
from dastan.sources.files.tables import open_table


@dataclass(frozen=True)
class Odd:
    """A file, the values that must come out of it, and a word of each thing that must be said to be unsure."""

    written: str | bytes
    columns: dict[str, list[str | None]]
    unsure: tuple[str, ...] = ()


def odd(written: str | bytes, unsure: tuple[str, ...] = (), **columns: Any) -> Odd:
    return Odd(written, columns, unsure)


LINES: list[str | None] = ["T1", "T2"]
FILES = {
    "semicolons, decimal commas": odd("line;fare\nT1;1.234,50\nT2;2,25\n", line=LINES, fare=["1234.50", "2.25"]),
    "semicolons, decimal commas, no thousands": odd("line;fare\nT1;0,5\nT2;2,25\n", line=LINES, fare=["0.50", "2.25"]),
    "commas within semicolons": odd("line;note;n\nT1;a, b;1\nT2;c, d;2\n", line=LINES, note=["a, b", "c, d"], n=["1", "2"]),
    "tabs": odd("line\ttaps\nT1\t4\nT2\t5\n", line=LINES, taps=["4", "5"]),
    "strokes": odd("line|taps\nT1|4\nT2|5\n", line=LINES, taps=["4", "5"]),
    "one column": odd("taps\n4\n5\n", taps=["4", "5"]),
    "a title above": odd("Taps, 2025\n\nline,taps\nT1,4\nT2,5\n", line=LINES, taps=["4", "5"]),
    "a title with its row filled up": odd("Report,\nline,taps\nT1,4\nT2,5\n", line=LINES, taps=["4", "5"]),
    "a total below": odd("line,taps\nT1,4\nT2,5\nTotal,9\n", line=LINES, taps=["4", "5"]),
    "a total in German": odd("line;taps\nT1;4\nT2;5\nSumme;9\n", line=LINES, taps=["4", "5"]),
    "a total and its source below": odd("line,taps\nT1,4\nT2,5\n\nTotal,9\nOf the depot\n", line=LINES, taps=["4", "5"]),
    "a line that only begins like a total": odd("line,taps\nT1,4\nTotally new,5\n", line=["T1", "Totally new"], taps=["4", "5"]),
    "a company that is called a total": odd("name,taps\nHarbour,4\nTotal Care Ltd,5\n", name=["Harbour", "Total Care Ltd"], taps=["4", "5"]),
    "a record that was cut off": odd("line,name,taps\nT1,a,4\nT2,b,5\nT3,c", line=LINES, name=["a", "b"], taps=["4", "5"], unsure=("“T3, c” stands there",)),
    "no names": odd("T1,4\nT2,5\n", column_1=LINES, column_2=["4", "5"], unsure=("no line of column names",)),
    "no names, all days": odd("2025-01-01,4\n2025-01-02,5\n", column_1=["2025-01-01", "2025-01-02"], column_2=["4", "5"], unsure=("no line of column names",)),
    "years as names": odd("line,2023,2024\nT1,4,5\nT2,6,7\n", **dict[str, Any]({"line": LINES, "2023": ["4", "6"], "2024": ["5", "7"]})),
    "days with points": odd("day;n\n31.01.2025;4\n01.02.2025;5\n", day=["2025-01-31", "2025-02-01"], n=["4", "5"]),
    "day before month": odd("day,n\n31/01/2025,4\n01/02/2025,5\n", day=["2025-01-31", "2025-02-01"], n=["4", "5"]),
    "month before day": odd("day,n\n01/31/2025,4\n02/01/2025,5\n", day=["2025-01-31", "2025-02-01"], n=["4", "5"]),
    "day or month first": odd("day,n\n01/02/2025,4\n02/03/2025,5\n", day=["2025-02-01", "2025-03-02"], n=["4", "5"], unsure=("01/02/2025",)),
    "months by name": odd("day,n\n2 Jan 2025,4\n13 Feb 2025,5\n", day=["2025-01-02", "2025-02-13"], n=["4", "5"]),
    "the numbers of days": odd("day,n\n45658,4\n45659,5\n", day=["2025-01-01", "2025-01-02"], n=["4", "5"], unsure=("45658",)),
    "moments": odd("at,n\n2025-01-02 06:30:00,4\n2025-01-03 07:00:15,5\n", at=["2025-01-02 06:30:00.000000", "2025-01-03 07:00:15.000000"], n=["4", "5"]),
    "words for nothing": odd("line,delay\nT1,1.5\nT2,n/a\nT3,-\nT4,2.0\n", line=["T1", "T2", "T3", "T4"], delay=["1.5", None, None, "2.0"]),
    "words for nothing among days": odd("day,n\n31.12.2025,4\nunknown,5\n", day=["2025-12-31", None], n=["4", "5"]),
    "money": odd('line,fare\nT1,"€ 1,234.50"\nT2,€ 2.25\n', line=LINES, fare=["1234.50", "2.25"]),
    "brackets": odd("line,amount\nT1,(12.50)\nT2,3.00\n", line=LINES, amount=["-12.50", "3.00"]),
    "a minus behind": odd("line,amount\nT1,12.50-\nT2,3.00\n", line=LINES, amount=["-12.50", "3.00"]),
    "per cent": odd("line,share\nT1,12 %\nT2,3.5 %\n", line=LINES, share=["12.0", "3.5"]),
    "blanks in thousands": odd("line;n\nT1;1 234\nT2;12 345 678\n", line=LINES, n=["1234", "12345678"]),
    "strokes in thousands": odd("line;n\nT1;1'234.5\nT2;12'345.0\n", line=LINES, n=["1234.5", "12345.0"]),
    "one or a thousand": odd("line,n\nT1,1.234\nT2,5.678\n", line=LINES, n=["1.234", "5.678"], unsure=("three digits",)),
    "zeros in front": odd("card,n\n0012,4\n0013,5\n", card=["0012", "0013"], n=["4", "5"]),
    "a word among numbers": odd("n\n" + "".join(f"{n}\n" for n in range(1, 20)) + "about 20\n", n=[*(str(n) for n in range(1, 20)), "about 20"], unsure=("about 20",)),
    "a value over lines": odd('line,note\nT1,"one\ntwo"\nT2,x\n', line=LINES, note=["one\ntwo", "x"]),
    "a byte order mark": odd(b"\xef\xbb\xbfline,n\nT1,4\nT2,5\n", line=LINES, n=["4", "5"]),
    "lines as of old": odd("line,n\r\nT1,4\r\nT2,5\r\n", line=LINES, n=["4", "5"]),
    "two bytes a letter": odd("line,n\nT1,4\nT2,5\n".encode("utf-16"), line=LINES, n=["4", "5"]),
    "western letters": odd("line,stop\nT1,Møllegård\nT2,Peña\n".encode("cp1252"), line=LINES, stop=["Møllegård", "Peña"], unsure=("cp1252",)),
    "central letters": odd("line,stop\nT1,Łódź\nT2,Świerk\n".encode("cp1250"), line=LINES, stop=["Łódź", "Świerk"], unsure=("cp1250",)),
    "cyrillic letters": odd("line,stop\nT1,Причал\nT2,Набережная\n".encode("cp1251"), line=LINES, stop=["Причал", "Набережная"], unsure=("cp1251",)),
    "lines as of very old": odd(b"line,n\rT1,4\rT2,5\r", line=LINES, n=["4", "5"]),
    "blanks around names": odd("line , n \nT1, 4 \nT2, 5 \n", line=LINES, n=["4", "5"]),
    "names in quotes": odd('"line","n"\n"T1","4"\n"T2","5"\n', line=LINES, n=["4", "5"]),
    "a quote within a value": odd('line,note\nT1,"a ""good"" day"\nT2,b\n', line=LINES, note=['a "good" day', "b"]),
    "a delimiter at each end": odd("line,n,\nT1,4,\nT2,5,\n", line=LINES, n=["4", "5"]),
    "blank lines between": odd("line,n\n\nT1,4\n\nT2,5\n\n", line=LINES, n=["4", "5"]),
    "lines of delimiters below": odd("line,n\nT1,4\nT2,5\n,\n,\n", line=LINES, n=["4", "5"]),
    "a line that says what parts": odd("sep=;\nline;n\nT1;4\nT2;5\n", line=LINES, n=["4", "5"]),
    "comments above": odd("# made by night\n# on Sunday\nline,n\nT1,4\nT2,5\n", line=LINES, n=["4", "5"]),
    "a column without a name": odd("line,,n\nT1,x,4\nT2,y,5\n", **dict[str, Any]({"line": LINES, "column_2": ["x", "y"], "n": ["4", "5"]})),
    "a name that stands twice": odd("line,n,n\nT1,4,6\nT2,5,7\n", **dict[str, Any]({"line": LINES, "n": ["4", "5"], "n_2": ["6", "7"]})),
    "yes and no": odd("line,open\nT1,true\nT2,false\n", line=LINES, open=["true", "false"]),
    "numbers with a plus": odd("line,n\nT1,+4\nT2,-5\n", line=LINES, n=["4", "-5"]),
    "numbers by powers": odd("line,n\nT1,1.5e3\nT2,2.5e3\n", line=LINES, n=["1500.0", "2500.0"]),
    "nineteen digits": odd("card,n\n9007199254740993123,4\n9007199254740993124,5\n", card=["9007199254740993123", "9007199254740993124"], n=["4", "5"]),
    "a code like a number": odd("code,n\n1.10,4\n1.1,5\n2.10,6\n", code=["1.10", "1.1", "2.10"], n=["4", "5", "6"]),
    "times of the day": odd("at,n\n06:30,4\n07:15,5\n", at=["06:30", "07:15"], n=["4", "5"]),
    "years and months": odd("month,n\n2025-01,4\n2025-02,5\n", month=["2025-01", "2025-02"], n=["4", "5"]),
    "days in one number": odd("day,n\n20250131,4\n20250201,5\n", day=["2025-01-31", "2025-02-01"], n=["4", "5"]),
    "days with two digits of the year": odd("day,n\n31.01.25,4\n01.02.25,5\n", day=["2025-01-31", "2025-02-01"], n=["4", "5"]),
    "nothing at all in a column": odd("line,gone,n\nT1,,4\nT2,,5\n", line=LINES, gone=[None, None], n=["4", "5"]),
    "a total in French": odd("line;n\nT1;4\nT2;5\nTotal général;9\n", line=LINES, n=["4", "5"]),
}  # fmt: skip


@pytest.mark.parametrize("name", FILES)
def test_an_odd_file_is_read_rightly_and_says_where_it_is_not_sure(name: str, tmp_path: Path) -> None:
    file, wanted = tmp_path / "odd.csv", FILES[name]
    file.write_bytes(wanted.written if isinstance(wanted.written, bytes) else wanted.written.encode())
    looked = look_at_text(file, "odd", file.name)
    form = with_values(looked, read_csv(file, form_of(file, looked.table)).table, "odd")
    table = open_table(tmp_path, "odd", form.table)
    found = {each: [None if value is None else str(value) for value in table.column(each).to_pylist()] for each in table.names}  # fmt: skip
    assert {each: _plainly(values) for each, values in found.items()} == {
        each: _plainly(values) for each, values in wanted.columns.items()
    }
    unsure = [each for each in form.assumed if each.is_unsure]
    assert len(unsure) == len(wanted.unsure)
    assert all(any(word in _told(each) for each in unsure) for word in wanted.unsure)


def _told(assumed: Assumption) -> str:
    return f"{assumed.says} {assumed.because}"


def _plainly(values: list[str | None]) -> list[str | None]:
    """Moments without the parts of a second that are nothing."""
    return [each and each.removesuffix(".000000") for each in values]


@pytest.mark.parametrize("written", [b"", b"  \n\n", b"PK\x03\x04\x00\x00zip", bytes(range(256))])
def test_what_is_no_text_is_refused_in_words(written: bytes, tmp_path: Path) -> None:
    file = tmp_path / "odd.csv"
    file.write_bytes(written)
    with pytest.raises(SourceError, match=r"odd\.csv is (empty|not text)"):
        look_at_text(file, "odd", file.name)


def test_a_record_is_found_in_a_file_without_names(tmp_path: Path) -> None:
    (tmp_path / "odd.csv").write_text("T1,4\nT2,5\n")
    form = look_at_text(tmp_path / "odd.csv", "odd", "odd.csv")
    assert open_table(tmp_path, "odd", form.table).place("column_2").locate(1) == "odd.csv, line 2"
