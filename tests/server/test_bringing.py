"""Files brought by the browser: part by part, all or nothing, and for nobody but whoever brought them."""

from __future__ import annotations

import gzip
import io
import os
import zipfile
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from dastan.server.bringing import Bringing

TAPS = b"day,line,people\n2025-01-02,T1,3\n2025-01-03,T2,4\n2025-02-03,T1,5\n"
LINES = b"line,mode\nT1,Tram\nT2,Tram\nF1,Ferry\n"
Enter = Callable[[str], TestClient]


@pytest.fixture
def app(fresh_app: FastAPI) -> FastAPI:
    return fresh_app


def put(client: TestClient, id: str, name: str, part: bytes, offset: int = 0) -> Any:
    headers = {"content-type": "application/octet-stream"}
    return client.put(f"/api/bringing/{id}/files/{name}", params={"offset": offset}, content=part, headers=headers)


def begin(client: TestClient) -> str:
    return str(client.post("/api/bringing").json()["id"])


def make(client: TestClient, id: str) -> Any:
    return client.post(f"/api/bringing/{id}/model")


def models(client: TestClient) -> list[str]:
    return [each["name"] for each in client.get("/api/library").json()["models"]]


def test_files_that_belong_together_become_a_model_that_answers(signed_in: Enter) -> None:
    client = signed_in("ines")
    id = begin(client)
    for name, whole in (("taps.csv", TAPS), ("lines.csv", LINES)):
        for at in range(0, len(whole), 16):
            assert put(client, id, name, whole[at : at + 16], at).status_code == 200
    made = make(client, id)
    assert made.status_code == 201, made.text
    model = made.json()["model"]
    assert model in models(client)
    draft = client.post("/api/drafts", json={"model": model}).json()["id"]
    document = {
        "dastan": "analysis/1", "model": model,
        "question": {
            "measures": [{"measure": "people"}],
            "rows": [{"dimension": "line", "hierarchy": "line", "level": "mode"}],
        },
    }  # fmt: skip
    gesture = {"kind": "swap_axes"}
    first = client.get(f"/api/drafts/{draft}").json()["steps"][0]["id"]
    asked = {"id": "s-1", "parent": first, "document": document, "gesture": gesture}
    shown = client.post(f"/api/drafts/{draft}/steps", json=asked).json()
    # 3 + 4 + 5 people, all of them by tram.
    assert 12 in [value for row in shown["answered"]["window"]["values"] for value in row]
    assumed = client.get(f"/api/models/{model}/catalogue").json()["assumed"]
    assert any(each["says"] == "taps.line points at lines.line" for each in assumed)


def test_what_was_brought_is_nobody_elses(signed_in: Enter) -> None:
    ines, tomas = signed_in("ines"), signed_in("tomas")
    id = begin(ines)
    put(ines, id, "taps.csv", TAPS)
    for refused in (
        tomas.get(f"/api/bringing/{id}"),
        put(tomas, id, "more.csv", TAPS),
        make(tomas, id),
        tomas.delete(f"/api/bringing/{id}"),
    ):
        assert refused.status_code == 404
    model = make(ines, id).json()["model"]
    assert model in models(ines)
    assert model not in models(tomas)
    assert tomas.get(f"/api/models/{model}/catalogue").status_code == 404


def test_an_interrupted_file_goes_on_where_it_was(signed_in: Enter) -> None:
    client = signed_in("ines")
    id = begin(client)
    put(client, id, "taps.csv", TAPS[:20])
    assert client.get(f"/api/bringing/{id}").json()["files"] == [{"name": "taps.csv", "bytes": 20}]
    # A part that came twice, and one whose forerunner is missing, are told apart from the next one.
    assert put(client, id, "taps.csv", TAPS[:20]).status_code == 409
    assert put(client, id, "taps.csv", TAPS[30:], 30).status_code == 409
    assert put(client, id, "taps.csv", TAPS[20:], 20).json() == {"name": "taps.csv", "bytes": len(TAPS)}
    assert make(client, id).status_code == 201


