"""Parts of an analysis as files: what its reader may see of it, written for other programs and for keeping."""

from __future__ import annotations

from pathlib import Path

from dastan.core.analysis.document import Analysis
from dastan.core.analysis.made import with_made
from dastan.core.analysis.sentence import sentence_of
from dastan.core.engine.watch import Watch
from dastan.exports.feed import FeedKind, FeedPart, write_feed
from dastan.exports.files import About
from dastan.exports.seen import SeenTable
from dastan.server.context import Server
from dastan.server.readers import Reader


def table_of(document: Analysis, reader: Reader, server: Server, watch: Watch) -> SeenTable:
    """A document's table as its reader sees it."""
    _, answer = server.answers.ask(document, reader.shelved, reader.rights, watch)
    model = with_made(reader.shelved.model, document)
    return SeenTable(answer, document, document.dress, model, reader.members_of(document))


def write_part(
    document: Analysis, reader: Reader, server: Server, file: Path, part: FeedPart, kind: FeedKind, watch: Watch
) -> None:
    """Writes one part of a document as one kind of file. Raises what `write_feed` raises."""
    table = table_of(document, reader, server, watch)
    model = with_made(reader.shelved.model, document)
    text = sentence_of(document, model, reader.members_of(document), reader.seen_as).text
    write_feed(table, document.dress, About(text, model.caption, reader.person.name), file, part, kind, watch)
