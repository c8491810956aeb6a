"""What is noticed of the days of a folder's facts when it is opened."""

from __future__ import annotations

from datetime import date, timedelta
from pathlib import Path

from dastan.sources.folders.folder import open_folder
from tests.sources.folder import SALES, write_folder


def test_a_missing_file_a_part_and_one_that_came_twice_are_told(tmp_path: Path) -> None:
    counts = [30] * 120
    counts[40:43], counts[60], counts[80], counts[90] = [0, 0, 0], 2, 200, 0
    first = date(2024, 1, 1)
    lines = [
        f"{first + timedelta(day)},T1,Kiosk,1,1.00" for day, count in enumerate(counts) for _ in range(count)
    ]  # fmt: skip
    head = SALES.split("\n", 1)[0]
    notes = open_folder(write_folder(tmp_path, sales="\n".join([head, *lines, ",T1,Kiosk,1,1.00", ""]))).notes
    assert [str(each) for each in notes if "such days" in str(each)] == [
        "sales, by day: no records on 2024-02-10 to 2024-02-12 and 2024-03-31, where such days have about 30; "
        "is a file missing?",
        "sales, by day: far fewer records than such days have on 2024-03-01 (2, not about 30); is all of it there?",
        "sales, by day: far more records than such days have on 2024-03-21 (200, not about 30); "
        "were some delivered twice?",
    ]
