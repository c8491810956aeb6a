"""What names a hierarchy, as gestures and placed dimensions take it."""

from __future__ import annotations

from typing import TypedDict


class HierarchyNamed(TypedDict):
    dimension: str
    hierarchy: str
