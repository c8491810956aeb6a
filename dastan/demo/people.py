"""The demo's people, made up; their passwords are printed for whoever starts the demo."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from dastan.records.database import transaction
from dastan.records.grants import EVERY_RECORD, grant_to_person, roles_granted
from dastan.records.people import Person, all_people, put_person, set_administrator
from dastan.server.passwords import hash_password

DEMO_MODEL = "varrow_bay"


@dataclass(frozen=True, slots=True)
class DemoPerson:
    sign_in: str
    name: str
    password: str
    role: str
    is_administrator: bool = False
    sees_as: str = ""
    """The role of the demo's model by which this person sees only some records."""


DEMO_PEOPLE = (
    DemoPerson("ines", "Ines Calder", "harbour-light", "analyst"),
    DemoPerson("tomas", "Tomas Wray", "night-ferry", "colleague"),
    DemoPerson("oda", "Oda Fenn", "harbour-bell", "ferry desk", sees_as="ferry_desk"),
    DemoPerson("rufus", "Rufus Hale", "lantern-keys", "administrator", is_administrator=True),
)


def put_demo_people(connection: sqlite3.Connection) -> None:
    """Adds those who are not there yet, and lets each see what the demo means them to see."""
    known = {each.id for each in all_people(connection)}
    for each in DEMO_PEOPLE:
        with transaction(connection):
            if each.sign_in not in known:
                put_person(connection, Person(each.sign_in, each.sign_in, each.name), hash_password(each.password))
                set_administrator(connection, each.sign_in, each.is_administrator)
            if roles_granted(connection, each.sign_in, DEMO_MODEL) is None:
                grant_to_person(connection, each.sign_in, DEMO_MODEL, each.sees_as or EVERY_RECORD)
