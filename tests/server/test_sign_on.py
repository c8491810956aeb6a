"""People sign on by a provider: who is believed, who is let in, as whom, and in which groups."""

from __future__ import annotations

import stat
from collections.abc import Callable, Iterator
from contextlib import closing
from dataclasses import replace
from pathlib import Path
from urllib.parse import parse_qs, urlsplit

import httpx2
import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from dastan.core.errors import InputError
from dastan.records.database import connect
from dastan.records.events import find_events
from dastan.records.grants import Grant, put_grant
from dastan.records.people import Person, put_person, set_administrator
from dastan.server.app import create_app
from dastan.server.passwords import hash_password
from dastan.server.settings import Settings
from dastan.server.sign_on.provider import SIGN_ON_FILE, read_provider
from dastan.server.team import add_person
from tests.server.stand_in_provider import CLIENT, SECRET, StandIn, running
from tests.sources.folder import write_folder


@pytest.fixture(scope="module")
def stand_in() -> Iterator[StandIn]:
    with running() as provider:
        yield provider


@pytest.fixture(autouse=True)
def sound(stand_in: StandIn) -> None:
    """Every test begins with a provider that does all right."""
    stand_in.spoils, stand_in.tells_by_token, stand_in.can_be_left = "", True, True


def document(stand_in: StandIn, *lines: str) -> str:
    own = (
        "caption: Varrow accounts", f"issuer: {stand_in.issuer}", f"client_id: {CLIENT}", f"client_secret: {SECRET}",
    )  # fmt: skip
    return "\n".join((*own, *lines)) + "\n"


Started = Callable[..., FastAPI]


@pytest.fixture
def started(stand_in: StandIn, tmp_path: Path) -> Iterator[Started]:
    """Starts a server that signs on by the stand-in; its administrator is rufus, and ines has a password."""
    apps: list[FastAPI] = []

    def start(*lines: str) -> FastAPI:
        data = tmp_path / f"data{len(apps)}"
        (data / "models" / "tickets").mkdir(parents=True)
        folder = write_folder(data / "models" / "tickets")
        (data / SIGN_ON_FILE).write_text(document(stand_in, *lines))
        app = create_app(Settings(data / "records.db", (folder,), data / "none", provider=read_provider(data)))
        with closing(connect(data / "records.db")) as connection:
            for name in ("rufus", "ines"):
                put_person(connection, Person(name, name, name.title()), hash_password(f"{name}-secret"))
            set_administrator(connection, "rufus", True)
        apps.append(app)
        return app

    yield start
    for each in apps:
        each.state.server.close()


def records_of(app: FastAPI) -> Path:
    path: Path = app.state.server.settings.records
    return path


def sign_on(app: FastAPI, subject: str, to: str = "/") -> tuple[TestClient, str]:
    """Goes to the provider, chooses somebody, and comes back: the browser, and where it ends."""
    client = TestClient(app, raise_server_exceptions=False, follow_redirects=False)
    there = client.get("/api/sign-on/begin", params={"to": to})
    if there.headers["location"].startswith("/"):
        return client, there.headers["location"]
    back = httpx2.get(f"{there.headers['location']}&person={subject}", follow_redirects=False)
    reply = client.get(back.headers["location"].replace("http://testserver", ""))
    assert reply.status_code == 303
    return client, reply.headers["location"]


def administrator(app: FastAPI) -> TestClient:
    client = TestClient(app)
    reply = client.post("/api/session", json={"sign_in": "rufus", "password": "rufus-secret"})
    client.headers["x-dastan-csrf"] = reply.json()["csrf"]
    return client


def person_of(client: TestClient, sign_in: str) -> dict[str, object]:
    everybody = client.get("/api/administration").json()["people"]
    return next(each for each in everybody if each["sign_in"] == sign_in)


