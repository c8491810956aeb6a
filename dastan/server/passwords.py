"""Passwords and session tokens."""

from __future__ import annotations

import hashlib
import secrets

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError

# Source: OWASP's password storage guidance, argon2id with 19 MiB. Checked by whoever signs in, so that many at once
# neither fill the memory nor hold the processors.
_HASHER = PasswordHasher(time_cost=2, memory_cost=19 * 1024, parallelism=1)
# Compared against when there is no such person, so that the time taken does not tell.
_NOBODY = _HASHER.hash(secrets.token_hex())


def hash_password(password: str) -> str:
    """An argon2id hash with its salt and parameters."""
    return _HASHER.hash(password)


def is_password(password: str, password_hash: str | None) -> bool:
    """Whether it is the password; takes as long when there is no hash."""
    try:
        return _HASHER.verify(password_hash or _NOBODY, password) and password_hash is not None
    except (VerificationError, InvalidHashError):
        return False


def is_outdated(password_hash: str) -> bool:
    """Whether a hash was made with other parameters than hashes are made with now."""
    return _HASHER.check_needs_rehash(password_hash)


def new_token() -> str:
    return secrets.token_urlsafe(32)


def hash_token(token: str) -> str:
    """What is kept of a session token: who reads the records cannot sign in with them."""
    return hashlib.sha256(token.encode()).hexdigest()
