"""The demo's data: the same for the same seed, as many journeys as asked, with the story in it."""

from __future__ import annotations

from datetime import date
from pathlib import Path

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.parquet as pq
import pytest

from dastan.core.analysis.document import Analysis
from dastan.core.engine.answer import answer
from dastan.core.engine.waist import Rights
from dastan.core.reading.remarks import remarks_of
from dastan.core.words.reading import read_question
from dastan.core.words.vocabulary import Vocabulary
from dastan.demo import journeys
from dastan.demo.dimensions import small_tables
from dastan.demo.generate import generate
from dastan.demo.operations import fleet, incidents, ledger
from dastan.sources.folders.folder import open_folder


@pytest.fixture(scope="module")
def taps() -> pa.Table:
    return pa.concat_tables([_plain(each) for each in journeys.journey_parts(60_000, 7)])


def _plain(table: pa.Table) -> pa.Table:
    return table.cast(
        pa.schema(
            [(each.name, pa.string() if pa.types.is_dictionary(each.type) else each.type) for each in table.schema]
        )
    )


def share(mask: pa.ChunkedArray) -> float:
    return float(pc.mean(mask.cast(pa.float64())).as_py())


def test_there_are_exactly_as_many_journeys_as_asked_in_order_of_day(taps: pa.Table) -> None:
    assert taps.num_rows == 60_000
    days = taps["date"].to_numpy()
    assert (np.diff(days.astype(int)) >= 0).all()


def test_the_same_seed_makes_the_same_data_and_another_seed_other(taps: pa.Table) -> None:
    again = [next(journeys.journey_parts(60_000, seed)) for seed in (7, 8)]
    assert _plain(again[0]).equals(taps.slice(0, again[0].num_rows).combine_chunks())
    assert not again[0].equals(again[1])


