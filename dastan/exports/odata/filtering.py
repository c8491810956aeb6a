"""What `$filter` says of entities, worked out on whole columns. The text is read by odata-query's grammar."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from odata_query import ast
from odata_query.exceptions import ODataException
from odata_query.grammar import ODataLexer, ODataParser

from dastan.core.errors import InputError
from dastan.exports.odata.entities import Entities, Vector

LONGEST = 2_000
"""Characters of a filter. What it is read into is as deep as it is long at most."""
_HINT = "Write it as in Mode eq 'Ferry' and Taps gt 100; there are contains, startswith, endswith, tolower, toupper."
_TURNED: dict[type[ast._Node], type[ast._Node]] = {ast.Lt: ast.Gt, ast.LtE: ast.GtE, ast.Gt: ast.Lt, ast.GtE: ast.LtE}


def read_filter(text: str) -> ast._Node:
    """The tree that a filter is read into. Raises InputError."""
    if len(text) > LONGEST:
        raise InputError(f"The filter is longer than {LONGEST} characters.", "Ask for less, and filter what comes.")
    try:
        found: ast._Node = ODataParser().parse(ODataLexer().tokenize(text))
    except (ODataException, ValueError, RecursionError) as error:
        raise InputError(f"The filter “{text}” is not understood.", _HINT) from error
    return found


def filtered(text: str, entities: Entities) -> np.ndarray:
    """`(n,) bool`: the rows for which a filter holds. Nothing is less or more than another value, and differs from all
    that are there. Raises InputError."""
    return _holds(read_filter(text), entities)


def _holds(node: ast._Node, entities: Entities) -> np.ndarray:
    match node:
        case ast.BoolOp(op=op, left=left, right=right):
            one, other = _holds(left, entities), _holds(right, entities)
            return np.asarray(one & other if isinstance(op, ast.And) else one | other)
        case ast.UnaryOp(op=ast.Not(), operand=operand):
            return ~_holds(operand, entities)
        case ast.Boolean():
            return np.full(len(entities), node.py_val)
        case ast.Compare(comparator=ast.In(), left=left, right=ast.List(val=values)):
            found = [_compared(ast.Eq(), left, each, entities) for each in values]
            return np.logical_or.reduce(found) if found else np.zeros(len(entities), np.bool_)
        case ast.Compare(comparator=comparator, left=left, right=right):
            return _compared(comparator, left, right, entities)
        case ast.Call(func=func, args=[left, right]) if func.name in _TESTS:
            return _tested(func.name, left, right, entities)
    raise InputError("The filter says something that is not worked out here.", _HINT)


def _compared(comparator: ast._Node, left: ast._Node, right: ast._Node, entities: Entities) -> np.ndarray:
    if _is_literal(left) and not _is_literal(right):
        left, right = right, left
        comparator = _TURNED.get(type(comparator), type(comparator))()
    own = _vector(left, entities)
    if isinstance(right, ast.Null):
        if isinstance(comparator, ast.Eq):
            return ~own.present
        return own.present if isinstance(comparator, ast.NotEq) else np.zeros(len(entities), np.bool_)
    other = _vector(right, entities)
    if (own.data.dtype == object) != (other.data.dtype == object):
        raise InputError("The filter compares text with a number.", "Write text in '…' and numbers without.")
    both = own.present & other.present
    if isinstance(comparator, ast.NotEq):
        return np.asarray(~(both & (own.data == other.data)) & (own.present | other.present))
    return np.asarray(both & _COMPARISONS[type(comparator)](own.data, other.data), np.bool_)


_COMPARISONS: dict[type, Callable[[np.ndarray, np.ndarray], np.ndarray]] = {
    ast.Eq: lambda one, other: one == other,
    ast.Lt: lambda one, other: one < other,
    ast.LtE: lambda one, other: one <= other,
    ast.Gt: lambda one, other: one > other,
    ast.GtE: lambda one, other: one >= other,
}
_TESTS: dict[str, Callable[[str, str], bool]] = {
    "contains": lambda text, part: part in text,
    "startswith": str.startswith,
    "endswith": str.endswith,
}
_CHANGES: dict[str, Callable[[str], str]] = {"tolower": str.lower, "toupper": str.upper, "trim": str.strip}


def _tested(name: str, left: ast._Node, right: ast._Node, entities: Entities) -> np.ndarray:
    own, other = _vector(left, entities), _vector(right, entities)
    if own.data.dtype != object or other.data.dtype != object:
        raise InputError(f"{name} looks at text.", _HINT)
    test = _TESTS[name]
    found = np.fromiter(
        (test(one, two) for one, two in zip(own.data, other.data, strict=True)), np.bool_, len(own.data)
    )
    return np.asarray(found & own.present & other.present)


def _vector(node: ast._Node, entities: Entities) -> Vector:
    count = len(entities)
    match node:
        case ast.Identifier():
            return entities.vector(entities.place(".".join((*node.namespace, node.name))))
        case ast.Call(func=func, args=[inner]) if func.name in _CHANGES:
            own = _vector(inner, entities)
            if own.data.dtype != object:
                raise InputError(f"{func.name} changes text.", _HINT)
            change = _CHANGES[func.name]
            return Vector(np.array([change(each) for each in own.data], object), own.present)
        case ast.UnaryOp(op=ast.USub(), operand=ast.Integer() | ast.Float() as number):
            return Vector(np.full(count, -number.py_val), np.ones(count, np.bool_))
        case ast.Integer() | ast.Float():
            return Vector(np.full(count, node.py_val), np.ones(count, np.bool_))
        case ast.String() | ast.Date() | ast.GUID():
            return Vector(np.full(count, node.val, object), np.ones(count, np.bool_))
        case ast.Null():
            return Vector(np.zeros(count), np.zeros(count, np.bool_))
    raise InputError("The filter says something that is not worked out here.", _HINT)


def _is_literal(node: ast._Node) -> bool:
    return isinstance(node, ast._Literal | ast.UnaryOp)
