"""The tables of models that are being changed: kept at hand, within bounds, and read anew once their files are others."""

from __future__ import annotations

import os
from pathlib import Path

import pytest

from dastan.core.engine.watch import Watch
from dastan.core.errors import InputError
from dastan.core.model.gestures import PutMeasure, TypeColumn, apply_to_model
from dastan.documents.read import read_model
from dastan.server.modelling.workbench import Workbench
from tests.sources.folder import MODEL, SALES, write_folder


def test_a_model_is_opened_once_until_it_or_its_files_are_others(tmp_path: Path) -> None:
    write_folder(tmp_path)
    bench, model = Workbench(2**30), read_model(MODEL)
    first = bench.tried(tmp_path, model, Watch())
    assert bench.tried(tmp_path, model, Watch()) is first
    fewer = apply_to_model(model, PutMeasure(measure=model.measures[0]))
    assert bench.tried(tmp_path, fewer, Watch()) is first  # the same model
    (tmp_path / "sales.csv").write_text(SALES + "2025-03-04,T1,Kiosk,70,1.00\n")
    os.utime(tmp_path / "sales.csv", (1, 1))
    again = bench.tried(tmp_path, model, Watch())
    assert again is not first
    assert again.source.tables["sales"].row_count == 7


def test_what_does_not_fit_is_what_somebody_says_and_no_fault_of_the_server(tmp_path: Path) -> None:
    write_folder(tmp_path)
    wrong = apply_to_model(read_model(MODEL), TypeColumn(table="sales", column="seller", type="integer"))
    with pytest.raises(InputError) as caught:
        Workbench(2**30).tried(tmp_path, wrong, Watch())
    assert "Kiosk" in f"{caught.value} {caught.value.details}"


def test_only_so_much_is_kept_and_nothing_for_ever(tmp_path: Path) -> None:
    model = read_model(MODEL)
    folders = [tmp_path / str(number) for number in range(3)]
    for each in folders:
        each.mkdir()
        write_folder(each)
    small, large = Workbench(1), Workbench(2**30)
    for bench in (small, large):
        opened = [bench.tried(each, model, Watch()) for each in folders]
        kept = [bench.tried(each, model, Watch()) is own for each, own in zip(folders, opened, strict=True)]
        assert kept == ([False, False, False] if bench is small else [True, True, True])
    # Of those that are kept none stays that nobody looks at.
    first = large.tried(folders[0], model, Watch())
    large.let_go(idle_s=0)
    assert large.tried(folders[0], model, Watch()) is not first
