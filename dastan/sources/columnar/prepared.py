"""What was worked out from a folder's files, kept beside them: opened by mapping it into memory, not by reading it.

A folder `.dastan/prepared/<fingerprint>` holds each array as a NumPy file and each raw column as an Arrow file, both
open formats, and `manifest.jsonl`, which names them with their length and checksum, a line for each thing kept. The
fingerprint is of the model and of every file that it reads, so that what is kept never outlives what it was made from.
A file is written under another name, brought to the disk and then renamed, its line in the manifest after it: whatever
happens in between, what is named there is whole. Who made it need not wait for the disk: the file is used at once, and
settles in a thread of its own.
"""

from __future__ import annotations

import hashlib
import io
import json
import logging
import os
import secrets
import shutil
import time
import zlib
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor, wait
from contextlib import suppress
from pathlib import Path
from threading import RLock
from typing import Any, BinaryIO, TypeVar

import numpy as np
import pyarrow as pa

from dastan.core.values import Values
from dastan.sources.columnar.blocks import Zones
from dastan.sources.columnar.dimension_rows import Pointers
from dastan.sources.columnar.scan import Summand
from dastan.version import __version__

_T = TypeVar("_T")

LAYOUT = 5
"""Raised when the same files would be kept in another way."""
MISSING = object()
_MANIFEST = "manifest.jsonl"
_CHUNK = 1 << 24
_LEFT_AFTER_S = 3600
"""No file takes so long to be written: who began it has ended."""
_LONGEST_TEXT = 1 << 31
"""No piece of a text column has room for more bytes."""
_logger = logging.getLogger(__name__)


