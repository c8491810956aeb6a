"""What was frozen answers what it answered, opens further, and holds nothing that its author could not see."""

from __future__ import annotations

from dataclasses import replace
from datetime import date
from io import BytesIO
from pathlib import Path

import numpy as np
import orjson
import pytest

from dastan.core.analysis.document import Analysis
from dastan.core.analysis.gestures import OpenAll, SwapAxes, apply_gesture
from dastan.core.engine.answer import Answer, answer
from dastan.core.engine.cache import GroupCache
from dastan.core.engine.rights import rights_of_roles
from dastan.core.engine.waist import Rights
from dastan.core.errors import AppError, SourceError
from dastan.core.reading.window import window_of
from dastan.core.words.asked import document_of
from dastan.core.words.vocabulary import Vocabulary
from dastan.demo.generate import generate
from dastan.documents.read import MODEL
from dastan.sources.folders.folder import OpenModel, open_folder
from dastan.sources.frozen.recorder import Recorder
from dastan.sources.frozen.source import FrozenSource, NotHeldError
from dastan.sources.frozen.writing import read_replies, write_replies

TODAY = date(2026, 1, 1)
EVERYTHING = Rights("ines")


@pytest.fixture(scope="module")
def opened(tmp_path_factory: pytest.TempPathFactory) -> OpenModel:
    folder = tmp_path_factory.mktemp("frozen") / "demo"
    generate(folder, 20_000, show_progress=False)
    return open_folder(folder)


def frozen_with(opened: OpenModel, rights: Rights, *documents: Analysis) -> FrozenSource:
    """What a source replied to some documents, written and read back."""
    group = GroupCache(opened.source.group, opened.source.members).group
    recorder = Recorder(opened.model, opened.source, rights, group)
    for each in documents:
        answer(each, opened.model, recorder, Rights(rights.reader), TODAY, recorder.group)
    return FrozenSource(read_replies(write_replies(recorder.replies.without_repeats())))


def from_frozen(document: Analysis, opened: OpenModel, frozen: FrozenSource) -> Answer:
    return answer(document, opened.model, frozen, Rights("tomas"), TODAY, frozen.group)


def from_live(document: Analysis, opened: OpenModel, rights: Rights = EVERYTHING) -> Answer:
    return answer(document, opened.model, opened.source, rights, TODAY)


def said(shown: Answer) -> bytes:
    return orjson.dumps(window_of(shown, 0, 400, 0, 400))


def documents(opened: OpenModel) -> list[tuple[str, Analysis]]:
    text = (Path(__file__).parents[3] / "docs" / "sentence.md").read_text(encoding="utf-8")
    lines = [line for block in text.split("```")[1::2] for line in block.strip().splitlines()]
    vocabulary = Vocabulary(opened.model, opened.source.members)
    found = []
    for each in lines:
        document = document_of(each, vocabulary)
        try:
            from_live(document, opened)
        except AppError:  # it asks something first
            continue
        found.append((each, document))
    return found


def test_whatever_can_be_asked_in_words_is_the_same_from_what_is_frozen(opened: OpenModel) -> None:
    asked = documents(opened)
    assert len(asked) > 25
    for words, document in asked:
        assert said(from_frozen(document, opened, frozen_with(opened, EVERYTHING, document))) == said(
            from_live(document, opened)
        ), words


def test_what_a_role_hides_is_not_in_it_whoever_reads_it(opened: OpenModel) -> None:
    role = opened.model.roles[0]
    rights = rights_of_roles("ines", [role.name], opened.model, TODAY, lambda _: "2025-12-31")
    assert rights.rules
    for words in ("boardings by line", "fare revenue by mode against year", "boardings by month for 2025"):
        document = document_of(words, Vocabulary(opened.model, opened.source.members))
        own = said(from_frozen(document, opened, frozen_with(opened, rights, document)))
        assert own == said(from_live(document, opened, rights)), words
        assert own != said(from_live(document, opened)), words


def test_it_opens_turns_and_drops_what_adds_up_and_refuses_the_rest(opened: OpenModel) -> None:
    vocabulary = Vocabulary(opened.model, opened.source.members)
    document = document_of("boardings and fare revenue by mode against quarter for 2025", vocabulary)
    wide = apply_gesture(document, OpenAll(dimension="line", hierarchy="line"), opened.model)
    frozen = frozen_with(opened, EVERYTHING, document, wide)
    turned = apply_gesture(wide, SwapAxes(), opened.model)
    fewer = replace(document, question=replace(document.question, measures=document.question.measures[:1], columns=()))
    kept = document_of("boardings by mode for 2025 and ferry", vocabulary)
    for each in (document, wide, turned, fewer, kept):
        assert said(from_frozen(each, opened, frozen)) == said(from_live(each, opened))
    for words in (
        "boardings by mode for 2024",
        "boardings by fare product for 2025",
        "incidents opened by mode for 2025",
    ):
        with pytest.raises(NotHeldError, match="were not kept when this copy was frozen"):
            from_frozen(document_of(words, vocabulary), opened, frozen)


def test_a_file_that_is_damaged_or_of_a_later_kind_is_told(opened: OpenModel) -> None:
    document = document_of("boardings by mode", Vocabulary(opened.model, opened.source.members))
    group = GroupCache(opened.source.group, opened.source.members).group
    recorder = Recorder(opened.model, opened.source, EVERYTHING, group)
    answer(document, opened.model, recorder, EVERYTHING, TODAY, recorder.group)
    file = write_replies(recorder.replies)
    for broken in (b"", file[:200], file[: len(file) // 2]):
        with pytest.raises(SourceError, match="is damaged"):
            read_replies(broken)
    with np.load(BytesIO(file)) as held:
        arrays = dict(held)
    told = orjson.loads(arrays["frozen.json"].tobytes())
    arrays["frozen.json"] = np.frombuffer(orjson.dumps({**told, "format": "frozen/2"}), np.uint8)
    later = BytesIO()
    np.savez_compressed(later, **arrays)
    with pytest.raises(SourceError, match="later Dastan"):
        read_replies(later.getvalue())


def test_the_model_is_the_same_once_it_was_written(opened: OpenModel) -> None:
    assert MODEL.validate_json(MODEL.dump_json(opened.source.model)) == opened.source.model