@pytest.mark.parametrize(
    "name", ["..%2Fmodel.csv", ".hidden.csv", "model.yaml", "book.docx", "a%5Cb.csv", f"{'x' * 200}.csv", "a%00.csv"]
)
def test_a_name_that_no_table_is_read_from_is_refused(name: str, signed_in: Enter, records_path: Path) -> None:
    client = signed_in("ines")
    refused = put(client, begin(client), name, TAPS)
    assert refused.status_code in (404, 405, 422)
    assert not list(records_path.parent.rglob("model.csv"))


@pytest.mark.parametrize("broken", [b'line,note\nT1,"open\n', b"", b"\x00\x01\x02", b"PAR1 no parquet"])
def test_a_file_that_cannot_be_read_leaves_all_as_it_was(broken: bytes, signed_in: Enter) -> None:
    client = signed_in("ines")
    before = models(client)
    id = begin(client)
    put(client, id, "taps.csv", TAPS)
    put(client, id, "broken.parquet" if broken.startswith(b"PAR1") else "broken.csv", broken)
    refused = make(client, id)
    assert refused.status_code == 422
    assert "broken" in refused.json()["detail"]
    assert models(client) == before
    # The files are there still: one is taken out by bringing the rest anew.
    assert len(client.get(f"/api/bringing/{id}").json()["files"]) == 2
    assert client.delete(f"/api/bringing/{id}").status_code == 204
    assert make(client, id).status_code == 404


def test_a_name_that_was_granted_once_is_not_given_again(app: FastAPI, signed_in: Enter, records_path: Path) -> None:
    client = signed_in("ines")
    names = []
    for _ in range(2):
        id = begin(client)
        put(client, id, "tickets.csv", TAPS)
        names.append(make(client, id).json()["model"])
    assert names == ["tickets_2", "tickets_3"]
    assert (
        sorted(each.name for each in (records_path.parent / "models").iterdir() if not each.name.startswith("."))
        == names
    )


def test_only_administrators_bring_where_a_server_says_so(app: FastAPI, signed_in: Enter) -> None:
    server = app.state.server
    app.state.server = replace(server, settings=replace(server.settings, bring="administrators"))
    client = signed_in("ines")
    assert client.post("/api/bringing").status_code == 403
    assert client.get("/api/library").json()["may_bring"] is False


def test_what_is_never_finished_does_not_pile_up(signed_in: Enter, records_path: Path) -> None:
    client = signed_in("ines")
    ids = [begin(client) for _ in range(12)]
    assert client.get(f"/api/bringing/{ids[0]}").status_code == 404
    assert client.get(f"/api/bringing/{ids[-1]}").status_code == 200
    assert len(list((records_path.parent / "models" / ".bringing").iterdir())) <= 9


def test_what_would_fill_the_memory_is_refused(app: FastAPI, signed_in: Enter, records_path: Path) -> None:
    server = app.state.server
    app.state.server = replace(server, bringing=Bringing(records_path.parent / "models", 200_000))
    client = signed_in("ines")
    id = begin(client)
    assert put(client, id, "taps.csv", b"a,b\n" * 60_000).json()["code"] == "limit"
    # Half a megabyte of lines that are all the same, packed to some hundred bytes.
    assert put(client, id, "taps.csv.gz", gzip.compress(b"1,2\n" * 130_000)).status_code == 200
    refused = make(client, id)
    assert refused.json()["code"] == "limit"
    assert "More than 0 MB" in refused.json()["detail"]
    # Nor does it come in by way of a model that is there.
    model = brought(client)
    document = records_path.parent / "models" / model / "model.yaml"
    document.write_text(document.read_text().replace("file: taps.csv", "file: taps*.csv"))
    for name, status in (("taps.csv", 204), ("taps-2.csv", 413)):
        put(client, id := begin(client), name, b"day,line,people\n" + b"2025-01-02,T1,3\n" * 10_000)
        assert client.post(f"/api/bringing/{id}/into/{model}").status_code == status
    assert people(client, model) == 30_000


