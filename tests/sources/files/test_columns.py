"""Types are taken from all the values of a column, and numbers stay exact."""

from __future__ import annotations

from datetime import datetime
from decimal import Decimal

import numpy as np
import pyarrow as pa
import pytest

from dastan.core.errors import SourceError
from dastan.core.model.document import Column
from dastan.sources.files.columns import Place, codes_of, keys_of, numbers, typed
from dastan.sources.files.day_forms import told

PLACE = Place("sales", "price", lambda row: f"sales.csv, line {row + 2}")


def read(*texts: str | None) -> pa.ChunkedArray:
    return typed(pa.chunked_array([pa.array(texts, pa.string())]), None, PLACE, is_untyped=True).values


@pytest.mark.parametrize(
    ("texts", "kind"),
    [
        (("1", "-20", None), pa.int64()),
        (("1", "2.5"), pa.decimal128(38, 1)),
        (("1.25", "1.5"), pa.decimal128(38, 2)),
        (("1e-05", "2.5"), pa.float64()),
        (("3.141592653589793", "2.5"), pa.float64()),
        # Digits that a float would lose, as long as 64 bits hold them.
        (("12345678.1234567891", "0.5"), pa.decimal128(38, 10)),
        # What numbers would not tell apart, or lose digits of, is text.
        (("1234567890123456789", "1234567890123456788"), pa.string()),
        (("1234567890123456789.5", "1"), pa.string()),
        (("1.10", "1.1"), pa.string()),
        (("1E5", "100000"), pa.string()),
        (("0.00", "-0.00", "0.5"), pa.decimal128(38, 2)),
        (("2024-02-29", "2023-01-01"), pa.date32()),
        (("2024/02/29", None), pa.date32()),
        (("2024-02-29T00:00:00", "2024-03-01 00:00"), pa.date32()),
        (("2024-02-29T23:59:00", "2024-03-01"), pa.timestamp("us")),
        # Which day that is depends on the place, which the file does not say.
        (("2024-02-29T23:59:00Z",), pa.string()),
        (("2023-02-29",), pa.string()),
        (("007", "12"), pa.string()),
        (("one", "2"), pa.string()),
        ((None, None), pa.string()),
    ],
)
def test_a_column_takes_the_narrowest_type_that_fits_every_value(
    texts: tuple[str | None, ...], kind: pa.DataType
) -> None:
    assert read(*texts).type == kind


def test_decimals_become_scaled_whole_numbers_without_rounding() -> None:
    found = numbers(read("0.10", "-12345678901234567.89", None), PLACE)
    assert (found.scale, found.data[0], found.data[1]) == (2, 10, -1234567890123456789)
    assert found.at(1) == Decimal("-12345678901234567.89")
    assert found.at(2) is None


def test_decimals_of_more_than_18_digits_are_refused() -> None:
    column = pa.chunked_array([pa.array([Decimal("12345678901234567890.12")], pa.decimal128(38, 2))])
    with pytest.raises(SourceError, match="more than 18 digits"):
        numbers(column, PLACE)


def test_decimals_are_read_from_sliced_chunks_too() -> None:
    whole = pa.array([Decimal("1.5"), Decimal("2.5"), Decimal("3.5")], pa.decimal128(9, 1))
    found = numbers(pa.chunked_array([whole.slice(1, 1), whole.slice(2)]), PLACE)
    assert found.data.tolist() == [25, 35]


def test_nan_and_infinity_become_empty() -> None:
    found = numbers(pa.chunked_array([pa.array([1.5, float("nan"), float("inf"), None])]), PLACE)
    assert found.present.tolist() == [True, False, False, False]
    assert np.isfinite(found.data).all()


def test_codes_agree_across_chunks_with_dictionaries_of_their_own() -> None:
    parts = [pa.array(["a", "b", None]).dictionary_encode(), pa.array(["b", "c"]).dictionary_encode()]
    codes = codes_of(pa.chunked_array(parts))
    assert codes[1] == codes[3]
    assert len({codes[0], codes[1], codes[4]}) == 3
    assert codes[2] == -1


def test_dates_are_keys_as_iso_text_even_before_1970() -> None:
    assert keys_of(read("1969-12-31", "2100-03-01")) == ["1969-12-31", "2100-03-01"]


def test_dates_in_another_order_are_read_as_declared() -> None:
    column = pa.chunked_array([pa.array(["31.12.1969", "01.02.2024", None])])
    declared = Column(type="date", date_format="%d.%m.%Y")
    assert keys_of(typed(column, declared, PLACE, is_untyped=True).values) == ["1969-12-31", "2024-02-01", None]
    with pytest.raises(SourceError, match=r"sales.csv, line 3: “2.30.2024” in column “price” is not a date"):
        typed(pa.chunked_array([pa.array(["01.02.2024", "2.30.2024"])]), declared, PLACE, is_untyped=True)
    # There is no such day: it is not the second of March.
    with pytest.raises(SourceError, match=r"line 2: “30.02.2025” in column “price” is not a date"):
        typed(pa.chunked_array([pa.array(["30.02.2025"])]), declared, PLACE, is_untyped=True)


def days(forms: tuple[str, ...], *values: object) -> list[object]:
    column = pa.chunked_array([pa.array(values)])
    return list(keys_of(typed(column, Column(date_format=forms), PLACE, is_untyped=True).values))


