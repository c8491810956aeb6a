"""Dimensions that are reached over tables between, and measures of a dimension's own rows."""

from __future__ import annotations

from datetime import date

import pytest

from dastan.core.analysis.document import Analysis, PlacedDimension, PlacedMeasure, Question
from dastan.core.engine.answer import answer
from dastan.core.engine.waist import DataSpan, Rights
from dastan.core.model.reach import Grain
from dastan.exports.seen import SeenTable
from dastan.sources.folders.folder import OpenModel, open_folder

LINES = "order_no,amount\n1,10\n1,5\n2,7\n3,1\n9,2\n,4\n"
"""Order 9 is not known, and the last is of no order."""
ORDERS = "order_no,ordered,delivered,customer\n1,2024-01-05,2024-02-01,a\n2,2024-01-20,2024-01-21,b\n3,2024-02-02,,z\n"
"""Order 3 is not delivered, and its customer is not known."""
CUSTOMERS = "customer,town\na,Varrow\nb,Sallow\nc,Sallow\n"
MODEL = """
dastan: model/1
name: orders
caption: Orders
tables:
  lines: {file: lines.csv}
  orders: {file: orders.csv}
  customers: {file: customers.csv}
  days: {calendar: {first: "2024-01-01", last: "2024-12-31"}}
relationships:
  - {from_table: lines, from_column: order_no, to_table: orders, to_column: order_no, role: order}
  - {from_table: orders, from_column: ordered, to_table: days, to_column: date, role: ordered}
  - {from_table: orders, from_column: delivered, to_table: days, to_column: date, role: delivered}
  - {from_table: orders, from_column: customer, to_table: customers, to_column: customer, role: customer}
dimensions:
  - name: customer
    caption: Customer
    table: customers
    key: customer
    attributes: [{name: town, caption: Town, key: town}, {name: customer, caption: Customer, key: customer}]
    hierarchies: [{name: customer, levels: [town, customer]}]
  - name: calendar
    caption: Calendar
    table: days
    key: date
    attributes: [{name: month, caption: Month, key: month, caption_column: month_caption}]
    hierarchies: [{name: calendar, levels: [month]}]
measures:
  - {name: amount, caption: Amount, table: lines, aggregate: sum, expression: amount, roles: {calendar: ordered}}
  - {name: delivered, caption: Delivered, table: lines, aggregate: sum, expression: amount, roles: {calendar: delivered}}
  - {name: unsaid, caption: Unsaid, table: lines, aggregate: sum, expression: amount}
  - {name: customers, caption: Customers, table: customers, aggregate: count}
"""


@pytest.fixture(scope="module")
def opened(tmp_path_factory: pytest.TempPathFactory) -> OpenModel:
    folder = tmp_path_factory.mktemp("reach")
    for name, text in (
        ("lines.csv", LINES),
        ("orders.csv", ORDERS),
        ("customers.csv", CUSTOMERS),
        ("model.yaml", MODEL),
    ):
        (folder / name).write_text(text)
    return open_folder(folder)


def shown(opened: OpenModel, dimension: str, level: str, *measures: str) -> list[tuple[list[str], list[str]]]:
    placed = PlacedDimension(dimension=dimension, hierarchy=dimension, level=level)
    asked = tuple(PlacedMeasure(measure=each) for each in measures)
    document = Analysis(model="orders", question=Question(measures=asked, rows=(placed,), totals_of_one="shown"))
    found = answer(document, opened.model, opened.source, Rights("ines"), date(2025, 1, 1))
    return list(SeenTable(found, document, document.dress, opened.model, opened.source.members).lines())


def test_a_calendar_is_reached_over_the_table_between_by_the_role_that_the_measure_names(opened: OpenModel) -> None:
    """What points nowhere on the way belongs nowhere at its end: 2 of order 9, 4 of none, and 1 that is not delivered."""
    assert shown(opened, "calendar", "month", "amount", "delivered") == [
        (["Jan 2024"], ["22", "7"]),
        (["Feb 2024"], ["1", "15"]),
        (["without a calendar"], ["6", "7"]),
        (["All of Calendar"], ["29", "29"]),
    ]
    assert opened.source.span(Grain("lines", (("calendar", "delivered"),))) == DataSpan("2024-01-21", "2024-02-01")


def test_left_blank_and_unknown_are_told_apart_at_the_end_of_the_way(opened: OpenModel) -> None:
    customer, size = opened.model.dimension("customer"), opened.source.row_count("customer")
    rows = opened.source.codes(Grain("lines"), customer, None).tolist()
    assert rows == [0, 0, 1, size + 1, size + 1, size]
    assert shown(opened, "customer", "town", "amount") == [
        (["Sallow"], ["7"]),
        (["Varrow"], ["15"]),
        (["without a customer"], ["7"]),
        (["All of Customer"], ["29"]),
    ]


def test_the_rows_of_a_dimension_are_counted_by_it(opened: OpenModel) -> None:
    assert shown(opened, "customer", "town", "customers") == [
        (["Sallow"], ["2"]), (["Varrow"], ["1"]), (["All of Customer"], ["3"]),
    ]  # fmt: skip


def test_a_measure_that_does_not_say_which_of_several_ways_it_means_is_told(opened: OpenModel) -> None:
    assert [str(each) for each in opened.notes if "ways" in str(each)] == [
        "lines leads to Calendar in 2 ways, so that by it “Unsaid” would be empty; say which is meant by its `roles`: "
        "{calendar: ordered} or {calendar: delivered}"
    ]
    assert shown(opened, "calendar", "month", "unsaid") == [(["All of Calendar"], ["29"])]