def test_whom_the_provider_knows_comes_in_and_is_in_its_groups(started: Started) -> None:
    app = started("admits: everybody")
    rufus = administrator(app)
    planning = rufus.post("/api/administration/groups", json={"name": "Planners"}).json()["id"]
    rufus.put(f"/api/administration/groups/{planning}/claim", json={"claim": "planning"})
    rufus.post("/api/administration/grants", json={"model": "tickets", "group": planning, "role": "trams"})

    client, to = sign_on(app, "s-1", "/draft/7?x=1")
    assert to == "/draft/7?x=1"
    session = client.get("/api/session").json()
    assert session["person"] == {"id": "lena.frost", "name": "Lena Frost", "sign_in": "lena.frost"}
    assert not session["is_administrator"]
    assert [each["name"] for each in client.get("/api/library").json()["models"]] == ["tickets"]
    lena = person_of(rufus, "lena.frost")
    assert (lena["signs_on"], lena["has_password"]) == ("yes", False)
    assert [(each["model"], each["role"], each["group"]) for each in lena["sees"]] == [("tickets", "trams", "Planners")]  # type: ignore[attr-defined]
    shown = rufus.get("/api/administration").json()
    assert (shown["provider"], shown["claims"]) == ("Varrow accounts", ["everybody", "planning"])


def test_groups_follow_the_provider_at_every_sign_on(started: Started, stand_in: StandIn) -> None:
    app = started("admits: everybody")
    rufus = administrator(app)
    sign_on(app, "s-1")
    # A group that is filled later has whoever was named for it before; one that is filled by hand stays as it is.
    made = {
        name: rufus.post("/api/administration/groups", json={"name": name}).json()["id"]
        for name in ("planning", "analysis", "by hand")
    }
    rufus.put(f"/api/administration/groups/{made['by hand']}/people", json={"people": ["lena.frost"]})
    for name in ("planning", "analysis"):
        rufus.put(f"/api/administration/groups/{made[name]}/claim", json={"claim": name})

    def groups() -> dict[str, list[str]]:
        return {each["name"]: each["people"] for each in rufus.get("/api/administration").json()["groups"]}

    assert groups() == {"planning": ["lena.frost"], "analysis": [], "by hand": ["lena.frost"]}
    before = stand_in.people["s-1"]["groups"]
    try:
        stand_in.people["s-1"]["groups"] = "analysis"  # one alone may come as a text
        sign_on(app, "s-1")
        assert groups() == {"planning": [], "analysis": ["lena.frost"], "by hand": ["lena.frost"]}
        del stand_in.people["s-1"]["groups"]  # nothing is said of groups: nothing is changed
        sign_on(app, "s-1")
        assert groups()["analysis"] == ["lena.frost"]
    finally:
        stand_in.people["s-1"]["groups"] = before
    refused = rufus.put(f"/api/administration/groups/{made['analysis']}/people", json={"people": []})
    assert refused.status_code == 422
    assert "filled by" in refused.json()["detail"]
    rufus.put(f"/api/administration/groups/{made['analysis']}/claim", json={"claim": None})
    rufus.put(f"/api/administration/groups/{made['analysis']}/people", json={"people": []})
    assert groups()["analysis"] == []


def test_only_who_is_invited_comes_in_unless_said_otherwise(started: Started) -> None:
    app = started()
    client, to = sign_on(app, "s-1")
    assert to == "/sign-in?trouble=not-invited"
    assert client.get("/api/session").status_code == 403
    told = client.get("/api/sign-on", params={"trouble": "not-invited"}).json()
    assert told["caption"] == "Varrow accounts"
    assert told["trouble"]["message"] == "Varrow accounts knows you, but nobody has let you in here yet."
    rufus = administrator(app)
    added = rufus.post(
        "/api/administration/people", json={"sign_in": "lena.frost", "name": "L. Frost", "signs_on": True}
    )
    assert added.json() == {"path": "/sign-in"}
    assert person_of(rufus, "lena.frost")["signs_on"] == "awaited"
    client, to = sign_on(app, "s-1")
    assert to == "/"
    assert client.get("/api/session").json()["person"]["name"] == "Lena Frost"


