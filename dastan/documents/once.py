"""What the parts of a document are to Pydantic, worked out once.

Of a plain data class it works that out anew wherever one is a field of something: an analysis, with all its formulas,
is part of thirty requests and replies, and a server took seconds to begin.
"""

from __future__ import annotations

from pydantic import GetCoreSchemaHandler, TypeAdapter
from pydantic_core import CoreSchema


def work_out_once(*kinds: type) -> None:
    """Lets each of some data classes, the smaller ones first, be to Pydantic what it is now."""
    for kind in kinds:
        _keep(kind, TypeAdapter(kind).core_schema)


def _keep(kind: type, found: CoreSchema) -> None:
    def known(_: type, source: type, handler: GetCoreSchemaHandler) -> CoreSchema:
        return found

    kind.__get_pydantic_core_schema__ = classmethod(known)  # type: ignore[attr-defined]
