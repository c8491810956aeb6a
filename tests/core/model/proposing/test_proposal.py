"""What a model is proposed as, from profiles that were written by hand."""

from __future__ import annotations

import pytest

from dastan.core.model.check import check_model
from dastan.core.model.document import SemanticModel, Table
from dastan.core.model.proposing.naming import caption_of, name_of, plural, singular, unit_of, words_of
from dastan.core.model.proposing.pointers import candidates, decided
from dastan.core.model.proposing.profile import ColumnProfile, Kind, Nesting, Pointer, TableProfile
from dastan.core.model.proposing.proposal import propose


def column(
    name: str, kind: Kind, distinct: int, records: int = 1000, blanks: int = 0, digits: int = 0
) -> ColumnProfile:
    least, greatest = ("2023-01-01", "2025-12-31") if kind in ("day", "moment") else (None, None)
    return ColumnProfile(
        name, kind, records, blanks, distinct, least, greatest, scale=2, shortest=digits, longest=digits or 9
    )


def table(name: str, *columns: ColumnProfile) -> TableProfile:
    return TableProfile(name, Table(file=f"{name}.csv"), columns[0].records, columns)


LINES = table(
    "lines", column("line_id", "text", 12, 12), column("line_name", "text", 12, 12), column("mode", "text", 3, 12)
)
TAPS = table(
    "taps", column("day", "day", 300), column("line", "text", 13, blanks=4), column("hour", "whole", 24),
    column("card", "whole", 900, digits=16), column("fare", "decimal", 80), column("price_per_km", "decimal", 20),
    column("note", "text", 990),
)  # fmt: skip
FLEET = table(
    "fleet", column("counted_on", "day", 300), column("bought_on", "day", 40, blanks=10), column("available", "whole", 30),
    column("from_line", "text", 12), column("to_line", "text", 12),
)  # fmt: skip
POINTS = (
    Pointer("taps", "line", "lines", "line_id", 13, 12, 4, 7),
    Pointer("fleet", "from_line", "lines", "line_id", 12, 12),
    Pointer("fleet", "to_line", "lines", "line_id", 12, 12),
)
NESTED = [
    Nesting("lines", inner, outer)
    for inner, outer in (
        ("line_id", "line_name"), ("line_name", "line_id"), ("line_id", "mode"), ("line_name", "mode"),
    )
]  # fmt: skip


@pytest.fixture(scope="module")
def proposed() -> SemanticModel:
    return propose("bay", "Bay", (LINES, TAPS, FLEET), POINTS, (), NESTED)


def test_what_is_proposed_has_no_fault(proposed: SemanticModel) -> None:
    assert check_model(proposed) == []


def test_measures_are_added_up_averaged_counted_and_balanced(proposed: SemanticModel) -> None:
    assert {each.name: (each.aggregate, each.expression) for each in proposed.measures} == {
        "taps": ("count", None), "fare": ("sum", "fare"), "price_per": ("average", "price_per_km"),
        "cards": ("distinct", "card"), "fleet": ("count", None), "fleet_bought_on": ("count", None),
        "available": ("balance", "available"),
    }  # fmt: skip
    assert proposed.measure("price_per").unit == "km"
    assert proposed.tables["taps"].columns["card"].is_key


def test_a_table_that_is_pointed_at_is_a_dimension_with_its_way_down(proposed: SemanticModel) -> None:
    line = proposed.dimension("line")
    assert [(each.name, each.key, each.caption_column) for each in line.attributes] == [
        ("mode", "mode", None), ("line", "line_id", "line_name"),
    ]  # fmt: skip
    assert line.hierarchies[0].levels == ("mode", "line")
    # Nothing is said by a text that is another one nearly everywhere.
    assert [each.name for each in proposed.dimensions] == ["calendar", "line", "to_line", "hour"]


def test_two_columns_that_point_at_one_table_are_two_dimensions(proposed: SemanticModel) -> None:
    ways = {each.role: each.to_table for each in proposed.relationships if each.from_table == "fleet"}
    assert ways == {"from_line": "lines", "to_line": "to_line_lines", "counted_on": "days", "bought_on": "days"}
    assert proposed.tables["to_line_lines"] == proposed.tables["lines"]
    assert proposed.dimension("to_line").table == "to_line_lines"


def test_of_two_days_the_first_is_meant_and_that_is_not_sure(proposed: SemanticModel) -> None:
    assert proposed.measure("fleet").roles == {"calendar": "counted_on"}
    assert proposed.measure("fleet_bought_on").roles == {"calendar": "bought_on"}
    unsure = [each.about for each in proposed.assumed if each.is_unsure]
    assert unsure == ["fleet.counted_on", "taps.price_per_km", "fleet.available"]