def test_parts_are_bounded_whatever_is_asked(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(journeys, "LARGEST_PART", 100)
    sizes = [each.num_rows for each in journeys.journey_parts(9_000, 7)]
    assert max(sizes) <= 100
    assert sum(sizes) == 9_000


def test_some_taps_have_no_stop_some_an_unknown_one_and_delay_is_sometimes_missing(taps: pa.Table) -> None:
    known = small_tables()["stops"]["stop_id"]
    unknown = pc.and_(
        taps["stop_id"].is_valid(),
        pc.invert(pc.is_in(taps["stop_id"], value_set=known.combine_chunks().cast(pa.int32()))),
    )
    assert 0.005 < share(taps["stop_id"].is_null()) < 0.02
    assert 0.001 < share(unknown) < 0.006
    assert 0.1 < share(taps["delay_min"].is_null()) < 0.25


def test_the_strike_week_empties_trams_and_buses(taps: pa.Table) -> None:
    days = taps["date"].to_numpy()
    struck = (days >= journeys.STRIKE[0]) & (days <= journeys.STRIKE[1])
    before = (days >= journeys.STRIKE[0] - 7) & (days < journeys.STRIKE[0])
    on_rails = np.isin(
        taps["line_id"].to_numpy(zero_copy_only=False).astype(str), ["line_1", "line_2", "line_3", "10", "20"]
    )
    assert (on_rails & struck).sum() < 0.2 * (on_rails & before).sum()


def test_the_new_fare_is_sold_only_from_its_first_day(taps: pa.Table) -> None:
    sold = taps.filter(pc.equal(taps["fare_product_id"], "coast_saver"))["date"]
    assert str(pc.min(sold).as_py()) >= "2024-07-01"
    assert len(sold) > 500


def test_one_lines_incidents_stay_open() -> None:
    table = incidents(7)
    is_open = table["resolved_on"].is_null()
    on_line = pc.fill_null(pc.equal(table["line_id"].cast(pa.string()), "14"), False)
    assert share(is_open.filter(on_line)) > 0.4
    assert share(is_open.filter(pc.invert(on_line))) < 0.02


def test_one_depot_runs_over_plan_and_one_ferry_loses_money() -> None:
    table = ledger(7)
    postings = table.filter(pc.equal(table["kind"].cast(pa.string()), "posting"))

    def total(column: str, version: str, **where: str) -> float:
        mask = pc.equal(postings["version_id"].cast(pa.string()), version)
        for name, value in where.items():
            mask = pc.and_(mask, pc.fill_null(pc.equal(postings[name].cast(pa.string()), value), False))
        return float(pc.sum(postings[column].filter(mask)).as_py())

    assert total("debit", "actual", depot_id="quarry_lane") / total("debit", "plan", depot_id="quarry_lane") > 1.08
    assert total("debit", "actual", depot_id="saltmarsh") / total("debit", "plan", depot_id="saltmarsh") < 1.03
    assert total("debit", "actual", line_id="f2") > total("credit", "actual", line_id="f2")


def test_the_fleet_has_one_balance_per_day_depot_and_vehicle_type() -> None:
    table = fleet(7)
    keys = table.group_by(["date", "depot_id", "vehicle_type_id"]).aggregate([([], "count_all")])
    assert set(keys["count_all"].to_pylist()) == {1}


def test_generating_again_makes_nothing_that_is_current(tmp_path: Path) -> None:
    folder = tmp_path / "demo"
    assert generate(folder, 2_000, show_progress=False)
    stamp = (folder / "journeys" / "2021.parquet").stat().st_mtime_ns
    assert not generate(folder, 2_000, show_progress=False)
    assert (folder / "journeys" / "2021.parquet").stat().st_mtime_ns == stamp
    assert generate(folder, 3_000, show_progress=False)
    assert sum(pq.ParquetFile(each).metadata.num_rows for each in (folder / "journeys").iterdir()) == 3_000
    opened = open_folder(folder)
    assert opened.model.caption == "Varrow Bay Transit"


def test_what_is_posted_fits_the_line_and_what_was_sold() -> None:
    table = ledger(7)
    postings = table.filter(pc.equal(table["kind"].cast(pa.string()), "posting"))
    lines = small_tables()["lines"]
    modes = dict(zip(lines["line_id"].to_pylist(), lines["mode_name"].to_pylist(), strict=True))
    products = small_tables()["fare_products"]
    family = dict(zip(products["fare_product_id"].to_pylist(), products["family_name"].to_pylist(), strict=True))
    seen: dict[str, set[str | None]] = {}
    sold: dict[str, set[str | None]] = {}
    for each in postings.select(["account_id", "line_id", "fare_product_id", "date"]).to_pylist():
        if each["line_id"] is not None:
            seen.setdefault(each["account_id"], set()).add(modes[each["line_id"]])
        product = each["fare_product_id"]
        sold.setdefault(each["account_id"], set()).add(product and family[product])
        assert product != "coast_saver" or str(each["date"]) >= "2024-07-01"
    assert (seen["6100"], seen["6200"], seen["6300"]) == ({"Tram", "Metro"}, {"Bus"}, {"Ferry"})
    assert seen["5110"] == {"Tram", "Metro", "Bus", "Ferry"}
    assert (sold["4110"], sold["4120"], sold["4200"], sold["7100"]) == (
        {"Tickets", "Visitors"}, {"Passes"}, {"Concessions"}, {None},
    )  # fmt: skip


def test_the_ledger_is_told_by_fare_family_and_journeys_by_the_depot_of_their_line(tmp_path: Path) -> None:
    generate(tmp_path / "demo", 4_000, show_progress=False)
    opened = open_folder(tmp_path / "demo")
    vocabulary = Vocabulary(opened.model, opened.source.members)
    for text, expected in (("credit by fare family", 4), ("boardings by home depot", 6)):
        question = read_question(text, vocabulary).question
        assert question is not None, text
        document = Analysis(model=opened.model.name, question=question)
        shown = answer(document, opened.model, opened.source, Rights("ines"), date(2026, 1, 1))
        lines = [each.text for each in remarks_of(document, shown, opened.model, opened.source)]
        assert shown.values[0].present.sum() >= expected + 1, (text, lines)
