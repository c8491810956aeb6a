"""Whom of those that the provider vouches for the team lets in, and as which person."""

from __future__ import annotations

import re
import sqlite3

from dastan.records.database import transaction
from dastan.records.events import note_event
from dastan.records.identities import all_who_sign_on, let_sign_on, person_of_identity, set_claims
from dastan.records.people import SIGN_IN_PATTERN, Person, all_people, find_person, put_name, put_person
from dastan.server.clock import now
from dastan.server.sign_on.exchange import Claims
from dastan.server.sign_on.provider import Provider
from dastan.server.sign_on.trouble import SignOnError


def admitted(provider: Provider, claims: Claims, connection: sqlite3.Connection) -> Person:
    """The person, added where the provider's word is enough for that, and in the groups that it names.

    A person is told by the provider's own subject. A name alone never makes somebody a person who is here already:
    at the provider people may choose their names. Raises SignOnError.
    """
    with transaction(connection):
        known = person_of_identity(connection, claims.issuer, claims.subject)
        person = known or _newcomer(provider, claims, connection)
        if person.is_disabled:
            raise SignOnError("shut-out", person.sign_in)
        if known is None:
            let_sign_on(connection, person.id, claims.issuer, claims.subject)
        if claims.name and claims.name != person.name:
            put_name(connection, person.id, claims.name)
        if claims.groups is not None:
            set_claims(connection, person.id, claims.groups)
        return find_person(connection, person.id) or person


def _newcomer(provider: Provider, claims: Claims, connection: sqlite3.Connection) -> Person:
    """The person that somebody becomes who comes for the first time."""
    if not re.match(SIGN_IN_PATTERN, claims.sign_in):
        raise SignOnError("no-name", claims.sign_in)
    here = (each for each in all_people(connection) if claims.sign_in in (each.id, each.sign_in))
    found = next(here, None)
    if found is not None:
        if all_who_sign_on(connection).get(found.id) != "awaited":
            raise SignOnError("name-taken", claims.sign_in)
        return found
    if provider.admits != "everybody":
        raise SignOnError("not-invited", claims.sign_in)
    person = Person(claims.sign_in, claims.sign_in, claims.name or claims.sign_in)
    put_person(connection, person, None)
    note_event(connection, now(), "person_added", None, f"{person.sign_in}, by {provider.caption}")
    return person
