"""Gestures on a model: what they change, what they take with them, what they refuse, and how they are told."""

from __future__ import annotations

import pytest

from dastan.core.errors import InputError
from dastan.core.model.document import Attribute, Dimension, Hierarchy, Measure, Role, SemanticModel
from dastan.core.model.gestures import (
    Confirm,
    DescribeDimension,
    LeaveOutAttribute,
    LeaveOutDimension,
    LeaveOutHierarchy,
    LeaveOutMeasure,
    LeaveOutTable,
    MakeCalendar,
    NameRole,
    NameSomething,
    PlaceDimension,
    PlaceMeasure,
    PutAttribute,
    PutHierarchy,
    PutMeasure,
    PutRole,
    ReadTable,
    Tie,
    TypeColumn,
    Untie,
    apply_to_model,
)
from dastan.documents.read import read_model

TEXT = """
dastan: model/1
name: depots
caption: Depots
tables:
  taps: {file: taps.csv, columns: {card: {type: integer, is_key: true}}}
  fares: {file: fares.csv}
  lines: {file: lines.csv}
  days: {calendar: {}}
relationships:
  - {from_table: taps, from_column: line_id, to_table: lines, to_column: line_id, role: line}
  - {from_table: taps, from_column: day, to_table: days, to_column: date, role: day}
dimensions:
  - name: line
    caption: Line
    table: lines
    key: line_id
    attributes:
      - {name: mode, caption: Mode, key: mode}
      - {name: line, caption: Line, key: line_id}
    hierarchies:
      - {name: line, levels: [mode, line]}
      - {name: alone, caption: Alone, levels: [line]}
  - name: calendar
    caption: Calendar
    table: days
    key: date
    attributes: [{name: day, caption: Day, key: date}]
    hierarchies: [{name: calendar, levels: [day]}]
measures:
  - {name: taps, caption: Taps, table: taps, aggregate: count}
  - {name: cards, caption: Cards, table: taps, aggregate: distinct, expression: card}
  - {name: per_card, caption: Taps by card, table: taps, aggregate: ratio, numerator: taps, denominator: cards}
  - {name: paid, caption: Paid, table: fares, aggregate: sum, expression: amount}
filters:
  - {name: trams, caption: Trams, condition: {kind: members, dimension: line, hierarchy: line, members: [[tram]]}}
assumed:
  - {about: taps.card, says: card names something, because: it is called like that}
  - {about: fares, says: values are parted by ;}
"""


@pytest.fixture(scope="module")
def model() -> SemanticModel:
    return read_model(TEXT)


def test_a_number_that_names_nothing_is_added_up_and_the_assumption_is_settled(model: SemanticModel) -> None:
    gesture = NameSomething(table="taps", column="card", is_key=False)
    changed = apply_to_model(model, gesture)
    assert changed.measure("cards").aggregate == "sum"
    assert "card" not in changed.tables["taps"].columns
    assert [each.about for each in changed.assumed] == ["fares"]
    assert gesture.words(model) == "card is an amount"
    back = apply_to_model(changed, NameSomething(table="taps", column="card", is_key=True))
    assert back.measure("cards").aggregate == "distinct"


def test_a_table_takes_with_it_what_is_made_of_it(model: SemanticModel) -> None:
    gesture = LeaveOutTable(table="taps")
    changed = apply_to_model(model, gesture)
    assert set(changed.tables) == {"fares", "lines", "days"}
    assert [each.name for each in changed.measures] == ["paid"]
    assert changed.relationships == ()
    assert [each.about for each in changed.assumed] == ["fares"]
    # Three measures and two ties.
    assert gesture.words(model) == "left out Taps, and with it 5 parts that were made of it"


def test_a_measure_takes_the_ratio_over_it_along(model: SemanticModel) -> None:
    gesture = LeaveOutMeasure(name="cards")
    assert [each.name for each in apply_to_model(model, gesture).measures] == ["taps", "paid"]
    assert gesture.words(model) == "left out Cards, and with it the measure Taps by card"


def test_a_dimension_takes_its_filters_along_but_never_a_role(model: SemanticModel) -> None:
    changed = apply_to_model(model, LeaveOutDimension(name="line"))
    assert changed.filters == ()
    assert [each.name for each in changed.dimensions] == ["calendar"]
    tram = read_model(TEXT).filters[0].condition
    restricted = apply_to_model(model, PutRole(role=Role(name="tram", caption="Tram staff", conditions=(tram,))))
    with pytest.raises(InputError, match="Tram staff"):
        apply_to_model(restricted, LeaveOutDimension(name="line"))
    with pytest.raises(InputError, match="Tram staff"):
        apply_to_model(restricted, LeaveOutTable(table="lines"))


def test_ties_go_from_many_to_one_and_in_no_circle(model: SemanticModel) -> None:
    tie = Tie(from_table="fares", from_column="line_no", to_table="lines", to_column="line_id")
    changed = apply_to_model(model, tie)
    # The role is what the column is about.
    assert [(each.from_table, each.role) for each in changed.relationships][-1] == ("fares", "line")
    assert tie.words(model) == "tied Fares to Lines"
    with pytest.raises(InputError, match="leads to"):
        apply_to_model(model, Tie(from_table="lines", from_column="x", to_table="taps", to_column="tap_id"))
    with pytest.raises(InputError, match="itself"):
        apply_to_model(model, Tie(from_table="lines", from_column="x", to_table="lines", to_column="line_id"))
    again = apply_to_model(changed, Tie(from_table="fares", from_column="line_no", to_table="lines", to_column="code"))
    assert len(again.relationships) == len(changed.relationships)


