"""The star of the oracle tests without data trouble: for tests of documents, gestures and words."""

from __future__ import annotations

from datetime import date
from decimal import Decimal

from dastan.core.analysis.document import Analysis
from dastan.core.analysis.gestures import (
    Gesture,
    apply_gesture,
)
from dastan.sources.columnar.column_source import ColumnSource
from tests.core.engine.random_model import source_of

TODAY = date(2024, 3, 10)

ROWS: dict[str, list[dict[str, object]]] = {
    "lines": [
        {"line": "L1", "mode": "tram", "team": 1, "week_year": 2024, "week": 1, "depot_id": 1, "colour": "red"},
        {"line": "L2", "mode": "tram", "team": 2, "week_year": 2024, "week": 2, "depot_id": 1, "colour": "red"},
        {"line": "L3", "mode": "bus", "team": 1, "week_year": 2025, "week": 1, "depot_id": None, "colour": "Blue"},
    ],
    "days": [{"day": "2024-01-01", "year": 2024, "month": 1}],
    "fleet": [{"day": "2024-01-01", "line_id": "L1", "available": 3}],
    "repairs": [
        {"from_line": line, "to_line": "L3", "cost": Decimal(cents).scaleb(-2), "started": None, "ended": None} for line, cents in [("L1", 700), ("L1", 50), (None, 25)]
    ],
    "accounts": [{"account": f"A{number}", "parent": f"A{number - 1}" if number else None} for number in range(4)],
    "depots": [{"depot": 1, "region": "east"}],
    "fares": [{"product": 1, "family": "a"}, {"product": 2, "family": "b"}],
    "taps": [
        {"line_id": line, "product_id": product, "band": "x", "boardings": boardings, "revenue": Decimal(cents).scaleb(-2),
         "delay": None, "card": card, "day": "2024-01-01", "account_id": "A3"}
        for line, product, boardings, cents, card in [
            ("L1", 1, 2, 500, 1), ("L2", 1, 1, 250, 1), ("L3", 2, 4, 1000, 2), (None, 2, 1, 125, 3),
        ]
    ],
}  # fmt: skip


def star() -> ColumnSource:
    return source_of(ROWS)


def after(source: ColumnSource, *gestures: Gesture) -> Analysis:
    """An empty document after those gestures."""
    document = Analysis(model="star")
    for each in gestures:
        document = apply_gesture(document, each, source.model)
    return document
