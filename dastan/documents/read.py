"""Documents in and out: text to frozen core types and back, with every fault named."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import lru_cache
from typing import Any, TypeVar, get_args

import orjson
from pydantic import TypeAdapter, ValidationError

from dastan.core.analysis.document import Analysis, PlacedMeasure
from dastan.core.errors import FormulaError, InputError, ModelError, did_you_mean
from dastan.core.language.layout_rows import read_row_formula
from dastan.core.language.of_models import read_formula_of_model, with_formula
from dastan.core.model.check import Place, check_model
from dastan.core.model.conditions import Condition
from dastan.core.model.document import SemanticModel
from dastan.core.reading.cell_names import CellName
from dastan.documents.once import work_out_once
from dastan.documents.yaml_places import read_yaml

work_out_once(PlacedMeasure, Analysis)

MODEL = TypeAdapter(SemanticModel)
ANALYSIS = TypeAdapter(Analysis)
CELL_NAME = TypeAdapter(CellName)

_MODELS_KEPT = 64
_Part = TypeVar("_Part")
_KINDS = {each.__dataclass_fields__["kind"].default for each in get_args(get_args(Condition)[0])}
_FIRST_KIND = "members"
"""The condition that stands where no kind is told."""
_TYPES = {"int", "float", "str", "bool", "none", "PromptRef"}


@lru_cache(maxsize=_MODELS_KEPT)
def read_model(text: str, file: str = "model.yaml") -> SemanticModel:
    """The model that a YAML text describes. The same text is read once: it takes a quarter of a second, and a server
    looks at each of its models before it opens them.

    Raises: ModelError whose `details["faults"]` lists each fault with file, line, place and what to do.
    """
    document, line_of = read_yaml(text, file)
    if not isinstance(document, dict):
        raise ModelError(f"{file} holds no model.", "Begin with `dastan: model/1`; docs/model.md shows an example.")
    _check_version(document, "model/1", file, ModelError)
    document, texts = _without_formula_texts(document)
    document, row_texts = _without_row_texts(document)
    try:
        model = MODEL.validate_python(document)
    except ValidationError as exc:
        raise _model_error(file, faults_of(exc, file, line_of)) from exc
    model, faults = _with_rows_read(model, row_texts, lambda place: _located(place, file, line_of))
    faults += [
        {"place": _located(each.place, file, line_of), "message": each.message, "hint": each.hint}
        for each in (check_model(model) if not faults else ())
    ]
    read = model
    for number, text in texts.items() if not faults else ():
        name = model.measures[number].name
        try:
            read = with_formula(read, name, read_formula_of_model(text, name, model))
        except FormulaError as error:
            place = _located(("measures", number, "formula"), file, line_of)
            faults.append({"place": place, "message": error.message, "hint": error.hint})
    if texts and not faults:
        # Only now are they what they are to one another: a circle shows.
        model = read
        faults = [
            {"place": _located(each.place, file, line_of), "message": each.message, "hint": each.hint}
            for each in check_model(model)
        ]
    if faults:
        raise _model_error(file, faults)
    return model


def plain_model(model: SemanticModel) -> dict[str, Any]:
    """A model as mappings and lists, without what is left out when nothing is said."""
    found: dict[str, Any] = MODEL.dump_python(model, mode="json", exclude_defaults=True)
    _tell_kinds(found, MODEL.dump_python(model, mode="json"))
    return found


def _tell_kinds(plain: Any, whole: Any) -> None:
    """Puts back the kinds of parts that readers tell apart by them, of which each is its own default."""
    if isinstance(plain, dict):
        kind = whole.get("kind")
        if kind not in (None, _FIRST_KIND):
            plain["kind"] = kind
        for name, each in plain.items():
            _tell_kinds(each, whole[name])
    elif isinstance(plain, list):
        for one, its in zip(plain, whole, strict=True):
            _tell_kinds(one, its)


def _without_formula_texts(document: dict[str, Any]) -> tuple[dict[str, Any], dict[int, str]]:
    """The document with a number in place of each formula that is written as text; and these, by the measure's place.

    What a formula names is looked for once the model is there.
    """
    measures = document.get("measures")
    if not isinstance(measures, list):
        return document, {}
    texts = {
        at: each["formula"]
        for at, each in enumerate(measures)
        if isinstance(each, dict) and isinstance(each.get("formula"), str)
    }
    stands_in = {"kind": "measure", "measure": _first_plain(measures)}
    changed = [{**each, "formula": stands_in} if at in texts else each for at, each in enumerate(measures)]
    return {**document, "measures": changed}, texts


_RowPlace = tuple[int, int, int]
"""The places of a dimension, of one of its hierarchies, and of a row of its layout."""


def _without_row_texts(document: dict[str, Any]) -> tuple[dict[str, Any], dict[_RowPlace, str]]:
    """The document with a number in place of each formula of a layout's row that is written as text; and these."""
    texts: dict[_RowPlace, str] = {}

    def rows_of(value: Any, *at: int) -> Any:
        if not isinstance(value, dict):
            return value
        if len(at) < 2:
            inner = "hierarchies" if at else "dimensions"
            parts = value.get(inner)
            if not isinstance(parts, list):
                return value
            return {**value, inner: [rows_of(each, *at, place) for place, each in enumerate(parts)]}
        layout = value.get("layout")
        rows = layout.get("rows") if isinstance(layout, dict) else None
        if not isinstance(layout, dict) or not isinstance(rows, list):
            return value
        changed = []
        for place, row in enumerate(rows):
            is_text = isinstance(row, dict) and isinstance(row.get("formula"), str)
            if is_text:
                texts[(at[0], at[1], place)] = row["formula"]
            changed.append({**row, "formula": {"kind": "number", "digits": "0"}} if is_text else row)
        return {**value, "layout": {**layout, "rows": changed}}

    whole = rows_of(document)
    return whole, texts


