"""The JSON Schemas of both documents, as published in docs/schema.

A field's description is the text that stands under it in the document types.
"""

from __future__ import annotations

import ast
import inspect
from dataclasses import is_dataclass
from types import ModuleType
from typing import Any

from dastan.core.analysis import document as analysis_types
from dastan.core.model import document as model_types
from dastan.documents.read import ANALYSIS, MODEL


def model_schema() -> dict[str, Any]:
    """The JSON Schema (2020-12) of `model/1`."""
    schema = MODEL.json_schema()
    # People write a formula as text; the parts into which it is read can stand there as well.
    for part in ("Measure", "LayoutRow"):
        schema["$defs"][part]["properties"]["formula"]["anyOf"].append({"type": "string"})
    return _published(schema, "Dastan semantic model, version 1", model_types)


def analysis_schema() -> dict[str, Any]:
    """The JSON Schema (2020-12) of `analysis/1`."""
    return _published(ANALYSIS.json_schema(), "Dastan analysis, version 1", analysis_types)


def _published(schema: dict[str, Any], title: str, types: ModuleType) -> dict[str, Any]:
    described = _field_texts(types)
    for name, part in {**schema.get("$defs", {}), schema["title"]: schema}.items():
        for field, body in part.get("properties", {}).items():
            if (name, field) in described:
                body["description"] = described[name, field]
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **schema, "title": title}


def _field_texts(types: ModuleType) -> dict[tuple[str, str], str]:
    """The text under each field of the module's document types, by type and field."""
    texts: dict[tuple[str, str], str] = {}
    for part in ast.parse(inspect.getsource(types)).body:
        if not isinstance(part, ast.ClassDef) or not is_dataclass(getattr(types, part.name)):
            continue
        for field, text in zip(part.body, part.body[1:], strict=False):
            if isinstance(field, ast.AnnAssign) and isinstance(field.target, ast.Name) and isinstance(text, ast.Expr):
                value = text.value
                if isinstance(value, ast.Constant) and isinstance(value.value, str):
                    texts[part.name, field.target.id] = inspect.cleandoc(value.value)
    return texts
