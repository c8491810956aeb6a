"""A column of a table that is fetched: how the server is asked for it, and how it is kept."""

from __future__ import annotations

from dataclasses import dataclass

import pyarrow as pa
import pyarrow.compute as pc
from sqlglot import exp

from dastan.core.errors import InputError

DIALECT = "postgres"
_PRECISION = 38
_MOST_PLACES = 18


def postgres_type(field: pa.Field) -> str:
    """What the database calls the type of a field; nothing where the driver does not say."""
    kind: bytes = (field.metadata or {}).get(b"POSTGRESQL:type", b"")
    return kind.decode()


@dataclass(frozen=True, slots=True)
class FetchedColumn:
    """A column, as it is asked for and kept. `places` are of a decimal number."""

    field: pa.Field
    places: int | None

    @property
    def type(self) -> pa.DataType:
        if self.places is not None:
            return pa.decimal128(_PRECISION, self.places) if self.places <= _MOST_PLACES else pa.float64()
        if self._is_money:
            return pa.decimal128(_PRECISION, 2)
        return self.field.type if self._is_plain else pa.string()

    @property
    def is_added_up(self) -> bool:
        """Whether what it adds up to can be held against the database."""
        kind = self.type
        return bool(pa.types.is_integer(kind) or pa.types.is_floating(kind) or pa.types.is_decimal(kind))

    @property
    def _is_money(self) -> bool:
        return postgres_type(self.field) == "money"

    @property
    def _is_time(self) -> bool:
        return bool(pa.types.is_date(self.field.type) or pa.types.is_timestamp(self.field.type))

    @property
    def _is_plain(self) -> bool:
        kind = self.field.type
        is_number = pa.types.is_integer(kind) or pa.types.is_floating(kind) or pa.types.is_boolean(kind)
        return (is_number or self._is_time) and not self._is_money

    def chosen(self) -> exp.Expr:
        """As the server is asked for it: what has no plain type comes as text, and days without end as blanks."""
        column: exp.Expr = exp.column(self.field.name, quoted=True)
        if self._is_time:
            asked: exp.Expr = exp.case().when(exp.func("isfinite", column), column.copy())
        elif self._is_plain or self.places is not None:
            return column
        else:
            asked = exp.cast(column, "numeric" if self._is_money else "text", dialect=DIALECT)
        return exp.alias_(asked, self.field.name, quoted=True)

    def added_up(self) -> exp.Expr:
        """Its sum, as the server is asked for it: of what is a number, in a text that loses no digit."""
        column: exp.Expr = exp.column(self.field.name, quoted=True)
        if self._is_money:
            added: exp.Expr = exp.Sum(this=exp.cast(column, "numeric", dialect=DIALECT))
        elif self.places is not None:  # NaN and infinities have no places
            is_number = exp.func("scale", column.copy()).is_(exp.null()).not_()
            added = exp.Filter(this=exp.Sum(this=column), expression=exp.Where(this=is_number))
        elif pa.types.is_floating(self.type):
            added = exp.Sum(this=exp.cast(column, "double precision", dialect=DIALECT))
        else:
            added = exp.Sum(this=column)
        return exp.cast(added, "text", dialect=DIALECT)

    def kept(self, values: pa.Array) -> pa.Array:
        """Its values as they are kept. What is no number, NaN, is blank."""
        if isinstance(values, pa.ExtensionArray):
            values = values.storage
        if self.type == values.type:
            return values
        if self.places is not None or self._is_money:
            odd = pc.is_in(values, pa.array(["nan", "inf", "-inf", "NaN", "Infinity", "-Infinity"]))
            values = pc.if_else(odd, pa.scalar(None, values.type), values)
        try:
            return values.cast(self.type)
        except pa.ArrowInvalid as error:
            raise InputError(
                f"“{self.field.name}” has a number of more than {_PRECISION} digits, which cannot be kept exactly.",
                "Fetch it by a query, as text or rounded.",
            ) from error