def fingerprint(files: list[Path], model: str) -> str:
    """Of a model's text and of the files that it reads, by their names, lengths and times of change, and by what they
    hold: all of a small file, and of a larger one blocks throughout. Another version of Dastan may read them otherwise,
    and makes all anew."""
    found = hashlib.sha256(f"{LAYOUT}\n{__version__}\n{model}".encode())
    for each in sorted(files):
        state = each.stat()
        found.update(f"{each}\n{state.st_size}\n{state.st_mtime_ns}\n".encode())
        step = max(_BLOCK, state.st_size // _BLOCKS)
        with each.open("rb", buffering=0) as file:
            for start in range(0, state.st_size, step):
                file.seek(start)
                found.update(file.read(_BLOCK))
    return found.hexdigest()[:16]


_BLOCK, _BLOCKS = 4_096, 64


class Prepared:
    """What is kept for one state of a folder. Safe for threads."""

    def __init__(self, root: Path, name: str) -> None:
        self._root = root
        self.folder = root / name
        self._lock = RLock()
        self._can_write = True
        self._own: set[str] = set()
        """The files that this process wrote."""
        self._manifest: dict[str, dict[str, Any]] = {}
        self._coming: dict[str, dict[str, Any]] = {}
        """What is being brought to the disk, and not named in the manifest yet."""
        self._settler = ThreadPoolExecutor(1, thread_name_prefix="settling")
        self._settling: dict[str, Future[None]] = {}
        self._mark = secrets.token_hex(4)
        self._read_manifest()

    @property
    def is_filled(self) -> bool:
        """Whether anything is kept by now."""
        return bool(self._manifest)

    @property
    def has_written(self) -> bool:
        """Whether this process made what is kept, or some of it."""
        return self._can_write and bool(self._own)

    def get(self, key: object) -> Any:
        """What is kept under a key, mapped into memory; MISSING where nothing whole is."""
        with self._lock:
            entry = self._manifest.get(_name(key))
        if entry is None:
            return MISSING
        arrays = []
        for each in entry["files"]:
            file = self.folder / each["file"]
            if not file.is_file() or file.stat().st_size != each["size"]:
                return MISSING
            try:
                arrays.append(_mapped_array(file))
            except ValueError:
                return MISSING  # its head is damaged
        return _decoded(entry["kind"], entry["meta"], arrays)

    def has(self, key: object) -> bool:
        """Whether something is kept under a key."""
        with self._lock:
            return _name(key) in self._manifest

    def put(self, key: object, value: Any) -> Any:
        """Keeps a value and returns it as it is mapped; the value itself where it cannot be kept."""
        found = _encoded(value)
        if found is None:
            return value
        kind, meta, arrays = found
        name = _name(key)
        writers = {f"{name}-{at}.npy": _npy(each) for at, each in enumerate(arrays)}
        of = key[0] if isinstance(key, tuple) else ""
        entry = {"key": repr(key), "of": of, "kind": kind, "meta": meta}
        return self._kept(name, entry, writers, value, lambda files: _decoded(kind, meta, [*map(_mapped_array, files)]))

    def column(self, table: str, column: str, read: Callable[[], pa.ChunkedArray]) -> pa.ChunkedArray:
        """A raw column of a table, mapped into memory; read and kept first where it is not there."""
        name = _name(("column", table, column))
        with self._lock:
            entry = self._manifest.get(name)
        if entry is not None:
            file = self.folder / entry["files"][0]["file"]
            if file.is_file() and file.stat().st_size == entry["files"][0]["size"]:
                with suppress(pa.ArrowInvalid):  # its head or foot is damaged
                    return _mapped_column(file)
        values, file_name = read(), f"{name}.arrow"
        entry = {"key": repr((table, column)), "of": "column", "kind": "column", "meta": None}
        writers = {file_name: lambda to: _write_column(to, values)}
        return self._kept(name, entry, writers, values, lambda files: _mapped_column(files[0]))

    def broken(self) -> list[str]:
        """The files that are not as another process wrote them, by reading all of them. They are forgotten."""
        with self._lock:
            entries = dict(self._manifest)
        wrong = []
        for name, entry in entries.items():
            for each in entry["files"]:
                file = self.folder / each["file"]
                if each["file"] in self._own:
                    continue
                if not file.is_file() or (file.stat().st_size, _checksum(file)) != (each["size"], each["crc32"]):
                    wrong.append(each["file"])
                    self._note(name, None)
        return wrong

    def settle(self) -> None:
        """Waits until all that was put by now is on the disk, or could not be."""
        with self._lock:
            settling = list(self._settling.values())
        wait(settling)

    def forget_others(self) -> None:
        """Takes away what is kept of earlier states of the folder, and what was left half-written long ago."""
        for each in self._root.iterdir() if self._root.is_dir() else ():
            if each != self.folder:
                shutil.rmtree(each, ignore_errors=True)
        for each in self.folder.glob("*.making"):
            with suppress(FileNotFoundError):
                if each.stat().st_mtime < time.time() - _LEFT_AFTER_S:
                    each.unlink()

    def size_bytes(self, kinds: tuple[str, ...] | None = None) -> int:
        """How much is kept, or of some kinds of things: what their keys begin with; being written included."""
        with self._lock:
            entries = (self._manifest | self._coming).values()
            return sum(_size(each) for each in entries if kinds is None or each["of"] in kinds)

    def remove(self, kind: str, least_bytes: int) -> None:
        """Takes things of a kind away, the largest first, until so much is gone or none is left."""
        with self._lock:
            own = [(name, _size(entry)) for name, entry in self._manifest.items() if entry["of"] == kind]
        for name, size in sorted(own, key=lambda each: -each[1]):
            if least_bytes <= 0:
                return
            least_bytes -= size
            with self._lock:
                files = self._manifest[name]["files"]
            self._note(name, None)
            for each in files:
                (self.folder / each["file"]).unlink(missing_ok=True)  # whoever has it mapped goes on with it

    def _kept(
        self,
        name: str,
        entry: dict[str, Any],
        writers: dict[str, Callable[[io.RawIOBase], None]],
        value: _T,
        read: Callable[[list[Path]], _T],
    ) -> _T:
        """A value as it is read from its files, which settle afterwards; itself where the folder takes none, which is
        not tried again."""
        with self._lock:
            before = self._settling.get(name)
        if before is not None:
            wait([before])
        if not self._can_write:
            return value
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
            written = [self._write(file, write) for file, write in writers.items()]
            found = read([self._making(each["file"]) for each in written])
        except OSError:
            self._give_up()
            return value
        whole = entry | {"files": written}
        with self._lock:
            self._coming[name] = whole
            self._settling[name] = self._settler.submit(self._settle, name, whole)
        return found

    def _write(self, name: str, write: Callable[[io.RawIOBase], None]) -> dict[str, Any]:
        with self._making(name).open("wb") as file:
            summed = _Summed(file)
            write(summed)
        return {"file": name, "size": summed.size, "crc32": summed.crc32}

    def _settle(self, name: str, entry: dict[str, Any]) -> None:
        """Brings the files of an entry to the disk, and only then names them."""
        try:
            for each in entry["files"]:
                making = self._making(each["file"])
                with making.open("rb") as file:
                    os.fsync(file.fileno())
                making.replace(self.folder / each["file"])
                self._own.add(each["file"])
            self._note(name, entry)
        except OSError:
            self._give_up()
        finally:
            with self._lock:
                self._settling.pop(name, None)
                self._coming.pop(name, None)

    def _making(self, name: str) -> Path:
        """Where a file is written: a place of its own, for another process may be making the same."""
        return self.folder / f"{name}.{self._mark}.making"

    def _give_up(self) -> None:
        _logger.exception("What was worked out cannot be kept in %s", self.folder)
        self._can_write = False

    def _note(self, name: str, entry: dict[str, Any] | None) -> None:
        """Adds a line to the manifest: what a name stands for from now on, None for nothing any more."""
        line = json.dumps({"name": name, "entry": entry}).encode()
        with self._lock:
            if entry is not None:
                self._manifest[name] = entry
            else:
                self._manifest.pop(name, None)
            with (self.folder / _MANIFEST).open("ab") as file:
                file.write(b"\n" + line)  # before it, for the last line may be torn

    def _read_manifest(self) -> None:
        try:
            written = (self.folder / _MANIFEST).read_bytes()
        except FileNotFoundError:
            return
        except OSError:
            _logger.warning("The manifest in %s cannot be read; what it names is made anew", self.folder)
            return
        for line in filter(None, written.splitlines()):
            try:
                read = json.loads(line)
                self._manifest[read["name"]] = read["entry"]
            except (ValueError, KeyError, TypeError):
                _logger.warning("A line of the manifest in %s is torn; what it named is made anew", self.folder)
        self._manifest = {name: entry for name, entry in self._manifest.items() if entry is not None}


def _size(entry: dict[str, Any]) -> int:
    return sum(each["size"] for each in entry["files"])


def size_of(value: Any) -> int:
    """The bytes of what could be kept."""
    found = _encoded(value)
    return sum(each.nbytes for each in found[2]) if found is not None else 0


def _name(key: object) -> str:
    return hashlib.sha256(repr(key).encode()).hexdigest()[:20]


class _Summed(io.RawIOBase):
    """A file that is written from its beginning to its end, and adds up its length and checksum on the way."""

    def __init__(self, file: BinaryIO) -> None:
        self._file = file
        self.size = 0
        self.crc32 = 0

    def writable(self) -> bool:
        return True

    def write(self, part: Any) -> int:
        self.crc32 = zlib.crc32(part, self.crc32)
        size = memoryview(part).nbytes
        self.size += size
        self._file.write(part)
        return size


def _npy(array: np.ndarray) -> Callable[[io.RawIOBase], None]:
    def write(to: io.RawIOBase) -> None:
        own = np.ascontiguousarray(array)
        np.lib.format.write_array_header_1_0(to, np.lib.format.header_data_from_array_1_0(own))
        to.write(own.data.cast("B") if own.size else b"")

    return write


def _write_column(to: io.RawIOBase, values: pa.ChunkedArray) -> None:
    whole = values.unify_dictionaries() if pa.types.is_dictionary(values.type) else values
    if not pa.types.is_string(values.type) or values.nbytes < _LONGEST_TEXT:
        whole = whole.combine_chunks()  # rows are taken from one piece in one call
    table = pa.table({"values": whole})
    with pa.ipc.new_file(to, table.schema) as writer:
        writer.write_table(table)


def _mapped_array(file: Path) -> np.ndarray:
    return np.asarray(np.load(file, mmap_mode="r", allow_pickle=False))


def _mapped_column(file: Path) -> pa.ChunkedArray:
    return pa.ipc.open_file(pa.memory_map(str(file))).read_all().column(0)


def _checksum(file: Path) -> int:
    found = 0
    with file.open("rb") as opened:
        while part := opened.read(_CHUNK):
            found = zlib.crc32(part, found)
    return found


def _encoded(value: Any) -> tuple[str, Any, list[np.ndarray]] | None:
    """A value as a kind, what JSON can say of it, and its arrays."""
    match value:
        case None | str() | list():
            return "plain", value, []
        case np.ndarray():
            return "array", None, [value]
        case Values():
            return "values", value.scale, [value.data, value.present]
        case Zones():
            return "zones", None, [value.least, value.greatest]
        case Pointers():
            return "pointers", [value.blank_count, value.unknown_count, list(value.unknown_examples)], [value.rows]
        case (Summand() as summand, scale):
            arrays = [summand.data] if summand.present is None else [summand.data, summand.present]
            return "summand", [summand.most, scale], arrays
        case tuple() if all(isinstance(each, np.ndarray) for each in value):
            return "arrays", None, list(value)
        case _:
            return None


def _decoded(kind: str, meta: Any, arrays: list[np.ndarray]) -> Any:
    match kind:
        case "plain":
            return meta
        case "array":
            return arrays[0]
        case "values":
            return Values(arrays[0], meta, arrays[1])
        case "zones":
            return Zones(*arrays)
        case "pointers":
            return Pointers(arrays[0], meta[0], meta[1], tuple(meta[2]))
        case "summand":
            return Summand(arrays[0], arrays[1] if len(arrays) > 1 else None, meta[0]), meta[1]
        case "arrays":
            return tuple(arrays)
        case _:
            return MISSING