def _with_rows_read(
    model: SemanticModel, texts: dict[_RowPlace, str], located: Callable[[Place], str]
) -> tuple[SemanticModel, list[dict[str, str]]]:
    """The model with the formulas of its layouts' rows read, and what is wrong with them."""
    faults: list[dict[str, str]] = []
    for (dimension_at, hierarchy_at, row_at), text in texts.items():
        dimension = model.dimensions[dimension_at]
        hierarchy = dimension.hierarchies[hierarchy_at]
        layout = hierarchy.layout
        assert layout is not None
        row = layout.rows[row_at]
        try:
            formula = read_row_formula(text, row.name, layout)
        except FormulaError as error:
            place = ("dimensions", dimension_at, "hierarchies", hierarchy_at, "layout", "rows", row_at, "formula")
            faults.append({"place": located(place), "message": error.message, "hint": error.hint})
            continue
        layout = replace(layout, rows=_put(layout.rows, row_at, replace(row, formula=formula)))
        dimension = replace(
            dimension, hierarchies=_put(dimension.hierarchies, hierarchy_at, replace(hierarchy, layout=layout))
        )
        model = replace(model, dimensions=_put(model.dimensions, dimension_at, dimension))
    return model, faults


def _put(parts: tuple[_Part, ...], at: int, part: _Part) -> tuple[_Part, ...]:
    return (*parts[:at], part, *parts[at + 1 :])


def _first_plain(measures: list[Any]) -> str:
    """A measure that is not made of others, to stand in for a formula until it is read."""
    plain = (each for each in measures if isinstance(each, dict) and each.get("aggregate") not in ("formula", "ratio"))
    return str(next(plain, {}).get("name", ""))


