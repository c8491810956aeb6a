"""Dastan from code: `dastan.open` a folder, or a server by its address and a token; `ask` it in words or by a document.

>>> model = dastan.open("varrow_bay")  # doctest: +SKIP
>>> model.ask("boardings by mode against quarter for 2025")  # doctest: +SKIP
"""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any, Protocol
from urllib.parse import quote

if TYPE_CHECKING:
    import numpy as np
    import pyarrow as pa

    from dastan.core.analysis.document import Analysis
    from dastan.sources.folders.folder import OpenModel

Question = str | dict[str, Any] | Path
"""A sentence, an analysis document, or the file of one (.json)."""
_PATIENCE_S = 180.0
MOST_SHOWN = 20_000
"""So many innermost numbers a notebook shows as a table."""


def open(where: str | Path, *, model: str = "", token: str = "") -> Model:
    """A model to be asked.

    Args:
        where: a folder with a `model.yaml`, or that file; or a server's address, "https://dastan.example".
        model: on a server, the model's name; not needed where there is one only.
        token: on a server, a token that was made there.

    Raises: AppError, which says what is wrong and what to do.
    """
    if str(where).startswith(("http://", "https://")):
        return _Remote(str(where).rstrip("/"), model, token)
    from dastan.sources.columnar.cut_short import CUT_SHORT
    from dastan.sources.folders.folder import open_folder

    CUT_SHORT.watch()
    return _Folder(open_folder(Path(where)))


class Model(Protocol):
    """Something that can be asked."""

    def ask(self, question: Question) -> Table:
        """The answer to a sentence, to an analysis document, or to a file of one (.json). Raises AppError."""
        ...


@dataclass(frozen=True)
class Table:
    """An answer: `sentence` says what it is. It shows itself in a notebook, and set in columns when it is printed; how
    it looks is worked out then."""

    sentence: str
    _arrow: pa.Table
    _text: Callable[[], str]
    _html: Callable[[], str]

    def arrow(self) -> pa.Table:
        """The innermost numbers: a column for each level and each measure, decimals exact, labels as dictionaries."""
        return self._arrow

    def columns(self) -> dict[str, np.ndarray]:
        """The same as NumPy arrays by name: labels as objects; numbers as float64, NaN where there is none."""
        import numpy as np
        import pyarrow as pa

        found = {}
        for name, column in zip(self._arrow.column_names, self._arrow.columns, strict=True):
            if pa.types.is_dictionary(column.type):
                found[name] = np.array(column.to_pylist(), dtype=object)
            else:
                found[name] = column.cast(pa.float64()).to_numpy(zero_copy_only=False)
        return found

    def frame(self) -> Any:
        """The same as a data frame, where pandas is installed."""
        return self._arrow.to_pandas()

    def __len__(self) -> int:
        return int(self._arrow.num_rows)

    def __str__(self) -> str:
        return f"{self.sentence}\n\n{self._text()}"

    __repr__ = __str__

    def _repr_html_(self) -> str | None:
        """None for a table that is too large for a notebook, which then prints it."""
        return self._html() if self._arrow.num_rows <= MOST_SHOWN else None


class _Folder:
    """A model that is read here."""

    def __init__(self, opened: OpenModel) -> None:
        self._opened = opened

    def ask(self, question: Question) -> Table:
        from dastan.core.analysis.sentence import sentence_of
        from dastan.core.engine.watch import Watch
        from dastan.exports.arrow import arrow_table
        from dastan.exports.page import table_of
        from dastan.exports.seen import seen_by_all
        from dastan.exports.terminal import set_table

        model, source = self._opened.model, self._opened.source
        document = self._document(question)
        table = seen_by_all(document, model, source, "code")
        sentence = sentence_of(document, model, source.members).text
        arrow = arrow_table(table.flat(), {"sentence": sentence}, Watch())
        return Table(sentence, arrow, lambda: "\n".join(set_table(table)), lambda: "".join(table_of(table, Watch())))

    def _document(self, question: Question) -> Analysis:
        from dastan.core.analysis.taken_joints import with_joints_of_model
        from dastan.core.words.asked import document_of
        from dastan.core.words.vocabulary import Vocabulary
        from dastan.documents.read import read_analysis

        if isinstance(question, str):
            return document_of(question, Vocabulary(self._opened.model, self._opened.source.members))
        text = question.read_text(encoding="utf-8") if isinstance(question, Path) else json.dumps(question)
        return with_joints_of_model(read_analysis(text), self._opened.model)


class _Remote:
    """A model on a server."""

    def __init__(self, address: str, model: str, token: str) -> None:
        self._address, self._token = address, token
        self._model = model or self._only_model()

    def ask(self, question: Question) -> Table:
        import pyarrow.ipc

        reader = pyarrow.ipc.open_stream(self._read("numbers.arrows", question))
        arrow = reader.read_all()
        sentence = (arrow.schema.metadata or {}).get(b"sentence", b"").decode()

        def html() -> str:
            page = self._read("table.html", question).decode()
            return page[page.index("<table>") : page.rindex("</table>") + len("</table>")]

        return Table(sentence, arrow, lambda: self._read("table.txt", question).decode().rstrip("\n"), html)

    def _only_model(self) -> str:
        from dastan.core.errors import InputError

        names = [each["name"] for each in json.loads(self._send("GET", f"{self._address}/feeds/models"))]
        if len(names) == 1:
            return str(names[0])
        raise InputError(
            "There are several models there." if names else "There is no model that this token may read.",
            f"Say which: {', '.join(names)}." if names else "Ask an administrator to let you open one.",
        )

    def _read(self, part: str, question: Question) -> bytes:
        place = f"{self._address}/feeds/models/{quote(self._model)}/{part}"
        if isinstance(question, str):
            return self._send("GET", f"{place}?sentence={quote(question)}")
        text = question.read_text(encoding="utf-8") if isinstance(question, Path) else json.dumps(question)
        return self._send("POST", place, text)

    def _send(self, method: str, place: str, body: str = "") -> bytes:
        import httpx2

        from dastan.core.errors import InputError, SourceError

        headers = {"authorization": f"Bearer {self._token}", "content-type": "application/json"}
        try:
            reply = httpx2.request(
                method, place, headers=headers, content=body or None, timeout=_PATIENCE_S, follow_redirects=False
            )
        except httpx2.HTTPError as error:
            raise SourceError(
                f"{self._address} does not answer: {error}.", "Check the address, and that it runs."
            ) from error
        if reply.is_success:
            return bytes(reply.content)
        try:
            said = reply.json()
            raise InputError(said["detail"], said.get("hint", ""), code=said.get("code"))
        except (ValueError, KeyError) as error:
            raise SourceError(f"{place} answered {reply.status_code}.", "Check the address.") from error