def test_a_role_is_called_otherwise_with_the_measures_that_name_it(model: SemanticModel) -> None:
    second = apply_to_model(model, MakeCalendar(table="taps", column="billed"))
    # What had one way to the calendar keeps it.
    assert second.measure("taps").roles == {"calendar": "day"}
    named = apply_to_model(second, NameRole(table="taps", role="day", name="travelled"))
    assert named.measure("taps").roles == {"calendar": "travelled"}
    untied = apply_to_model(named, Untie(table="taps", role="billed"))
    assert [each.role for each in untied.relationships] == ["line", "travelled"]


def test_a_calendar_is_made_once(model: SemanticModel) -> None:
    first = apply_to_model(model, MakeCalendar(table="fares", column="paid_on"))
    assert [each.name for each in first.dimensions] == ["line", "calendar"]
    bare = apply_to_model(
        apply_to_model(model, LeaveOutTable(table="days")), MakeCalendar(table="fares", column="paid_on")
    )
    assert [each.name for each in bare.dimensions] == ["line", "calendar"]
    assert bare.tables["days"].calendar is not None
    with pytest.raises(InputError, match="already"):
        apply_to_model(first, MakeCalendar(table="fares", column="paid_on"))


def test_levels_and_ways_down(model: SemanticModel) -> None:
    zone = PutAttribute(dimension="line", attribute=Attribute(name="zone", caption="Zone", key="zone"))
    changed = apply_to_model(model, zone)
    assert zone.words(model) == "Zone tells Line apart"
    way = PutHierarchy(dimension="line", hierarchy=Hierarchy(name="line", levels=("zone", "mode", "line")))
    changed = apply_to_model(changed, way)
    assert way.words(changed) == "Line opens as Zone › Mode › Line"
    fewer = apply_to_model(changed, LeaveOutAttribute(dimension="line", name="mode"))
    assert fewer.dimension("line").hierarchy("line").levels == ("zone", "line")
    alone = apply_to_model(fewer, LeaveOutHierarchy(dimension="line", name="alone"))
    with pytest.raises(InputError, match="only way down"):
        apply_to_model(alone, LeaveOutHierarchy(dimension="line", name="line"))
    with pytest.raises(InputError, match="no attribute “district”"):
        apply_to_model(model, PutHierarchy(dimension="line", hierarchy=Hierarchy(name="line", levels=("district",))))


def test_an_order_is_changed(model: SemanticModel) -> None:
    assert [each.name for each in apply_to_model(model, PlaceDimension(name="calendar", before="line")).dimensions] == [
        "calendar",
        "line",
    ]
    assert [each.name for each in apply_to_model(model, PlaceMeasure(name="taps")).measures] == [
        "cards",
        "per_card",
        "paid",
        "taps",
    ]


def test_what_is_said_of_a_dimension(model: SemanticModel) -> None:
    gesture = DescribeDimension(name="line", caption="Route", all="")
    changed = apply_to_model(model, gesture).dimension("line")
    assert (changed.caption, changed.all_caption) == ("Route", "All of Route")
    assert gesture.words(model) == "called Line “Route”"
    with pytest.raises(InputError, match="caption"):
        apply_to_model(model, DescribeDimension(name="line", caption=" "))


def test_measures_are_told_apart_by_what_they_are_called(model: SemanticModel) -> None:
    with pytest.raises(InputError, match="called “Taps”"):
        apply_to_model(model, PutMeasure(measure=Measure(name="more", caption="Taps", table="taps", aggregate="count")))
    made = PutMeasure(
        measure=Measure(name="paid", caption="Paid", table="fares", aggregate="average", expression="amount")
    )
    assert made.words(model) == "Paid is averaged"
    assert apply_to_model(model, made).measure("paid").aggregate == "average"


def test_a_gesture_that_would_leave_a_fault_changes_nothing(model: SemanticModel) -> None:
    faulty = Measure(name="sold", caption="Sold", table="shops", aggregate="count")
    with pytest.raises(InputError, match="shops"):
        apply_to_model(model, PutMeasure(measure=faulty))
    empty = Dimension(name="x", caption="X", table="lines", attributes=(), hierarchies=())
    with pytest.raises(InputError):
        apply_to_model(
            model, Tie(from_table="fares", from_column="a", to_table="lines", to_column="b", dimension=empty)
        )


def test_how_a_file_is_read(model: SemanticModel) -> None:
    gesture = ReadTable(table="fares", delimiter=";", header=3, blanks=("n/a",))
    changed = apply_to_model(model, gesture)
    assert changed.tables["fares"].delimiter == ";"
    assert gesture.words(model) == "read Fares with values parted by ;, names in line 3, blank where it says n/a"
    assert [each.about for each in changed.assumed] == ["taps.card"]
    with pytest.raises(InputError, match="no file"):
        apply_to_model(model, ReadTable(table="days", header=2))


def test_what_a_column_holds(model: SemanticModel) -> None:
    gesture = TypeColumn(table="fares", column="paid_on", type="date", date_format="%d.%m.%Y")
    assert apply_to_model(model, gesture).tables["fares"].columns["paid_on"].day_forms == ("%d.%m.%Y",)
    assert gesture.words(model) == "paid_on holds dates"
    plain = apply_to_model(apply_to_model(model, gesture), TypeColumn(table="fares", column="paid_on"))
    assert plain.tables["fares"].columns == {}


def test_what_was_assumed_is_confirmed_one_by_one_or_all_at_once(model: SemanticModel) -> None:
    one = apply_to_model(model, Confirm(about="taps.card", says="card names something"))
    assert [each.about for each in one.assumed] == ["fares"]
    assert apply_to_model(model, Confirm()).assumed == ()
    assert Confirm().words(model) == "confirmed all 2 things"
    with pytest.raises(InputError, match="already"):
        apply_to_model(apply_to_model(model, Confirm()), Confirm())