def read_analysis(text: str | bytes, file: str = "the analysis") -> Analysis:
    """The analysis that a JSON text describes. Raises InputError naming what is wrong and where."""
    try:
        document = orjson.loads(text)
    except orjson.JSONDecodeError as exc:
        raise InputError(f"{file}, line {exc.lineno}: this is not JSON: {exc.msg}.", "Mend it there.") from exc
    if not isinstance(document, dict):
        raise InputError(f"{file} holds no analysis.", "docs/analysis.md shows an example.")
    _check_version(document, "analysis/1", file, InputError)
    try:
        return ANALYSIS.validate_python(document)
    except ValidationError as exc:
        faults = faults_of(exc, file, None)
        first = faults[0]
        raise InputError(
            f"{first['place']}: {first['message']}",
            "docs/analysis.md explains every field.",
            details={"faults": faults},
        ) from exc


def write_analysis(document: Analysis) -> bytes:
    """The document as JSON, with a fixed order of fields so that equal documents are equal texts."""
    return ANALYSIS.dump_json(document)


def faults_of(error: ValidationError, file: str, line_of: Callable[[Place], int] | None) -> list[dict[str, str]]:
    """Each fault once: where one of several types could stand, they are not all told of."""
    found: dict[Place, dict[str, str]] = {}
    for each in error.errors():
        place = _place_of(each["loc"])
        found.setdefault(place, _fault(each, place, file, line_of))
    return list(found.values())


def _check_version(document: dict[str, Any], wanted: str, file: str, error: type[InputError]) -> None:
    found = document.get("dastan")
    if found != wanted:
        said = f"says `dastan: {found}`" if found is not None else "does not say which version it has"
        raise error(f"{file} {said}.", f"Begin it with `dastan: {wanted}`.")


def _place_of(loc: Place) -> Place:
    """A fault's place in the document, without the kinds and types by which Pydantic goes on from there."""
    place: list[str | int] = []
    for at, step in enumerate(loc):
        stands_for_kind = at > 0 and (isinstance(loc[at - 1], int) or loc[at - 1] == "condition") and step in _KINDS
        is_type = at == len(loc) - 1 and step in _TYPES
        if not stands_for_kind and not is_type:
            place.append(step)
    return tuple(place)


def _fault(error: Any, place: Place, file: str, line_of: Callable[[Place], int] | None) -> dict[str, str]:
    kind, name = error["type"], str(place[-1]) if place else ""
    if kind == "missing" or kind == "missing_argument":
        message, hint = f"“{name}” is missing.", f"Add `{name}:`."
        place = place[:-1] or place
    elif kind in ("unexpected_keyword_argument", "extra_forbidden"):
        message, hint = f"“{name}” is not a field here.", "Remove it, or check its spelling."
    elif kind == "union_tag_invalid":
        expected = [each.strip(" '") for each in error["ctx"]["expected_tags"].split(",")]
        message = f"There is no condition of kind “{error['ctx']['tag']}”."
        hint = did_you_mean(str(error["ctx"]["tag"]), expected)
    elif error["loc"] and error["loc"][-1] in _TYPES:
        message, hint = f"{error['input']!r} cannot stand here.", "docs/model.md and docs/analysis.md tell what can."
    elif kind == "literal_error":
        expected = [each.strip(" '") for each in error["ctx"]["expected"].replace(" or ", ", ").split(",")]
        message = f"“{error['input']}” is not possible here."
        hint = did_you_mean(str(error["input"]), expected)
    else:
        message, hint = f"{error['msg']}.", "docs/model.md and docs/analysis.md explain every field."
    return {"place": _located(place, file, line_of), "message": message, "hint": hint}


def _located(place: Place, file: str, line_of: Callable[[Place], int] | None) -> str:
    path = ""
    for step in place:
        path += f"[{step}]" if isinstance(step, int) else (f".{step}" if path else step)
    line = f", line {line_of(place)}" if line_of is not None else ""
    return f"{file}{line}" + (f" ({path})" if path else "")


def _model_error(file: str, faults: list[dict[str, str]]) -> ModelError:
    count = f"{len(faults)} faults" if len(faults) > 1 else "a fault"
    return ModelError(f"{file} has {count}.", "Mend each of these, then try again.", details={"faults": faults})
