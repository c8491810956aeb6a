"""Secrets that others gave to the server, such as a database's password: sealed with a key that lies beside the
records, and never in them, in a model, a log, an error or an export."""

from __future__ import annotations

import os
from pathlib import Path
from threading import Lock

from cryptography.fernet import Fernet, InvalidToken

from dastan.core.errors import SourceError


class Sealer:
    """Seals and opens with the key of a file, made when it is first needed. Safe for threads, under its lock."""

    def __init__(self, file: Path) -> None:
        self._file = file
        self._lock = Lock()

    def sealed(self, secret: str) -> bytes:
        return self._key(is_new=True).encrypt(secret.encode())

    def opened(self, sealed: bytes) -> str:
        """Raises SourceError where the key is another, or gone."""
        try:
            return self._key(is_new=False).decrypt(sealed).decode()
        except (InvalidToken, FileNotFoundError, ValueError) as error:
            raise SourceError(
                f"What was sealed cannot be opened: its key is not in {self._file.name}.",
                "Put the key's file back beside the records, or make the connection anew.",
            ) from error

    def _key(self, is_new: bool) -> Fernet:
        with self._lock:
            if is_new and not self._file.exists():
                coming = self._file.with_name(f"{self._file.name}.making")
                coming.unlink(missing_ok=True)  # of a server that ended in the middle
                number = os.open(coming, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
                with os.fdopen(number, "wb") as file:
                    file.write(Fernet.generate_key())
                    file.flush()
                    os.fsync(file.fileno())
                coming.rename(self._file)
            return Fernet(self._file.read_bytes())
