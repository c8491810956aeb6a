"""Starts the server over a team's folder, with people made up for a measurement."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path

from dastan.records.database import transaction
from dastan.records.grants import grant_to_person
from dastan.records.people import Person, put_person, set_administrator
from dastan.server.passwords import hash_password
from dastan.server.team import opened
from tests.sources.folder import MODEL as SMALL
from tests.sources.folder import write_folder

MODEL = "varrow_bay"
PASSWORD = "made for a measurement"


def add_people(data: Path, names: list[str]) -> None:
    """People who see every record; the first administers."""
    known = hash_password(PASSWORD)
    with closing(opened(data / "records.db")) as connection, transaction(connection):
        for at, name in enumerate(names):
            put_person(connection, Person(name, name, name.title()), known)
            set_administrator(connection, name, at == 0)
            grant_to_person(connection, name, MODEL)


@contextmanager
def small_team() -> Iterator[Path]:
    """A team's folder with a small model of that name, which is gone afterwards."""
    with tempfile.TemporaryDirectory(prefix="dastan-team-", ignore_cleanup_errors=True) as name:
        folder = Path(name) / "models" / MODEL
        folder.mkdir(parents=True)
        write_folder(folder, model=SMALL.replace("name: tickets", f"name: {MODEL}"))
        yield Path(name)


def start(data: Path, port: int, *options: str) -> subprocess.Popen[bytes]:
    """The server, once it answers."""
    log = (data / "server.log").open("ab")
    command = [sys.executable, "-m", "dastan", "serve", "--data", str(data), "--port", str(port), *options]
    process = subprocess.Popen(command, stdout=log, stderr=subprocess.STDOUT)
    for _ in range(600):
        try:
            urllib.request.urlopen(f"http://127.0.0.1:{port}/", timeout=2).close()
            return process
        except OSError:
            if process.poll() is not None:
                raise RuntimeError((data / "server.log").read_text()) from None
            time.sleep(0.1)
    raise RuntimeError("The server does not answer.")


def processor_s(process: subprocess.Popen[bytes]) -> float:
    """The processor time that a process has used, its system calls among it."""
    fields = Path(f"/proc/{process.pid}/stat").read_text().rsplit(") ", 1)[1].split()
    return (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK")


def stolen_s() -> float:
    """The processor time that this machine wanted and others on the same hardware had, since it started."""
    return int(Path("/proc/stat").read_text().split("\n", 1)[0].split()[8]) / os.sysconf("SC_CLK_TCK")


def resident_mb(process: subprocess.Popen[bytes]) -> float:
    """The memory that a process has of its own: what it maps of files is the system's to take back."""
    lines = Path(f"/proc/{process.pid}/status").read_text().splitlines()
    found = {line.split(":")[0]: int(line.split()[1]) for line in lines if line.startswith("Rss")}
    return found["RssAnon"] / 1024