def test_a_name_alone_makes_nobody_a_person_who_is_here(started: Started) -> None:
    app = started("admits: everybody")
    assert sign_on(app, "s-2")[1] == "/sign-in?trouble=name-taken"
    rufus = administrator(app)
    rufus.put("/api/administration/people/ines", json={"signs_on": True})
    client, to = sign_on(app, "s-2")
    assert (to, client.get("/api/session").json()["person"]["id"]) == ("/", "ines")
    # Let in once, by the provider's own subject: another one of that name is somebody else.
    rufus.put("/api/administration/people/ines", json={"signs_on": False})
    assert client.get("/api/session").status_code == 403  # at once, wherever they came in
    assert sign_on(app, "s-2")[1] == "/sign-in?trouble=name-taken"
    rufus.put("/api/administration/people/ines", json={"is_disabled": True, "signs_on": True})
    assert sign_on(app, "s-2")[1] == "/sign-in?trouble=shut-out"
    assert sign_on(app, "s-3")[1] == "/sign-in?trouble=no-name"


def test_whoever_signs_out_may_sign_out_at_the_provider_too(started: Started, stand_in: StandIn) -> None:
    client, _ = sign_on(started("admits: everybody"), "s-1")
    there = client.get("/api/sign-on/leave")
    assert there.status_code == 303
    address = urlsplit(there.headers["location"])
    assert f"{address.scheme}://{address.netloc}{address.path}" == f"{stand_in.issuer}/leave"
    assert parse_qs(address.query) == {
        "by": ["link"], "client_id": [CLIENT], "post_logout_redirect_uri": ["http://testserver/sign-in"],
    }  # fmt: skip
    assert httpx2.get(there.headers["location"]).status_code == 200
    stand_in.can_be_left = False
    client, _ = sign_on(started("admits: everybody"), "s-1")
    assert client.get("/api/sign-on/leave").headers["location"] == "/sign-in?trouble=stays"
    told = client.get("/api/sign-on", params={"trouble": "stays"}).json()["trouble"]
    assert told["message"] == "Varrow accounts cannot be left from here."


@pytest.mark.parametrize("spoils", ["issuer", "audience", "nonce", "expired", "key", "shared key", "unsigned"])
def test_a_token_that_does_not_hold_lets_nobody_in(started: Started, stand_in: StandIn, spoils: str) -> None:
    app = started("admits: everybody")
    stand_in.spoils = spoils
    client, to = sign_on(app, "s-1")
    assert to == "/sign-in?trouble=unclear"
    assert client.get("/api/session").status_code == 403
    with closing(connect(records_of(app))) as connection:
        assert [(each.kind, "does not hold" in each.about) for each in find_events(connection)] == [
            ("sign_on_failed", True)
        ]


def test_the_provider_may_tell_of_a_person_when_asked_and_turn_its_key(started: Started, stand_in: StandIn) -> None:
    app = started("admits: everybody")
    stand_in.tells_by_token = False
    assert sign_on(app, "s-1")[1] == "/"
    stand_in.spoils = "details"
    assert sign_on(app, "s-1")[1] == "/sign-in?trouble=unclear"
    stand_in.spoils = ""
    # Another key is looked for, but not again and again.
    stand_in.turn_key()
    assert sign_on(app, "s-1")[1] == "/sign-in?trouble=unclear"
    known = app.state.server.sign_on._known
    app.state.server.sign_on._known = replace(known, at=known.at - 11)
    assert sign_on(app, "s-1")[1] == "/"


def test_a_way_back_belongs_to_the_browser_that_began_it_and_works_once(started: Started, stand_in: StandIn) -> None:
    app = started("admits: everybody")
    client = TestClient(app, follow_redirects=False)
    there = client.get("/api/sign-on/begin")
    query = parse_qs(urlsplit(there.headers["location"]).query)
    assert query["code_challenge_method"] == ["S256"]
    assert query["redirect_uri"] == ["http://testserver/api/sign-on/done"]
    cookie = there.headers["set-cookie"].lower()
    assert "httponly" in cookie
    assert "samesite=lax" in cookie
    assert "path=/api/sign-on" in cookie
    back = httpx2.get(f"{there.headers['location']}&person=s-1", follow_redirects=False)
    path = back.headers["location"].replace("http://testserver", "")
    other = TestClient(app, follow_redirects=False)
    assert other.get(path).headers["location"] == "/sign-in?trouble=stale"  # somebody was sent a link of another's
    other.get("/api/sign-on/begin")
    assert other.get(path).headers["location"] == "/sign-in?trouble=stale"
    assert client.get(path).headers["location"] == "/"
    client.cookies.set(app.state.server.settings.cookie + "_on", "what.ever.else", path="/api/sign-on")
    assert client.get(path).headers["location"] == "/sign-in?trouble=stale"


