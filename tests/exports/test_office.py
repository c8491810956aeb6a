"""A real spreadsheet opens the workbook and shows what the table shows."""

from __future__ import annotations

import csv
import subprocess
from dataclasses import replace
from pathlib import Path

import pytest

from dastan.core.analysis.document import Dress, NumberDress, Opening, PlacedMeasure
from dastan.core.analysis.views import Share
from dastan.core.engine.watch import Watch
from dastan.exports.files import write_file
from dastan.exports.kinds import FileKind
from dastan.exports.order import About
from dastan.exports.seen import SeenTable
from tests.core.asked import STAR, ask, by, question

BOARDINGS, REVENUE = PlacedMeasure(measure="boardings"), PlacedMeasure(measure="revenue")
AS_SHOWN_ALL_SHEETS = "csv:Text - txt - csv (StarCalc):44,34,76,1,,0,false,false,true,false,false,-1"


def shown(file: Path) -> dict[str, list[list[str]]]:
    """Each sheet's cells as a spreadsheet shows them."""
    folder = file.parent
    command = ["soffice", f"-env:UserInstallation={(folder / 'office').as_uri()}", "--headless"]
    command += ["--convert-to", AS_SHOWN_ALL_SHEETS, "--outdir", str(folder / "sheets"), str(file)]
    subprocess.run(command, check=True, capture_output=True, timeout=120)
    found = {}
    for sheet in (folder / "sheets").iterdir():
        with sheet.open(encoding="utf-8", newline="") as text:
            found[sheet.stem.removeprefix(f"{file.stem}-")] = list(csv.reader(text))
    return found


@pytest.mark.parametrize("kind", ["xlsx", "ods"])
def test_a_spreadsheet_shows_the_numbers_as_the_screen_does(tmp_path: Path, kind: FileKind) -> None:
    document = question("boardings", rows=(by("line", "mode"),))
    measures = (BOARDINGS, replace(BOARDINGS, view=Share(of="whole")), REVENUE)
    document = replace(
        document,
        question=replace(document.question, measures=measures),
        openings=(Opening(dimension="line", hierarchy="line", open=(("tram",),)),),
    )
    dress = Dress(
        numbers=(
            NumberDress(measure=BOARDINGS, is_turned=True, pattern="+#,##0;(#,##0)"),
            NumberDress(measure=REVENUE, scale="thousands", pattern="#,##0.00000"),
        )
    )
    seen = SeenTable(ask(document), document, dress, STAR.model, STAR.members)
    file = tmp_path / f"table.{kind}"
    write_file(seen, dress, About("Boardings by Mode", "Star"), file, kind, Watch())
    sheets = shown(file)
    assert sheets["Table"][3:] == [
        ["Mode › Team", "Boardings, sign turned", "of the whole", "Revenue, in thousands"],
        ["bus", "(4)", "50.0 %", "0.01000"],
        ["tram", "(3)", "37.5 %", "0.00750"],
        ["1", "(2)", "25.0 %", "0.00500"],
        ["2", "(1)", "12.5 %", "0.00250"],
        ["without a line", "(1)", "12.5 %", "0.00125"],
        ["All of Line", "(8)", "100.0 %", "0.01875"],
    ]
    # Flat stand the numbers themselves.
    assert [line[-1] for line in sheets["Data"][1:]] == ["10", "5", "2.5", "1.25"]
