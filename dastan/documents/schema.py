"""The JSON Schemas of both documents, as published in docs/schema."""

from __future__ import annotations

from typing import Any

from dastan.documents.read import ANALYSIS, MODEL


def model_schema() -> dict[str, Any]:
    """The JSON Schema (2020-12) of `model/1`."""
    return _titled(MODEL.json_schema(), "Dastan semantic model, version 1")


def analysis_schema() -> dict[str, Any]:
    """The JSON Schema (2020-12) of `analysis/1`."""
    return _titled(ANALYSIS.json_schema(), "Dastan analysis, version 1")


def _titled(schema: dict[str, Any], title: str) -> dict[str, Any]:
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **schema, "title": title}