def test_a_model_is_deleted_and_brought_back_by_whoever_brought_it(signed_in: Enter) -> None:
    ines, tomas = signed_in("ines"), signed_in("tomas")
    id = begin(ines)
    put(ines, id, "taps.csv", TAPS)
    model = make(ines, id).json()["model"]
    assert [each["is_own"] for each in ines.get("/api/library").json()["models"]] == [False, True]
    for name in (model, "tickets"):
        assert tomas.delete(f"/api/bringing/models/{name}").status_code == 404
    assert ines.delete("/api/bringing/models/tickets").status_code == 404
    assert ines.delete(f"/api/bringing/models/{model}").status_code == 204
    assert model not in models(ines)
    assert [each["name"] for each in ines.get("/api/library").json()["removed_models"]] == [model]
    assert ines.get(f"/api/models/{model}/catalogue").status_code == 404
    assert tomas.post(f"/api/bringing/models/{model}/back").status_code == 404
    assert ines.post(f"/api/bringing/models/{model}/back").status_code == 204
    assert ines.get(f"/api/models/{model}/catalogue").status_code == 200
    assert ines.post(f"/api/bringing/models/{model}/back").status_code == 404


def brought(client: TestClient) -> str:
    id = begin(client)
    put(client, id, "taps.csv", TAPS)
    return str(make(client, id).json()["model"])


def written(client: TestClient, model: str, text: str) -> Any:
    """Writes a model's document and publishes it; the reply that refuses it, or the last."""
    taken = client.put(f"/api/modelling/{model}/text", json={"text": text, "shown": None})
    if taken.status_code != 200:
        return taken
    mark = client.get(f"/api/modelling/{model}/changes").json()["in_use"]
    sent = {"shown": taken.json()["shown"], "in_use": mark}
    return client.post(f"/api/modelling/{model}/publish", json=sent)


def text_of(client: TestClient, model: str) -> str:
    return str(client.get(f"/api/modelling/{model}/text").json()["text"])


def test_a_model_is_mended_as_text_by_whoever_brought_it_alone(signed_in: Enter) -> None:
    ines, tomas = signed_in("ines"), signed_in("tomas")
    model = brought(ines)
    before = text_of(ines, model)
    assert tomas.get(f"/api/modelling/{model}/text").status_code == 404
    mended = before.replace("caption: People", "caption: Riders").replace("caption: Taps\n", "caption: Taps of mine\n")
    assert tomas.put(f"/api/modelling/{model}/text", json={"text": mended}).status_code == 404
    assert written(ines, model, mended).status_code == 200
    assert "Taps of mine" in [each["caption"] for each in ines.get("/api/library").json()["models"]]
    captions = [
        one["caption"]
        for each in ines.get(f"/api/models/{model}/catalogue").json()["folders"]
        for one in each["measures"]
    ]
    assert "Riders" in captions
    assert text_of(ines, model) == mended


@pytest.mark.parametrize(
    ("wrong", "said"),
    [
        (("aggregate: sum", "aggregate: summe"), "summe"), (("file: taps.csv", "file: other.csv"), "other.csv"),
        (("name: taps\n", "name: tips\n"), "Leave `name: taps`"), (("expression: people", "expression: line"), "not all numbers"),
        (("file: taps.csv", "file: ../../records.db"), "outside"),
    ],
)  # fmt: skip
def test_a_document_with_a_fault_changes_nothing(
    wrong: tuple[str, str], said: str, signed_in: Enter, records_path: Path
) -> None:
    client = signed_in("ines")
    model = brought(client)
    file = records_path.parent / "models" / model / "model.yaml"
    before = file.read_text()
    assert wrong[0] in before
    refused = written(client, model, before.replace(*wrong))
    assert refused.status_code == 422, refused.text
    assert said in refused.text
    assert file.read_text() == before
    assert not list(records_path.parent.rglob("*.changed.yaml"))


MORE = TAPS + b"2025-03-04,F1,70\n"