@pytest.mark.parametrize(
    "to", ["https://elsewhere.example/", "//elsewhere.example", "/\\elsewhere.example", "draft/1", "/" + "x" * 1_001]
)
def test_nobody_is_sent_elsewhere(started: Started, to: str) -> None:
    assert sign_on(started("admits: everybody"), "s-1", to)[1] == "/"


def test_what_the_provider_refuses_and_a_provider_that_is_away(started: Started, stand_in: StandIn) -> None:
    app = started("admits: everybody")
    assert sign_on(app, "nobody")[1] == "/sign-in?trouble=refused"
    stand_in_issuer = stand_in.issuer
    try:
        stand_in.issuer = "http://127.0.0.1:2"  # it calls itself otherwise than the file says
        app.state.server.sign_on._known = None
        assert sign_on(app, "s-1")[1] == "/sign-in?trouble=unreachable"
    finally:
        stand_in.issuer = stand_in_issuer


def test_a_session_lasts_as_long_as_the_provider_s_word_is_taken(started: Started) -> None:
    app = started("admits: everybody", "session_hours: 3")
    client = TestClient(app, follow_redirects=False)
    there = client.get("/api/sign-on/begin")
    back = httpx2.get(f"{there.headers['location']}&person=s-1", follow_redirects=False)
    reply = client.get(back.headers["location"].replace("http://testserver", ""))
    assert "Max-Age=10800" in str(reply.headers)


def test_the_file_is_checked_with_every_fault_and_read_by_its_owner_alone(tmp_path: Path, stand_in: StandIn) -> None:
    assert read_provider(tmp_path) is None
    path = tmp_path / SIGN_ON_FILE
    path.write_text("caption: Accounts\nissuer: http://id.example\nclient_id: x\nsecret: y\nadmits: nobody\n")
    path.chmod(0o644)
    with pytest.raises(InputError) as caught:
        read_provider(tmp_path)
    faults = caught.value.details["faults"]
    assert [each["place"] for each in faults] == [
        "sign-on.yaml, line 2 (issuer)", "sign-on.yaml, line 1 (client_secret)", "sign-on.yaml, line 5 (admits)",
        "sign-on.yaml, line 4 (secret)",
    ]  # fmt: skip
    assert "https://" in faults[0]["message"]
    assert stat.S_IMODE(path.stat().st_mode) == 0o600
    path.write_text(document(stand_in))
    provider = read_provider(tmp_path)
    assert provider is not None
    assert (provider.admits, provider.groups_claim) == ("invited", "groups")
    assert SECRET not in repr(provider)


def test_without_a_provider_there_is_nothing_to_begin(app: FastAPI) -> None:
    client = TestClient(app, follow_redirects=False)
    assert client.get("/api/sign-on").json() == {"caption": None, "trouble": None}
    assert client.get("/api/sign-on/begin").status_code == 404
    assert client.get("/api/sign-on/done").status_code == 404


def test_somebody_is_awaited_from_the_command_line_too(started: Started) -> None:
    app = started()
    assert add_person(records_of(app), "lena.frost", "Lena", False, signs_on=True) == "/sign-in"
    with closing(connect(records_of(app))) as connection:
        put_grant(connection, Grant("tickets", "lena.frost", None, ""))
    client, to = sign_on(app, "s-1")
    assert to == "/"
    assert len(client.get("/api/library").json()["models"]) == 1
