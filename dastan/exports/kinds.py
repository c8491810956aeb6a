"""What a table can be written as."""

from __future__ import annotations

from typing import Literal

ArrowKind = Literal["parquet", "arrow", "arrows"]
"""A file of columns, Arrow's file, which is read at any place, and its stream, which is read from the beginning on."""
WholeKind = Literal["xlsx", "ods", "pdf", "html", ArrowKind]
"""Such as can be read only once all of it is written."""
FileKind = Literal["csv", WholeKind]
FeedPart = Literal["numbers", "table"]
"""The innermost numbers, a row for each cell; or all that is seen, totals among it."""
FeedKind = Literal["csv", "arrow", "arrows", "parquet", "xlsx", "ods", "pdf", "html", "txt"]