def people(client: TestClient, model: str) -> int:
    """All people of the model's records, as a table without any dimension has them."""
    draft = client.post("/api/drafts", json={"model": model}).json()
    document = {"dastan": "analysis/1", "model": model, "question": {"measures": [{"measure": "people"}]}}
    asked = {"step": draft["steps"][0]["id"], "document": document, "is_asked": True}
    shown = client.post(f"/api/drafts/{draft['id']}/position", json=asked).json()
    return int(shown["answered"]["window"]["values"][0][0])


def test_newer_files_take_the_place_of_those_of_their_names(signed_in: Enter) -> None:
    client, other = signed_in("ines"), signed_in("tomas")
    model = brought(client)
    assert people(client, model) == 12
    id = begin(client)
    put(client, id, "taps.csv", MORE)
    assert other.post(f"/api/bringing/{id}/into/{model}").status_code == 404
    assert client.post(f"/api/bringing/{id}/into/{model}").status_code == 204
    assert people(client, model) == 82
    assert client.get(f"/api/bringing/{id}").status_code == 404


@pytest.mark.parametrize(
    ("name", "written", "said"),
    [
        ("other.csv", MORE, "none of the files"), ("taps.csv", b"day,line\n2025-01-02,T1\n", "people"),
        ("taps.csv", b"day,line,people\n2025-01-02,T1,many\n", "not all numbers"), ("taps.csv", b"", "is empty"),
    ],
)  # fmt: skip
def test_newer_files_that_do_not_fit_change_nothing(name: str, written: bytes, said: str, signed_in: Enter) -> None:
    client = signed_in("ines")
    model = brought(client)
    id = begin(client)
    put(client, id, name, written)
    refused = client.post(f"/api/bringing/{id}/into/{model}")
    assert refused.status_code == 422
    assert said in refused.text
    assert people(client, model) == 12


def test_a_model_that_was_being_renewed_when_the_server_ended_is_there_again(
    signed_in: Enter, records_path: Path
) -> None:
    client = signed_in("ines")
    model = brought(client)
    kept = records_path.parent / "models"
    half = kept / ".bringing" / "half"
    half.mkdir(parents=True)
    (half / "renewed").write_text(model)
    (kept / model).rename(half / "old")
    Bringing(kept, 10**9).mend()
    assert people(client, model) == 12


def test_an_archive_is_its_tables(signed_in: Enter, tmp_path: Path) -> None:
    client = signed_in("ines")
    whole = io.BytesIO()
    with zipfile.ZipFile(whole, "w") as archive:
        archive.writestr("data/taps.csv", TAPS)
        archive.writestr("data/lines.csv", LINES)
        archive.writestr("read me.txt.pdf", b"%PDF")
    id = begin(client)
    assert put(client, id, "Bay 2025.zip", whole.getvalue()).status_code == 200
    made = make(client, id)
    assert made.status_code == 201, made.text
    assert made.json()["caption"] == "Bay 2025"
    catalogue = client.get(f"/api/models/{made.json()['model']}/catalogue").json()
    assert "Line" in [each["caption"] for each in catalogue["dimensions"]]
    id = begin(client)
    put(client, id, "broken.zip", whole.getvalue()[:120])
    refused = make(client, id)
    assert refused.status_code == 422
    assert "broken.zip" in refused.json()["detail"]


def test_an_answer_says_since_when_its_files_are(signed_in: Enter, records_path: Path) -> None:
    client = signed_in("ines")
    model = brought(client)
    os.utime(records_path.parent / "models" / model / "taps.csv", (1_750_000_000, 1_750_000_000))
    draft = client.post("/api/drafts", json={"model": model}).json()
    document = {"dastan": "analysis/1", "model": model, "question": {"measures": [{"measure": "people"}]}}
    asked = {"step": draft["steps"][0]["id"], "document": document, "is_asked": True}
    shown = client.post(f"/api/drafts/{draft['id']}/position", json=asked)
    assert shown.status_code == 200, shown.text
    assert shown.json()["answered"]["since"] == "2025-06-15T15:06:40+00:00"
