"""Mail that is to go out: written into a folder, one message (RFC 5322) a file, where whoever runs the server picks it
up. It stands in for a server that sends."""

from __future__ import annotations

import mimetypes
from datetime import UTC, datetime
from email.message import EmailMessage
from email.policy import SMTP
from email.utils import format_datetime
from pathlib import Path
from uuid import uuid4

from dastan.exports.written_whole import written_whole
from dastan.records.people import Person

MOST_ATTACHED = 20 * 2**20
"""A larger file is named in the message and not attached: most servers of mail take no more."""


def put_mail(folder: Path, person: Person, subject: str, text: str, file: Path | None = None, name: str = "") -> Path:
    """Writes a message to a person, with a file under a name. Raises SourceError where the folder takes none."""
    message = EmailMessage(policy=SMTP)
    message["Date"] = format_datetime(datetime.now(UTC))
    message["Subject"] = " ".join(subject.split())
    message["To"] = " ".join(f"{person.name} ({person.sign_in})".split())
    message["Message-ID"] = f"<{uuid4().hex}@dastan.invalid>"
    message.set_content(text)
    if file is not None and file.stat().st_size <= MOST_ATTACHED:
        kind, _, sub = (mimetypes.guess_type(name)[0] or "application/octet-stream").partition("/")
        message.add_attachment(file.read_bytes(), maintype=kind, subtype=sub, filename=name)
    folder.mkdir(mode=0o700, exist_ok=True)
    sent = folder / f"{uuid4().hex}.eml"
    with written_whole(sent) as part:
        part.write_bytes(message.as_bytes())
    return sent
