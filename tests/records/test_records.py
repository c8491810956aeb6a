"""Records in a real SQLite file: migrations, conflicts, who sees what."""

from __future__ import annotations

import hashlib
import sqlite3
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing
from pathlib import Path

import pytest

from dastan.core.errors import ConflictError, NotFoundError, SourceError
from dastan.records import analyses, database, drafts, item_rights, people
from dastan.records.database import connect, migrate, migrations, transaction, trouble_of


@pytest.fixture
def records(tmp_path: Path) -> Iterator[sqlite3.Connection]:
    connection = connect(tmp_path / "records.db")
    migrate(connection)
    for name in ("ines", "tomas"):
        people.put_person(connection, people.Person(name, name, name.title()), None)
    yield connection
    connection.close()


def put(records: sqlite3.Connection, id: str = "a1", owner: str = "ines") -> None:
    analyses.put_analysis(
        records, id=id, model="m", owner=owner, name="Ridership", description="", folder=None, document="{}",
        sentence="Boardings", now="2026-01-01",
    )  # fmt: skip


def change(records: sqlite3.Connection, version: int) -> None:
    analyses.change_analysis(
        records, id="a1", version=version, person="ines", name="Ridership 2", description="", document="{}",
        sentence="Boardings", now="2026-01-02",
    )  # fmt: skip


def grant(records: sqlite3.Connection, may: item_rights.May) -> None:
    item_rights.set_grants(records, "item", "a1", [item_rights.ItemGrant("tomas", None, "", may)])


def test_migrating_twice_changes_nothing(records: sqlite3.Connection) -> None:
    before = records.execute("SELECT sql FROM sqlite_master ORDER BY name").fetchall()
    migrate(records)
    assert [tuple(each) for each in records.execute("SELECT sql FROM sqlite_master ORDER BY name")] == [
        tuple(each) for each in before
    ]
    assert [number for number, _ in migrations()] == list(range(1, len(migrations()) + 1))


def test_a_changed_or_newer_migration_is_refused(records: sqlite3.Connection) -> None:
    records.execute("UPDATE migrations SET checksum = 'other' WHERE number = 1")
    with pytest.raises(SourceError, match="Migration 1 differs"):
        migrate(records)
    records.execute("INSERT INTO migrations VALUES (999, 'x')")
    with pytest.raises(SourceError, match="newer Dastan"):
        migrate(records)


def test_a_failed_transaction_leaves_nothing(records: sqlite3.Connection) -> None:
    def fail_halfway() -> None:
        with transaction(records):
            put(records)
            raise RuntimeError

    with pytest.raises(RuntimeError):
        fail_halfway()
    assert analyses.analyses_seen_by(records, "ines") == []


def test_records_are_synced_and_keep_their_references(records: sqlite3.Connection) -> None:
    assert records.execute("PRAGMA journal_mode").fetchone()[0] == "wal"
    assert records.execute("PRAGMA synchronous").fetchone()[0] == 2
    with pytest.raises(sqlite3.IntegrityError):
        put(records, owner="nobody")


def test_a_file_that_is_no_database_is_said_plainly(tmp_path: Path) -> None:
    (tmp_path / "records.db").write_text("not a database, by any means" * 50)
    with pytest.raises(SourceError, match="cannot be opened"):
        connect(tmp_path / "records.db")


def test_an_analysis_is_seen_by_its_owner_and_those_it_is_shared_with(records: sqlite3.Connection) -> None:
    put(records)
    with pytest.raises(NotFoundError):
        analyses.analysis_seen_by(records, "tomas", "a1")
    grant(records, "explore")
    assert not analyses.analysis_seen_by(records, "tomas", "a1").may_change
    grant(records, "change")
    assert analyses.analysis_seen_by(records, "tomas", "a1").may_change
    item_rights.set_grants(records, "item", "a1", [])
    assert analyses.analyses_seen_by(records, "tomas") == []


def test_two_people_cannot_overwrite_each_other_unseen(records: sqlite3.Connection) -> None:
    put(records)
    change(records, version=1)
    with pytest.raises(ConflictError, match="was saved by somebody else"):
        change(records, version=1)
    assert analyses.analysis_seen_by(records, "ines", "a1").version == 2


def begin(records: sqlite3.Connection) -> None:
    drafts.put_draft(
        records, id="d1", person="ines", model="m", analysis=None, analysis_version=None,
        first=drafts.DraftStep("s0", None, "an empty sheet", "", "{}"), now="2026-01-01",
    )  # fmt: skip


def take(records: sqlite3.Connection, id: str, parent: str, words: str) -> None:
    drafts.keep_step(records, "d1", drafts.DraftStep(id, parent, words, words, "{}"), "2026-01-02")


def test_a_step_after_an_undo_branches_off_what_was_undone(records: sqlite3.Connection) -> None:
    begin(records)
    for id, parent, words in (("s1", "s0", "Boardings"), ("s2", "s1", "by Mode"), ("s3", "s2", "against Calendar")):
        take(records, id, parent, words)
    drafts.move_draft(records, "d1", "s1", "2026-01-01")
    take(records, "s4", "s1", "by Stop")
    assert [(each.id, each.parent) for each in drafts.steps_of(records, "d1")] == [
        ("s0", None), ("s1", "s0"), ("s2", "s1"), ("s3", "s2"), ("s4", "s1"),
    ]  # fmt: skip
    assert drafts.find_draft(records, "ines", "d1").shown_step == "s4"
    drafts.name_step(records, "d1", "s3", "with months")
    assert [each.name for each in drafts.steps_of(records, "d1")] == ["", "", "", "with months", ""]


