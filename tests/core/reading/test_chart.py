"""What a chart draws: innermost headers, time along, too many gathered where they add up."""

from __future__ import annotations

from dataclasses import replace

import pytest

from dastan.core.analysis.document import Chart, Opening
from dastan.core.errors import LimitError
from dastan.core.reading import chart as chart_module
from dastan.core.reading.chart import ChartData, chart_of
from dastan.core.reading.window import window_of
from tests.core.asked import STAR, ask, by, question
from tests.core.engine.random_model import source_of
from tests.core.star import ROWS


def drawn(document: object, chart: Chart | None = None) -> ChartData:
    return chart_of(ask(document), chart or Chart(), STAR.model)  # type: ignore[arg-type]


def captions(headers: tuple[chart_module.ChartHeader, ...]) -> list[str]:
    return [" › ".join(each.captions) for each in headers]


def test_innermost_members_are_drawn_without_their_subtotals() -> None:
    opening = Opening(dimension="line", hierarchy="line", open=(("tram",),))
    document = question("boardings", rows=(by("line", "mode"),), columns=(by("fare", "family"),), openings=(opening,))
    found = drawn(document)
    assert captions(found.categories) == ["bus", "tram › 1", "tram › 2", "without a line"]
    assert captions(found.series) == ["a", "b"]
    # The taps of 2 and 1 boardings on the trams pay a fare of family a, those of 4 and 1 one of b.
    assert found.panels[0].values == ((None, 2, 1, None), (4, None, None, 1))
    assert found.along == "rows"
    assert found.forms[0] == "bars"


def test_time_runs_along_wherever_it_stands() -> None:
    document = question("boardings", rows=(by("line", "mode"),), columns=(by("calendar", "day"),))
    found = drawn(document)
    assert found.along == "columns"
    assert found.forms[0] == ("lines" if len(found.categories) > 2 else "bars")
    turned = drawn(document, Chart(along="rows"))
    assert captions(turned.categories) == captions(found.series)
    assert tuple(zip(*turned.panels[0].values, strict=True)) == found.panels[0].values


def test_periods_of_different_length_are_said_and_not_joined_by_a_line() -> None:
    days = ("2023-12-31", "2024-01-01", "2024-02-01", "2024-03-01")
    calendar = [{"day": each, "year": int(each[:4]), "month": int(each[5:7])} for each in days]
    taps = [each | {"day": day} for each, day in zip(ROWS["taps"], days, strict=True)]
    source = source_of(ROWS | {"taps": taps, "days": calendar})

    def opened(opening: Opening) -> ChartData:
        document = question("boardings", columns=(by("calendar", "year"),), openings=(opening,))
        return chart_of(ask(document, source), Chart(), source.model)

    uneven = opened(Opening(dimension="calendar", hierarchy="calendar", open=((2024,),)))
    assert captions(uneven.categories) == ["2023", "2024 › 1", "2024 › 2", "2024 › 3"]
    assert uneven.forms[0] == "bars"
    assert uneven.notes == ("Year and Month stand side by side: a longer period has more in it than a shorter one.",)
    even = opened(Opening(dimension="calendar", hierarchy="calendar", levels=("year",)))
    assert (even.forms[0], even.notes) == ("lines", ())


def test_a_number_alone_is_one_bar() -> None:
    found = drawn(question("boardings"))
    assert (len(found.categories), len(found.series)) == (1, 1)
    assert found.panels[0].values == ((8,),)