def test_each_assumption_says_what_speaks_for_it(proposed: SemanticModel) -> None:
    told = {each.about: each.because for each in proposed.assumed}
    assert (
        told["taps.line"] == "12 of its 13 values are found there; 7 records have one that is not; 4 records have none"
    )
    assert told["lines"] == "each line lies in one mode"
    assert told["taps.card"] == "900 different values in 1,000 records, each of 16 digits"


def test_whole_numbers_point_where_they_are_called_like_it_alone() -> None:
    stops = table("stops", column("id", "whole", 40, 40), column("stop_name", "text", 40, 40))
    trips = table("trips", column("stop_id", "whole", 40), column("people", "whole", 40))
    assert [each.column for each in candidates((stops, trips))] == ["stop_id"]


def test_text_points_by_its_values_where_nearly_all_are_found() -> None:
    found = Pointer("taps", "note", "lines", "line_id", 12, 12)
    assert decided((LINES, TAPS), [found]) == (found,)
    assert decided((LINES, TAPS), [Pointer("taps", "note", "lines", "line_id", 20, 12)]) == ()


def test_tables_never_point_at_each_other_in_a_circle() -> None:
    one = table("people", column("person", "text", 50, 50), column("team", "text", 8, 50))
    other = table("teams", column("team", "text", 8, 8), column("person", "text", 8, 8))
    points = [
        Pointer("people", "team", "teams", "team", 8, 8), Pointer("teams", "person", "people", "person", 8, 8),
    ]  # fmt: skip
    assert [each.table for each in decided((one, other), points)] == ["people"]


def test_a_price_is_averaged_and_a_total_price_is_added_up() -> None:
    columns = [
        column(each, "decimal", 50) for each in ("price", "total_price", "avg_total", "discount_rate", "share_pct")
    ]
    found = propose("bay", "Bay", (table("sold", *columns),), ())
    kinds = {each.name: each.aggregate for each in found.measures}
    assert kinds == {
        "sold": "count", "price": "average", "total_price": "sum", "avg_total": "average", "discount_rate": "average",
        "share": "average",
    }  # fmt: skip
    # What is called a price alone may be what was paid in all.
    assert [each.about for each in found.assumed if each.is_unsure] == ["sold.price"]


def test_a_day_with_a_time_is_cut_to_the_day() -> None:
    found = propose("bay", "Bay", (table("taps", column("at", "moment", 900)),), ())
    assert found.tables["taps"].columns["at_day"].formula == 'cast("at" as date)'
    assert [each.from_column for each in found.relationships] == ["at_day"]
    assert check_model(found) == []


def test_two_facts_with_columns_of_one_name_have_measures_of_two() -> None:
    found = propose(
        "bay", "Bay", (table("plan", column("cost", "decimal", 9)), table("spent", column("cost", "decimal", 9))), ()
    )
    assert [(each.name, each.caption) for each in found.measures] == [
        ("plan", "Plan"), ("cost", "Cost"), ("spent", "Spent"), ("cost_of_spent", "Cost of spent"),
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("text", "words", "name"),
    [
        ("FareProduct_id", ["fare", "product", "id"], "fare_product_id"), ("Größe (m)", ["größe", "m"], "grosse_m"),
        ("2023", ["2023"], "part_2023"), ("линия", ["линия"], "part"), ("HTTPStatus", ["http", "status"], "http_status"),
    ],
)  # fmt: skip
def test_names_are_made_of_words(text: str, words: list[str], name: str) -> None:
    assert (words_of(text), name_of(text)) == (words, name)


def test_names_that_are_taken_get_a_number() -> None:
    assert name_of("Line", ["line", "line_2"]) == "line_3"
    assert caption_of("line_no", ["Line no"]) == "Line no (2)"


def test_units_stand_at_the_end_of_a_name() -> None:
    assert [unit_of(each) for each in ("distance_km", "Fare (EUR)", "Discount %", "km", "people")] == [
        ("distance", "km"), ("Fare ", "EUR"), ("Discount ", "%"), ("km", ""), ("people", ""),
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("many", "one"),
    [("lines", "line"), ("categories", "category"), ("statuses", "status"), ("causes", "cause"), ("buses", "bus"),
     ("boxes", "box"), ("fare_products", "fare product"), ("analysis", "analysis"), ("class", "class")],
)  # fmt: skip
def test_one_of_many(many: str, one: str) -> None:
    assert singular(many) == one


def test_many_of_one() -> None:
    assert [plural(each) for each in ("card", "category", "key", "box")] == ["cards", "categories", "keys", "boxes"]