def test_trails_kept_before_they_could_branch_are_all_there(tmp_path: Path) -> None:
    connection = connect(tmp_path / "old.sqlite")
    for number, sql in migrations()[:2]:
        connection.executescript(sql)
        checksum = hashlib.sha256(sql.encode()).hexdigest()
        connection.execute("CREATE TABLE IF NOT EXISTS migrations (number INTEGER PRIMARY KEY, checksum TEXT) STRICT")
        connection.execute("INSERT INTO migrations VALUES (?, ?)", (number, checksum))
    connection.execute("INSERT INTO people VALUES ('ines', 'ines', 'Ines', NULL)")
    connection.execute("INSERT INTO drafts VALUES ('d1', 'ines', 'm', NULL, NULL, 1, 2, '2026-01-01')")
    for number in range(3):
        connection.execute("INSERT INTO draft_steps VALUES ('d1', ?, ?, '', '{}')", (number, f"step {number}"))
    migrate(connection)
    kept = [(each.id, each.parent, each.words) for each in drafts.steps_of(connection, "d1")]
    assert kept == [("0", None, "step 0"), ("1", "0", "step 1"), ("2", "1", "step 2")]
    found = drafts.find_draft(connection, "ines", "d1")
    assert (found.shown_step, found.saved_step) == ("1", "2")


def test_a_draft_is_listed_until_what_it_shows_is_saved(records: sqlite3.Connection) -> None:
    begin(records)
    assert drafts.unsaved_drafts(records, "ines") == []
    take(records, "s1", "s0", "Boardings")
    assert [each.sentence for each in drafts.unsaved_drafts(records, "ines")] == ["Boardings"]
    put(records)
    drafts.note_saved(records, "d1", "a1", 1, "s1")
    assert drafts.unsaved_drafts(records, "ines") == []
    take(records, "s2", "s1", "Taps")
    assert [each.analysis_name for each in drafts.unsaved_drafts(records, "ines")] == ["Ridership"]


def test_a_draft_is_its_persons_own(records: sqlite3.Connection) -> None:
    begin(records)
    with pytest.raises(NotFoundError):
        drafts.find_draft(records, "tomas", "d1")


def test_untouched_drafts_are_forgotten_and_changed_ones_never(records: sqlite3.Connection) -> None:
    begin(records)
    drafts.forget_untouched(records, "ines", "2025-12-31")
    assert drafts.find_draft(records, "ines", "d1")
    take(records, "s1", "s0", "Taps")
    drafts.move_draft(records, "d1", "s0", "2026-01-02")
    drafts.forget_untouched(records, "ines", "2027-01-01")
    assert len(drafts.steps_of(records, "d1")) == 2
    records.execute("DELETE FROM trail_steps WHERE parent IS NOT NULL")
    drafts.forget_untouched(records, "ines", "2027-01-01")
    with pytest.raises(NotFoundError):
        drafts.find_draft(records, "ines", "d1")


def test_an_expired_session_is_none(records: sqlite3.Connection) -> None:
    people.put_session(
        records, token_hash="hash", id="one", person="ines", csrf="csrf", began_at="2026-01-01", expires_at="2026-01-02"
    )
    assert people.find_session(records, "hash", "2026-01-01") is not None
    assert people.find_session(records, "hash", "2026-01-03") is None
    people.forget_expired_sessions(records, "2026-01-03")
    assert records.execute("SELECT count(*) FROM sessions").fetchone()[0] == 0


def test_many_that_write_at_once_wait_for_their_turn_and_none_is_lost(tmp_path: Path) -> None:
    path = tmp_path / "records.db"
    with closing(connect(path)) as connection:
        connection.execute("CREATE TABLE counted (number INTEGER) STRICT")
        connection.execute("INSERT INTO counted VALUES (0)")

    def count(_: int) -> None:
        with closing(connect(path)) as own:
            for _ in range(20):
                with transaction(own):
                    (number,) = own.execute("SELECT number FROM counted").fetchone()
                    own.execute("UPDATE counted SET number = ?", (number + 1,))

    with ThreadPoolExecutor(8) as threads:
        list(threads.map(count, range(8)))
    with closing(connect(path)) as connection:
        assert connection.execute("SELECT number FROM counted").fetchone()[0] == 8 * 20


def test_who_waits_too_long_for_a_turn_is_told_and_the_next_may_write(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(database, "BUSY_TIMEOUT_S", 0.05)
    path = tmp_path / "records.db"
    with closing(connect(path)) as one, closing(connect(path)) as other:
        one.execute("CREATE TABLE counted (number INTEGER) STRICT")
        with transaction(one), pytest.raises(sqlite3.OperationalError, match="locked") as told, transaction(other):
            pass
        assert "held by another" in trouble_of(told.value).message
        with transaction(other):
            other.execute("INSERT INTO counted VALUES (1)")
        assert one.execute("SELECT count(*) FROM counted").fetchone()[0] == 1