def test_a_rest_that_leaves_64_bits_is_refused_and_never_wrong(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(chart_module, "MOST_BARS", 2)
    many = (5 * 10**18, 1, -9 * 10**18, 5 * 10**18)
    taps = [each | {"boardings": count} for each, count in zip(ROWS["taps"], many, strict=True)]
    source = source_of(ROWS | {"taps": taps})
    result = ask(question("boardings", rows=(by("line", "mode"),)), source)
    # The bus stands alone; trams and those without a line come to 10^19 together.
    with pytest.raises(LimitError, match="Boardings"):
        chart_of(result, Chart(form="bars"), source.model)


def test_too_many_are_gathered_as_others_only_where_they_add_up(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(chart_module, "MOST_BARS", 2)
    rows = (by("line", "mode"),)
    found = drawn(question("boardings", rows=rows), Chart(form="bars"))
    # Of bus 4, tram 3 and without a line 1 the largest stands, and the rest comes to 4.
    assert captions(found.categories) == ["bus", "others"]
    assert found.panels[0].values == ((4, 4),)
    assert found.notes == ("Drawn are the largest 1 of 3; the rest is added up as others.",)
    monkeypatch.setattr(chart_module, "DWARFS", 0.5)
    dwarfed = drawn(question("boardings", rows=rows), Chart(form="bars"))
    # A rest of 4 is more than half of the largest: two members stand, and what is left of 8 is the 1 without a line.
    assert captions(dwarfed.categories) == ["bus", "tram"]
    assert dwarfed.notes == (
        "Drawn are the largest 2 of 3; the rest comes to 12 % and would dwarf them: it is in the table.",
    )
    assert drawn(question("boardings", rows=rows), Chart(form="lines")).categories[-1].captions == ("without a line",)
    monkeypatch.undo()
    monkeypatch.setattr(chart_module, "MOST_BARS", 2)
    cards = drawn(question("cards", rows=rows), Chart(form="bars"))
    assert len(cards.categories) == 2
    assert not any(each.is_others for each in cards.categories)
    assert cards.notes == ("Drawn are the largest 2 of 3; the rest is in the table.",)


def test_measures_have_panels_of_their_own_and_points_take_two() -> None:
    document = question("boardings", "taps", rows=(by("line", "mode"),))
    found = drawn(document)
    assert [each.measure for each in found.panels] == [0, 1]
    assert "points" in found.forms
    assert drawn(question(rows=(by("line", "mode"),))).panels == ()


def test_measures_of_one_unit_are_stacked_and_may_stand_on_one_scale() -> None:
    document = question("boardings", "taps", rows=(by("line", "mode"),))
    apart = drawn(document)
    assert (len(apart.panels), apart.one_scale) == (2, False)
    assert "stacked" in apart.forms
    one = drawn(document, Chart(one_scale=True))
    assert (one.form, one.one_scale, len(one.panels)) == ("bars", True, 1)
    assert captions(one.series) == [each.caption for each in ask(document).measures]
    assert one.panels[0].values == (apart.panels[0].values[0], apart.panels[1].values[0])
    # A stack is of all of them, whatever the scale.
    stacked = drawn(document, Chart(form="stacked"))
    assert (stacked.panels, stacked.series, stacked.one_scale) == (one.panels, one.series, None)
    crossed = question("boardings", "taps", rows=(by("line", "mode"),), columns=(by("fare", "family"),))
    # Where members stand across, it is theirs, but for those who want one scale.
    assert len(drawn(crossed, Chart(form="stacked")).panels) == 2
    joined = drawn(crossed, Chart(form="stacked", one_scale=True))
    assert [(each.measure, each.captions[1:]) for each in joined.series] == [
        (0, ("a",)), (0, ("b",)), (1, ("a",)), (1, ("b",))
    ]  # fmt: skip
    result = ask(document)
    other = replace(result, measures=(result.measures[0], replace(result.measures[1], unit="km")))
    found = chart_of(other, Chart(one_scale=True), STAR.model)
    assert (found.one_scale, len(found.panels), "stacked" in found.forms) == (None, 2, False)


def test_a_form_that_does_not_fit_waits() -> None:
    taps = [each | {"boardings": count} for each, count in zip(ROWS["taps"], (3, 1, -6, 1), strict=True)]
    source = source_of(ROWS | {"taps": taps})
    document = question("boardings", rows=(by("line", "mode"),))
    assert drawn(document, Chart(form="ring")).form == "ring"
    found = chart_of(ask(document, source), Chart(form="ring"), source.model)
    # Parts below zero make no ring.
    assert found.form == "bars"
    assert "ring" not in found.forms
    assert found.notes == ("The form that was chosen does not fit what is shown now; it waits.",)


@pytest.mark.parametrize("measures_on", ["rows", "columns"])
@pytest.mark.parametrize("along", ["rows", "columns"])
def test_each_mark_tells_in_which_cell_of_the_table_its_number_stands(measures_on: str, along: str) -> None:
    document = question(
        "boardings", "taps", rows=(by("line", "mode"),), columns=(by("fare", "family"),), measures_on=measures_on
    )
    result = ask(document)
    data = chart_of(result, Chart(form="bars", along=along), STAR.model)  # type: ignore[arg-type]
    window = window_of(result, 0, 99, 0, 99)
    seen = 0
    for at, panel in enumerate(data.panels):
        for series, values in zip(data.series, panel.values, strict=True):
            for category, value in zip(data.categories, values, strict=True):
                lines = (category.lines[at], series.lines[at])
                row, column = lines if along == "rows" else lines[::-1]
                assert window.values[row][column] == value
                assert window.rows[row].members == (category if along == "rows" else series).members
                seen += value is not None
    assert seen == 6  # trams pay a, the bus b, the tap without a line b: three cells of each measure
