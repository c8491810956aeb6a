"""Pages and a page of the web say what the table says: read back by another program."""

from __future__ import annotations

import re
import xml.etree.ElementTree as ET
from pathlib import Path
from typing import Any, get_args
from zipfile import ZipFile

import pytest
from pypdf import PdfReader

from dastan.core.analysis.document import (
    Analysis,
    Chart,
    ChartForm,
    Dress,
    NumberDress,
    Opening,
    PlacedMeasure,
    Threshold,
)
from dastan.core.engine.watch import Watch
from dastan.core.errors import CancelledError, LimitError
from dastan.core.model.conditions import MemberFilter
from dastan.exports import page, pdf
from dastan.exports import seen as seen_table
from dastan.exports.files import write_file
from dastan.exports.kinds import FileKind
from dastan.exports.ods import write_ods
from dastan.exports.order import About
from dastan.exports.page import page_of
from dastan.exports.pdf import write_pdf
from dastan.exports.seen import SeenTable
from dastan.exports.setting import Head, heads_of
from tests.core.asked import STAR, ask, by, question

TEXT = "{urn:oasis:names:tc:opendocument:xmlns:text:1.0}"
TABLE = "{urn:oasis:names:tc:opendocument:xmlns:table:1.0}"
OPEN = (Opening(dimension="line", hierarchy="line", levels=("mode",)),)
BOTH = question("boardings", rows=(by("line", "mode"),), columns=(by("fare", "family"),), openings=OPEN)


def seen(document: Analysis, **dress: Any) -> SeenTable:
    return SeenTable(ask(document), document, Dress(**dress), STAR.model, STAR.members)


def pages(document: Analysis, folder: Path, **dress: Any) -> list[Any]:
    file = folder / "table.pdf"
    write_pdf(seen(document, **dress), "Boardings by Mode", "Star · data to 1 Mar 2024", file, Watch())
    return list(PdfReader(file).pages)


def lines(sheet: Any) -> list[list[str]]:
    """The words of a page, line by line, as they lie on it."""
    return [words for line in sheet.extract_text(extraction_mode="layout").splitlines() if (words := line.split())]


def table_in(text: str) -> ET.Element:
    found = ET.fromstring(text.partition("</head>\n")[2].removesuffix("</html>\n")).find("table")
    assert found is not None
    return found


def test_pages_hold_the_table_as_it_is_seen(tmp_path: Path) -> None:
    (sheet,) = pages(BOTH, tmp_path)
    assert lines(sheet) == [
        ["Boardings", "by", "Mode"],
        ["Star", "·", "data", "to", "1", "Mar", "2024"],
        ["a", "b", "All", "of", "Fare"],
        ["Mode", "›", "Team", "Boardings", "Boardings", "Boardings"],
        ["bus", "4", "4"],
        ["1", "4", "4"],
        ["tram", "3", "3"],
        ["1", "2", "2"],
        ["2", "1", "1"],
        ["without", "a", "line", "1", "1"],
        ["All", "of", "Line", "3", "5", "8"],
        ["Star", "1", "of", "1"],
    ]
    assert sheet.mediabox.height > sheet.mediabox.width


@pytest.mark.parametrize("form", get_args(ChartForm))
def test_a_chart_is_drawn_with_lines_and_curves_on_a_page_of_its_own(form: ChartForm, tmp_path: Path) -> None:
    first, second = pages(BOTH, tmp_path, view="both", chart=Chart(form=form))
    assert first.extract_text().splitlines()[:2] == ["Boardings by Mode", "Star · data to 1 Mar 2024"]
    assert "All of Line" in second.extract_text()
    assert "All of Line" not in first.extract_text()
    drawn = first.get_contents().get_data().decode("latin-1")
    # Filled and stroked paths, no picture of dots.
    assert len(re.findall(r" (?:l|c|re)\b", drawn)) > 20
    assert not list(first.images)


