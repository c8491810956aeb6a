"""What every reply says of itself, whom the server describes itself to, and what lies in its folder."""

from __future__ import annotations

import stat
from collections.abc import Callable
from pathlib import Path

from fastapi import FastAPI
from fastapi.testclient import TestClient

from dastan.server.app import create_app
from dastan.server.settings import Settings

Enter = Callable[[str], TestClient]


def test_every_reply_lets_nothing_run_or_frame_it_and_answers_are_kept_nowhere(signed_in: Enter) -> None:
    client = signed_in("ines")
    for path in ("/api/session", "/api/nowhere", "/api/models/none/catalogue", "/openapi.json"):
        headers = client.get(path).headers
        policy = dict(each.split(" ", 1) for each in headers["content-security-policy"].split("; "))
        assert policy["script-src"] == "'self'"
        assert policy["frame-ancestors"] == "'none'"
        assert policy["default-src"] == "'self'"
        assert headers["x-content-type-options"] == "nosniff"
        assert headers["referrer-policy"] == "no-referrer"
        assert headers["cache-control"] == "no-store", path


def test_the_description_is_for_who_is_signed_in_and_loads_nothing(app: FastAPI, signed_in: Enter) -> None:
    for path in ("/docs", "/openapi.json", "/redoc"):
        assert TestClient(app, raise_server_exceptions=False).get(path).status_code in (403, 404), path
    page = signed_in("ines").get("/docs").text
    assert "/api/library" in page
    assert "<script" not in page
    assert "http" not in page.replace("https://", "http").split("</style>")[1]


def test_two_servers_on_one_machine_have_cookies_of_their_own(tmp_path: Path) -> None:
    names = {Settings(tmp_path / each / "records.db", ()).cookie for each in "ab"}
    assert len(names) == 2
    assert Settings(tmp_path / "a" / "records.db", ()).cookie in names


def test_the_cookie_is_secure_behind_tls(app: FastAPI) -> None:
    right = {"sign_in": "ines", "password": "ines-secret"}
    plain = TestClient(app).post("/api/session", json=right)
    behind = TestClient(app, base_url="https://testserver").post("/api/session", json=right)
    assert "secure" not in plain.headers["set-cookie"].lower()
    assert "secure" in behind.headers["set-cookie"].lower()


def test_signing_in_again_ends_the_session_before(app: FastAPI) -> None:
    client = TestClient(app)
    right = {"sign_in": "tomas", "password": "tomas-secret"}
    client.post("/api/session", json=right)
    cookie = app.state.server.settings.cookie
    before = client.cookies[cookie]
    client.post("/api/session", json=right)
    assert client.get("/api/session").status_code == 200
    assert TestClient(app, cookies={cookie: before}).get("/api/session").status_code == 403


def test_ones_own_sessions_are_listed_and_can_be_ended(signed_in: Enter) -> None:
    here, elsewhere, other = signed_in("ines"), signed_in("ines"), signed_in("tomas")
    (this,) = [each for each in here.get("/api/sessions").json() if each["is_this"]]
    (that,) = [each for each in elsewhere.get("/api/sessions").json() if each["is_this"]]
    assert this["id"] != that["id"]
    assert this["browser"] == "testclient"
    assert other.delete(f"/api/sessions/{that['id']}").status_code == 404
    assert here.delete(f"/api/sessions/{that['id']}").status_code == 204
    assert elsewhere.get("/api/session").status_code == 403
    assert here.get("/api/session").status_code == 200


def test_the_records_are_for_their_owner_alone(tmp_path: Path) -> None:
    path = tmp_path / "deep" / "records.db"
    path.parent.mkdir()
    path.touch(0o644)
    application = create_app(Settings(path, ()))
    assert stat.S_IMODE(path.stat().st_mode) == 0o600
    for beside in path.parent.glob("records.db-*"):
        assert stat.S_IMODE(beside.stat().st_mode) == 0o600
    application.state.server.close()


def test_an_address_that_no_file_can_have_is_not_found(tmp_path: Path) -> None:
    (tmp_path / "index.html").write_text("<p>page</p>")
    application = create_app(Settings(tmp_path / "records.db", (), site=tmp_path))
    client = TestClient(application, raise_server_exceptions=False)
    for path in ("a" * 256, "a" * 5000, "%00", "a/../../etc/passwd", "%ff"):
        assert client.get(f"/{path}").text == "<p>page</p>", path
    application.state.server.close()
