"""Replies as one file: a ZIP of NumPy arrays, and one JSON text that says what each of them is.

What is asked is written field by field, without those that have their defaults: a field that a later Dastan adds to a
question changes nothing of what is held.
"""

from __future__ import annotations

import base64
from dataclasses import MISSING, fields, is_dataclass
from io import BytesIO
from typing import Any
from zipfile import BadZipFile

import numpy as np
import orjson

from dastan.core.engine.waist import (
    AttributeTest,
    DataSpan,
    DayRange,
    Groups,
    GroupSet,
    Joined,
    KeyState,
    LevelRef,
    LoadedDays,
    MemberSet,
    Not,
    Request,
    Rights,
)
from dastan.core.errors import SourceError
from dastan.core.formula.bases import BaseAggregate
from dastan.core.model.members import HierarchyMembers, LevelMembers, Spread
from dastan.core.model.reach import Grain
from dastan.core.values import Values
from dastan.sources.frozen.replies import Replies

FORMAT = "frozen/1"
_TEXT = "frozen.json"
_KINDS: dict[str, type] = {
    each.__name__: each
    for each in (
        AttributeTest, BaseAggregate, DataSpan, DayRange, Grain, GroupSet, Joined, KeyState, LevelRef, LoadedDays,
        MemberSet, Not, Request, Rights,
    )
}  # fmt: skip
_UNTOLD = {"along"}
"""What a request says only to make others quicker."""


def write_replies(replies: Replies) -> bytes:
    """The file that `read_replies` reads."""
    arrays: list[np.ndarray] = []

    def put(array: np.ndarray) -> int:
        arrays.append(array)
        return len(arrays) - 1

    def values(each: Values) -> list[Any]:
        return [put(each.data), each.scale, put(each.present)]

    told = {
        "format": FORMAT,
        "groups": [
            [_told(request), [put(each) for each in groups.codes], [values(each) for each in groups.values]]
            for request, groups in replies.groups.items()
        ],
        "members": [_members_told(each, put) for each in replies.members.values()],
        "spans": [[_told(asked), _told(each)] for asked, each in replies.spans.items()],
        "allowed_rows": [[_told(asked), put(each)] for asked, each in replies.allowed_rows.items()],
        "record_counts": [[_told(asked), each] for asked, each in replies.record_counts.items()],
        "loaded_days": [[_told(asked), _told(each)] for asked, each in replies.loaded_days.items()],
        "days": [[asked, put(each)] for asked, each in replies.days.items()],
        "last_days": [[_told(asked), each] for asked, each in replies.last_days.items()],
    }
    text = np.frombuffer(orjson.dumps(told, option=orjson.OPT_SERIALIZE_NUMPY), np.uint8)
    file = BytesIO()
    np.savez_compressed(file, **{_TEXT: text, **{f"a{at}": each for at, each in enumerate(arrays)}})  # type: ignore[arg-type]
    return file.getvalue()


def read_replies(file: bytes) -> Replies:
    """The replies of a file. Raises SourceError for one that is damaged, or that a later Dastan wrote."""
    try:
        with np.load(BytesIO(file), allow_pickle=False) as held:
            told = orjson.loads(held[_TEXT].tobytes())
            if told.get("format") != FORMAT:
                raise SourceError("This frozen copy was written by a later Dastan.", "Open it there.")
            return _replies(told, lambda at: held[f"a{at}"])
    except (BadZipFile, EOFError, KeyError, ValueError, TypeError, OSError) as error:
        raise SourceError(
            "This frozen copy is damaged and cannot be read.", "Freeze the live analysis again."
        ) from error


def _replies(told: dict[str, Any], array: Any) -> Replies:
    def values(data: int, scale: int | None, present: int) -> Values:
        return Values(array(data), scale, array(present))

    def frozen(number: int) -> np.ndarray:
        found: np.ndarray = array(number)
        found.flags.writeable = False
        return found

    return Replies(
        {
            _untold(request): Groups(tuple(map(frozen, codes)), tuple(values(*each) for each in found))
            for request, codes, found in told["groups"]
        },
        {(each["dimension"], each["hierarchy"]): _members(each, frozen) for each in told["members"]},
        {_untold(asked): _untold(each) for asked, each in told["spans"]},
        {_untold(asked): frozen(each) for asked, each in told["allowed_rows"]},
        {_untold(asked): each for asked, each in told["record_counts"]},
        {_untold(asked): _untold(each) for asked, each in told["loaded_days"]},
        {asked: frozen(each) for asked, each in told["days"]},
        {_untold(asked): each for asked, each in told["last_days"]},
    )


def _told(value: Any) -> Any:
    """What was asked, as JSON: a tuple is a list, and what is more says what it is."""
    if isinstance(value, bytes):
        return {"is": "bytes", "base64": base64.b64encode(value).decode()}
    if is_dataclass(value) and not isinstance(value, type):
        own = {
            each.name: _told(found)
            for each in fields(value)
            if each.name not in _UNTOLD
            and ((found := getattr(value, each.name)) != each.default or each.default is MISSING)
        }
        return {"is": type(value).__name__, **own}
    if isinstance(value, tuple) and hasattr(value, "_fields"):
        defaults = getattr(value, "_field_defaults", {})
        pairs = zip(value._fields, value, strict=True)
        own = {name: _told(each) for name, each in pairs if name not in defaults or each != defaults[name]}
        return {"is": type(value).__name__, **own}
    return [_told(each) for each in value] if isinstance(value, tuple) else value


def _untold(value: Any) -> Any:
    if isinstance(value, list):
        return tuple(_untold(each) for each in value)
    if not isinstance(value, dict):
        return value
    if value["is"] == "bytes":
        return base64.b64decode(value["base64"])
    return _KINDS[value["is"]](**{name: _untold(each) for name, each in value.items() if name != "is"})


def _members_told(members: HierarchyMembers, put: Any) -> dict[str, Any]:
    spread = members.spread
    return {
        "dimension": members.dimension,
        "hierarchy": members.hierarchy,
        "levels": [
            {
                "name": each.name, "caption": each.caption, "keys": list(each.keys), "captions": list(each.captions),
                "nowhere": each.nowhere,
                **{name: put(getattr(each, name)) for name in _OF_LEVELS},
            }
            for each in members.levels
        ],
        "code_by_row": [put(each) for each in members.code_by_row],
        "spread": [put(spread.starts), put(spread.codes)] if spread is not None else None,
        "visible": [put(each) for each in members.visible],
    }  # fmt: skip


_OF_LEVELS = ("parent", "first", "last", "can_open", "is_passed")


def _members(told: dict[str, Any], array: Any) -> HierarchyMembers:
    levels = tuple(
        LevelMembers(
            name=each["name"], caption=each["caption"], keys=tuple(each["keys"]), captions=tuple(each["captions"]),
            nowhere=each["nowhere"], **{name: array(each[name]) for name in _OF_LEVELS},
        )
        for each in told["levels"]
    )  # fmt: skip
    return HierarchyMembers(
        told["dimension"], told["hierarchy"], levels, tuple(map(array, told["code_by_row"])),
        Spread(*map(array, told["spread"])) if told["spread"] is not None else None,
        tuple(map(array, told["visible"])),
    )  # fmt: skip