def test_dates_may_be_mixed_or_a_spreadsheets_numbers() -> None:
    mixed = ("%d.%m.%Y", "%Y-%m-%d", "%d/%m/%Y %H:%M")
    found = days(mixed, "01.02.2025", "2025-12-31", None, "05/06/2025 23:59")
    assert found == ["2025-02-01", "2025-12-31", None, "2025-06-05"]
    assert days(("serial",), "45658", "45658.75", "61") == ["2025-01-01", "2025-01-01", "1900-03-01"]
    assert days(("serial",), 45658, None) == ["2025-01-01", None]
    # Spreadsheets count a day before that which never was.
    with pytest.raises(SourceError, match="line 2: “60” in column “price” is not a date"):
        days(("serial",), "60")
    # The same day by both is one day; another one is not chosen.
    assert days(("%d/%m/%Y", "%m/%d/%Y"), "03/03/2025", "31/12/2025") == ["2025-03-03", "2025-12-31"]
    with pytest.raises(SourceError, match="“01/02/2025” in column “price” is 2025-02-01 by %d/%m/%Y and 2025-01-02 by"):
        days(("%d/%m/%Y", "%m/%d/%Y"), "03/03/2025", "01/02/2025")


@pytest.mark.parametrize(
    ("values", "expected"),
    [
        (["31.12.2024", "1.2.2025"], ['date_format: "%d.%m.%Y"']),
        (["01.02.2025", "03.04.2025"], ['date_format: "%d.%m.%Y"']),
        (["12.31.2024", "01.02.2025"], ['date_format: "%m.%d.%Y"']),
        (["12/31/2024", "01/02/2025"], ['date_format: "%m/%d/%Y"']),
        (["01/02/2025", "03/04/2025"], ['"%d/%m/%Y"}}` reads 01/02/2025 as 2025-02-01', '"%m/%d/%Y"}}` reads 01/02/2025 as 2025-01-02']),
        (["20241231", "20250101"], ['date_format: "%Y%m%d"']),
        (["5 Feb 2024", "12 May 2024"], ['date_format: "%d %b %Y"']),
        (["31.12.2024 08:15", "01.02.2025 23:00"], ['date_format: "%d.%m.%Y %H:%M"']),
        (["45658", "45659.5"], ['date_format: "serial"']),
        (["2024-12-31", "13.01.2025", "14.01.2025"], ['date_format: ["%Y-%m-%d", "%d.%m.%Y"]']),
        (["soon", "13.01.2025"], []),
        (["1", "2"], []),
    ],
)  # fmt: skip
def test_the_declaration_that_fits_dates_is_proposed(values: list[str], expected: list[str]) -> None:
    said = told(pa.chunked_array([pa.array(values)]), "day")
    assert bool(said) == bool(expected)
    assert all(each in said for each in expected)
    assert said.count("date_format") == len(expected)


def test_declared_text_keeps_codes_that_look_like_numbers() -> None:
    column = pa.chunked_array([pa.array(["12", "13"])])
    assert typed(column, Column(type="text"), PLACE, is_untyped=True).values.type == pa.string()


def test_keys_that_differ_stay_apart_whatever_reads_them() -> None:
    long = [2**60, 2**60 + 1]
    assert keys_of(pa.chunked_array([pa.array(long)])) == [str(each) for each in long]
    assert keys_of(pa.chunked_array([pa.array(long)]), for_order=True) == long
    assert keys_of(pa.chunked_array([pa.array([7, 12])])) == [7, 12]
    assert keys_of(read("12345678.1234567891", "12345678.1234567892")) == ["12345678.1234567891", "12345678.1234567892"]
    assert keys_of(read("2024-02-29T23:59:00", "2024-02-29")) == ["2024-02-29 23:59:00", "2024-02-29 00:00:00"]
    midnight = pa.chunked_array([pa.array([datetime(2024, 2, 29)], pa.timestamp("ns"))])
    assert keys_of(midnight) == ["2024-02-29"]


def test_what_may_have_been_meant_otherwise_is_noticed() -> None:
    column = pa.chunked_array([pa.array(["1.234", "12.500"])])
    assert "read as fractions" in typed(column, None, PLACE, is_untyped=True).noticed
    assert not typed(column, Column(type="decimal"), PLACE, is_untyped=True).noticed


def test_numbers_that_were_kept_as_text_say_how_to_declare_them() -> None:
    with pytest.raises(SourceError, match="is kept as text") as caught:
        numbers(read("1.10", "1.1"), PLACE)
    assert "columns: {price: {type: decimal}}" in caught.value.hint
    with pytest.raises(SourceError, match="beyond 9,223,372,036,854,775,807"):
        numbers(pa.chunked_array([pa.array([2**64 - 1], pa.uint64())]), PLACE)


def test_bytes_are_read_as_text_or_refused() -> None:
    assert typed(pa.chunked_array([pa.array([b"quay"])]), None, PLACE, is_untyped=False).values.to_pylist() == ["quay"]
    with pytest.raises(SourceError, match="bytes that are no text"):
        typed(pa.chunked_array([pa.array([b"\xff\xfe"])]), None, PLACE, is_untyped=False)


def test_moments_with_a_zone_are_what_its_clocks_showed() -> None:
    utc = pa.array([datetime(2024, 2, 29, 23, 30)], pa.timestamp("us")).cast(pa.timestamp("us", "Europe/Athens"))
    found = typed(pa.chunked_array([utc]), None, PLACE, is_untyped=False).values
    assert keys_of(found) == ["2024-03-01 01:30:00"]