def test_a_name_with_dollars_is_drawn_as_it_is(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(SeenTable, "heading", lambda *_: r"Cost in $ of $_{all \frac")
    assert len(pages(BOTH, tmp_path, view="chart")) == 1


def test_a_chart_goes_alone_and_a_table_stands_in_for_one_of_nothing(tmp_path: Path) -> None:
    assert len(pages(BOTH, tmp_path, view="chart")) == 1
    nothing = question("boardings", rows=(by("line", "mode"),), filters=(MemberFilter(
        dimension="line", hierarchy="line", action="keep", members=(("rocket",),)),))  # fmt: skip
    (sheet,) = pages(nothing, tmp_path, view="chart")
    assert "Boardings by Mode" in sheet.extract_text()


def test_a_page_that_ends_within_a_mode_says_on_the_next_that_it_goes_on(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    # Room for the title, the heads and three rows.
    monkeypatch.setattr(pdf, "FOOT", 297 - 2 * pdf.MARGIN - 23 - 3 * pdf.LINE)
    first, *others = [lines(each) for each in pages(BOTH, tmp_path)]
    body = [line for line in first if line[0] in ("bus", "1", "tram", "2", "without", "All")]
    # Tram does not end a page: what stands in it begins on the next.
    assert body == [["bus", "4", "4"], ["1", "4", "4"]]
    assert others[0][:3] == [
        ["Boardings", "by", "Mode"],
        ["a", "b", "All", "of", "Fare"],
        ["Mode", "›", "Team", "Boardings", "Boardings", "Boardings"],
    ]
    assert others[0][3:5] == [["tram", "3", "3"], ["1", "2", "2"]]
    everything = [line for each in (first, *others) for line in each]
    assert everything.count(["All", "of", "Line", "3", "5", "8"]) == 1
    # The total has another row beside it.
    last = others[-1]
    assert last[last.index(["All", "of", "Line", "3", "5", "8"]) - 1] == ["without", "a", "line", "1", "1"]
    assert [each[-1][-3:] for each in (first, *others)] == [
        [str(at), "of", str(len(others) + 1)] for at in range(1, len(others) + 2)
    ]


def test_a_wide_table_lies_on_its_side_and_goes_on_over_further_pages(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    document = question("boardings", "revenue", rows=(by("line", "mode"),), columns=(by("fare", "family"),))
    (sheet,) = pages(document, tmp_path)
    monkeypatch.setattr(pdf, "SHORT_SIDE", 60.0)
    monkeypatch.setattr(pdf, "LONG_SIDE", 110.0)
    several = pages(document, tmp_path)
    assert several[0].mediabox.width > several[0].mediabox.height
    # A head is not parted from what stands under it.
    heads = [lines(each)[2 if at == 0 else 1] for at, each in enumerate(several)]
    assert [word for head in heads for word in head] == ["a", "b", "All", "of", "Fare"]
    figures = [next(line for line in lines(each) if line[0] == "tram")[1:] for each in several]
    whole = next(line for line in lines(sheet) if line[0] == "tram")[1:]
    assert [each for part in figures for each in part] == whole


NOWHERE = MemberFilter(dimension="line", hierarchy="line", members=(("nowhere",),))
BARE = {
    "no measure": question(rows=(by("line", "mode"),)),
    "no column": question(
        "boardings", rows=(by("line", "mode"),), columns=(by("fare", "family"),), filters=(NOWHERE,),
        empty_columns="hidden", empty_rows="hidden", column_total="none", row_total="none",
    ),
}  # fmt: skip


@pytest.mark.parametrize("bare", BARE)
@pytest.mark.parametrize("kind", get_args(FileKind))
def test_a_table_with_nothing_in_it_leaves_in_every_kind_of_file(tmp_path: Path, kind: FileKind, bare: str) -> None:
    """Also where the chart is shown too, which has nothing to draw."""
    file = tmp_path / f"table.{kind}"
    write_file(seen(BARE[bare], view="both"), Dress(view="both"), About("Mode", "Star"), file, kind, Watch())
    assert file.stat().st_size > 0
    if kind == "pdf":
        (sheet,) = PdfReader(file).pages
        words = lines(sheet)
        assert ["Mode"] in words
        assert ([each for each in (["bus"], ["tram"]) if each in words] == [["bus"], ["tram"]]) is (
            bare == "no measure"
        )


def test_what_is_too_much_is_refused_before_it_begins(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    for module, kind in ((pdf, "pdf"), (page, "html")):
        monkeypatch.setattr(module, "MOST_CELLS", 10)
        file = tmp_path / f"table.{kind}"
        with pytest.raises(LimitError, match="cells"):
            write_file(seen(BOTH), Dress(), About("Boardings", "Star"), file, kind, Watch())  # type: ignore[arg-type]
        assert list(tmp_path.iterdir()) == []


def test_a_file_of_any_kind_can_be_taken_back(tmp_path: Path) -> None:
    for kind in get_args(FileKind):
        watch = Watch()
        watch.cancel()
        with pytest.raises(CancelledError):
            write_file(seen(BOTH), Dress(), About("Boardings", "Star"), tmp_path / f"t.{kind}", kind, watch)
    assert list(tmp_path.iterdir()) == []


def test_a_web_page_holds_the_table_with_heads_that_span_their_columns() -> None:
    document = question(
        "boardings", "revenue", rows=(by("line", "mode"),), columns=(by("fare", "family"),), openings=OPEN
    )
    table = table_in("".join(page_of(seen(document), "Boardings & more", "Star", Watch())))
    head, body = table
    assert [[(each.text, each.get("colspan")) for each in row] for row in head] == [
        [(None, None), ("a", "2"), ("b", "2"), ("All of Fare", "2")],
        [("Mode › Team", None), *([("Boardings", None), ("Revenue", None)] * 3)],
    ]
    rows = [[cell.text for cell in row] for row in body]
    assert [row[:2] for row in rows] == [
        ["bus", None], ["1", None], ["tram", "3"], ["1", "2"], ["2", "1"], ["without a line", None],
        ["All of Line", "3"],
    ]  # fmt: skip
    assert [row.get("class") for row in body] == ["strong", None, "strong", None, None, "apart", "strong above twice"]
    assert [row[0].get("style") for row in body][:2] == [None, "padding-left:26px"]


@pytest.mark.parametrize("block", [400, 2])
def test_names_in_a_web_page_are_text_and_thresholds_stand_out(block: int, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(seen_table, "BLOCK", block)
    least = Threshold(side="at_least", amount=4, meaning="favourable")
    numbers = (NumberDress(measure=PlacedMeasure(measure="boardings"), thresholds=(least,)),)
    text = "".join(page_of(seen(BOTH, numbers=numbers), "A <b>name</b>", "Star", Watch()))
    assert "<h1>A &lt;b&gt;name&lt;/b&gt;</h1>" in text
    _, body = table_in(text)
    marked = [[cell.text for cell in row if cell.get("class") == "favourable"] for row in body]
    assert marked == [["4", "4"], ["4", "4"], [], [], [], [], ["5", "8"]]


def test_heads_that_neighbours_share_stand_once_but_for_the_last_line() -> None:
    found = heads_of([["2024", "2024", "2025"], ["Q1", "Q1", "Q1"], ["x", "x", "x"]])
    assert found[0] == [Head(0, 2, "2024"), Head(2, 3, "2025")]
    assert found[1] == [Head(0, 2, "Q1"), Head(2, 3, "Q1")]
    assert found[2] == [Head(0, 1, "x"), Head(1, 2, "x"), Head(2, 3, "x")]


def test_a_spreadsheet_is_well_formed_whatever_its_texts_hold(tmp_path: Path) -> None:
    write_ods(seen(BOTH), Dress(), "A\x0b <name> & more", "Star", tmp_path / "table.ods", Watch())
    with ZipFile(tmp_path / "table.ods") as zipped:
        assert zipped.namelist()[0] == "mimetype"
        parts = {name: zipped.read(name) for name in zipped.namelist() if name.endswith(".xml")}
    for name, text in parts.items():
        assert ET.fromstring(text) is not None, name
    texts = [each.text for each in ET.fromstring(parts["content.xml"]).iter(f"{TEXT}p")]
    assert texts[0] == "A <name> & more"
    # Rows fold below the one that they stand under.
    groups = ET.fromstring(parts["content.xml"]).findall(f".//{TABLE}table-row-group")
    assert [len(each) for each in groups] == [1, 2]
