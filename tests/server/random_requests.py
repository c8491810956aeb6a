"""Requests made up from the server's own description: mostly such as could be meant, some that could not.

Names come from the model, so that much of it goes deep into the engine; now and then one is of another kind, unknown,
odd or of another type, a place is before the first or far beyond the last, a part is missing or stands twice.
"""

from __future__ import annotations

import copy
import json
import random
from typing import Any

NAMES: dict[str, list[Any]] = {
    "model": ["tickets"],
    "dimension": ["line", "calendar", "seller"],
    "hierarchy": ["line", "calendar", "seller"],
    "instead_of": ["line", "calendar", None],
    "level": ["mode", "line", "year", "month", "seller"],
    "skipped": ["mode", "line", "month"],
    "levels": ["mode", "year"],
    "attribute": ["mode", "line", "year", "month", "seller"],
    "measure": ["sold", "takings", "sales"],
    "prompt": ["big_from", "asked_1"],
    "name": ["from_kiosks", "big_lines", "big_from", "asked_1"],
    "caption": ["Mine", "Which?"],
    "unit": ["day", "week", "month", "quarter", "year"],
    "pattern": ["#,##0", "0.0 %", None],
}
BELOW = {
    "line": (["mode", "line"], [["Tram"], ["Tram", "T1"], ["Ferry"], ["Ferry", "F1"], [None], [None, None]]),
    "calendar": (["year", "month"], [[2024], [2024, "2024-02"], [2025], [None]]),
    "seller": (["seller"], [["Kiosk"], ["Boat"], [None]]),
}
"""The levels of each hierarchy and some of its members."""
PATHS = [
    ["Tram"],
    ["Tram", "T1"],
    ["Ferry"],
    ["Ferry", "F1"],
    [None],
    [None, None],
    [2024],
    [2024, "2024-02"],
    ["Kiosk"],
    ["Boat"],
]
ODD: list[Any] = [
    None, -1, 0, 1, 7, 150, 10**9, 2**62, -(2**62), 0.5, -0.0, 1e18, True, "", " ", "no-such", "é", "\u200b", "#", "-",
    "1.05.1993", "2024-13-45", [], {}, [[]], [None], "x" * 300, "\ud7ff", [["Tram", "T1", "x", "y"]], {"kind": "none"},
]  # fmt: skip


class Requests:
    """Makes up values that fit a description, by one random number generator."""

    def __init__(self, description: dict[str, Any], chance: random.Random, oddness: float = 0.02) -> None:
        self.description = description
        self.chance = chance
        self.oddness = oddness

    def body(self, name: str, **fixed: Any) -> Any:
        """An object as `components` describes it, with some of its fields given."""
        found = self.value({"$ref": f"#/components/schemas/{name}"}, name)
        return {**found, **fixed} if isinstance(found, dict) else found

    def gesture(self) -> Any:
        return self.value(self._schemas["StepIn"]["properties"]["gesture"], "gesture")

    def value(self, schema: dict[str, Any], name: str, depth: int = 0) -> Any:
        chance = self.chance
        if chance.random() < self.oddness:
            return copy.deepcopy(chance.choice(ODD))
        if "$ref" in schema:
            schema = self._schemas[schema["$ref"].rsplit("/", 1)[-1]]
        for several in ("oneOf", "anyOf"):
            if several in schema:
                if name in NAMES and chance.random() < 0.8:
                    return chance.choice(NAMES[name])
                return self.value(chance.choice(schema[several]), name, depth)
        if "const" in schema:
            return schema["const"]
        if "enum" in schema:
            return chance.choice(schema["enum"])
        kind = schema.get("type")
        if kind == "object":
            return self._object(schema, depth)
        if kind == "array":
            return self._array(schema, name, depth)
        return self._plain(kind, name)

    @property
    def _schemas(self) -> dict[str, Any]:
        found: dict[str, Any] = self.description["components"]["schemas"]
        return found

    def _object(self, schema: dict[str, Any], depth: int) -> dict[str, Any]:
        required = schema.get("required", [])
        found = {}
        for name, part in schema.get("properties", {}).items():
            if name in required or name == "kind" or self.chance.random() < (0.5 if depth < 3 else 0.2):
                found[name] = self.value(part, name, depth + 1)
        own = found.get("dimension")
        if isinstance(own, str) and own in BELOW and self.chance.random() < 0.9:
            levels, paths = BELOW[own]
            for name in ("hierarchy", "level", "attribute", "path", "members"):
                is_several = name == "members"
                if isinstance(found.get(name), list if name in ("path", "members") else str):
                    choices = [own] if name == "hierarchy" else paths if name in ("path", "members") else levels
                    found[name] = self.chance.sample(choices, 2) if is_several else self.chance.choice(choices)
        return found

    def _array(self, schema: dict[str, Any], name: str, depth: int) -> Any:
        if name in ("members", "open", "closed", "path") and self._is_path(schema, name):
            wanted = self.chance.choice(PATHS)
            return wanted if name == "path" else self.chance.sample(PATHS, self.chance.randint(0, 3))
        if "prefixItems" in schema:
            return [self.value(each, name, depth + 1) for each in schema["prefixItems"]]
        most = 3 if depth < 4 else 1
        return [self.value(schema.get("items", {}), name, depth + 1) for _ in range(self.chance.randint(0, most))]

    def _is_path(self, schema: dict[str, Any], name: str) -> bool:
        items = schema.get("items", {})
        return name == "path" or items.get("type") == "array" or items.get("$ref", "").endswith("MemberPath")

    def _plain(self, kind: str | None, name: str) -> Any:
        chance = self.chance
        if name in NAMES and kind in ("string", None):
            return chance.choice(NAMES[name])
        match kind:
            case "string":
                return chance.choice(["a", "Tram", "Kiosk", "2024-01-05", "T1", "some words"])
            case "integer":
                return chance.choice([0, 0, 1, 1, 2, 3, -1, 40])
            case "number":
                return chance.choice([0, 1, 2, 50, 0.5, -3, 100])
            case "boolean":
                return chance.random() < 0.5
            case "null":
                return None
        return chance.choice(["Tram", 1, 2.5, None, True, {"prompt": "big_from"}])


def spoiled(document: Any, chance: random.Random) -> Any:
    """A document with one of its parts replaced, taken out, or put in twice."""
    found = json.loads(json.dumps(document))
    places: list[tuple[Any, Any]] = []
    waiting = [found]
    while waiting:
        part = waiting.pop()
        for key, value in part.items() if isinstance(part, dict) else enumerate(part):
            places.append((part, key))
            if isinstance(value, dict | list):
                waiting.append(value)
    if not places:
        return found
    part, key = chance.choice(places)
    match chance.randrange(4):
        case 0 if isinstance(part, dict):
            del part[key]
        case 1 if isinstance(part, list):
            part.append(copy.deepcopy(part[key]))
        case 2 if isinstance(key, str) and key in NAMES:
            part[key] = chance.choice(NAMES[key])
        case _:
            part[key] = copy.deepcopy(chance.choice(ODD))
    return found
