"""Parts of an analysis as files: what its reader may see of it, written for other programs and for keeping."""

from __future__ import annotations

from pathlib import Path

from dastan.core.analysis.document import Analysis
from dastan.core.analysis.made import with_made
from dastan.core.analysis.sentence import sentence_of
from dastan.core.engine.watch import Watch
from dastan.exports.kinds import FeedKind, FeedPart
from dastan.exports.order import About, Order
from dastan.exports.seen import SeenTable
from dastan.server.context import Server
from dastan.server.readers import Reader


def table_of(document: Analysis, reader: Reader, server: Server, watch: Watch) -> SeenTable:
    """A document's table as its reader sees it."""
    _, answer = server.answers.ask(document, reader.shelved, reader.rights, watch)
    model = with_made(reader.shelved.model, document)
    return SeenTable(answer, document, document.dress, model, reader.members_of(document))


def write_part(
    document: Analysis, reader: Reader, server: Server, file: Path, part: FeedPart, kind: FeedKind, words: str,
    watch: Watch,
) -> None:  # fmt: skip
    """Writes one part of a document as one kind of file; `words` say what for. Raises what `Writing.write` raises."""
    table = table_of(document, reader, server, watch)
    model = with_made(reader.shelved.model, document)
    text = sentence_of(document, model, reader.members_of(document), reader.seen_as).text
    about = About(text, model.caption, reader.person.name)
    server.writing.write(Order(table, document.dress, about, file, part, kind), reader.person.id, words, watch)
