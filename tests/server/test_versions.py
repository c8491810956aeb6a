"""An answer belongs to the data, the model and the rights that it was computed from."""

from __future__ import annotations

import gc
import time
from dataclasses import replace
from pathlib import Path
from weakref import ref

import pytest

from dastan.core.analysis.document import Analysis, PlacedMeasure, Question
from dastan.core.engine.cache import GroupCache
from dastan.core.engine.size import Budget
from dastan.core.engine.waist import MemberSet, Rights, RowRule
from dastan.core.engine.watch import Watch
from dastan.server import answers as kept
from dastan.server.admission import Admission
from dastan.server.answers import LARGE_FOR_S, Answers
from dastan.server.asked_model import ShelvedModel
from dastan.sources.folders.folder import open_folder
from tests.sources.folder import write_folder


def shelved(folder: Path) -> ShelvedModel:
    opened = open_folder(folder)
    return ShelvedModel(opened, GroupCache(opened.source.group, opened.source.members))


def test_other_data_another_model_and_other_rights_have_other_answers(tmp_path: Path) -> None:
    folder = write_folder(tmp_path)
    answers, everything = Answers(Budget(), Admission(2**30, 2), 2**20), Rights("a")
    first = shelved(folder)
    measure = next(each.name for each in first.model.measures if each.aggregate == "sum")
    document = Analysis(model=first.model.name, question=Question(measures=(PlacedMeasure(measure=measure),)))

    def ask(model: ShelvedModel, rights: Rights) -> tuple[str, object]:
        handle, answer = answers.ask(document, model, rights, Watch())
        return handle, answer.values[0].at(0) if len(answer.cell_rows) else None

    whole = ask(first, everything)
    assert ask(shelved(folder), everything) == whole
    only = Rights("a", (RowRule((MemberSet("line", "line", (("Tram",),)),)),))
    some = ask(first, only)
    assert some[0] != whole[0]
    assert some[1] != whole[1]
    assert ask(first, replace(everything, reader="b"))[0] != whole[0]
    sales = folder / "sales.csv"
    lines = sales.read_text().splitlines()
    sales.write_text("\n".join([*lines, lines[-1]]) + "\n")
    changed = ask(shelved(folder), everything)
    assert changed[0] != whole[0]
    assert changed[1] != whole[1]
    model = folder / "model.yaml"
    model.write_text(model.read_text() + "\n# Told otherwise.\n")
    assert ask(shelved(folder), everything)[0] != changed[0]


def test_a_remembered_question_does_not_keep_a_model_that_was_opened_anew(tmp_path: Path) -> None:
    folder = write_folder(tmp_path)
    answers = Answers(Budget(), Admission(2**30, 2), 2**20)
    older = shelved(folder)
    document = Analysis(
        model=older.model.name, question=Question(measures=(PlacedMeasure(measure=older.model.measures[0].name),))
    )
    handle, _ = answers.ask(document, older, Rights("a"), Watch())
    assert answers.question(handle) is not None
    seen = ref(older)
    del older
    gc.collect()
    assert seen() is None
    assert answers.question(handle) is None


def test_a_large_answer_that_nobody_looks_at_is_let_go_of_and_made_again(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    model = shelved(write_folder(tmp_path))
    answers, now = Answers(Budget(), Admission(2**30, 2), 2**20), time.monotonic()
    measure = next(each.name for each in model.model.measures if each.aggregate == "sum")
    document = Analysis(model=model.model.name, question=Question(measures=(PlacedMeasure(measure=measure),)))
    _, small = answers.ask(document, model, Rights("b"), Watch())
    assert not answers.let_go(now + 10 * LARGE_FOR_S)  # a small one stays
    answers = Answers(Budget(), Admission(2**30, 2), 2**20)
    monkeypatch.setattr(kept, "LARGE_BYTES", small.size_bytes)
    handle, first = answers.ask(document, model, Rights("a"), Watch())
    assert not answers.let_go(now + LARGE_FOR_S / 2)
    assert answers.size_bytes == first.size_bytes
    assert answers.let_go(now + 10 * LARGE_FOR_S)
    assert answers.size_bytes == 0
    assert not answers.let_go(now + 10 * LARGE_FOR_S)
    asked = answers.question(handle)
    assert asked is not None
    again = answers.again(asked)
    assert again is not first
    assert again.values[0].at(0) == first.values[0].at(0)
    assert answers.size_bytes == first.size_bytes
