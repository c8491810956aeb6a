"""The records behind a cell: exactly those, and the value that they come to by themselves is the cell's."""

from __future__ import annotations

import pytest
from hypothesis import HealthCheck, Phase, given, seed, settings
from hypothesis import strategies as st

from dastan.core.analysis.document import Analysis
from dastan.core.engine.answer import answer, questioner_of
from dastan.core.engine.rights import rights_of_roles
from dastan.core.engine.size import Budget
from dastan.core.errors import InputError
from dastan.core.model.conditions import AttributeFilter, MemberFilter
from dastan.core.reading.account import account_of
from dastan.core.reading.backing import backings_of, cell_value, place_of, record_count
from dastan.core.reading.why_empty import WhyEmpty, why_empty
from dastan.sources.columnar.column_source import ColumnSource
from tests.core.asked import EVERYTHING, STAR, ask, by, limited, question
from tests.core.engine.oracle_views import rows_of
from tests.core.engine.random_model import random_rows, source_of
from tests.core.engine.test_oracle import REFUSED, analyses, roles_of_reader
from tests.core.engine.test_views import REFUSED as VIEWS_REFUSED
from tests.core.engine.test_views import viewed
from tests.core.star import TODAY

CELLS = 12


def behind(document: Analysis, row: int, column: int, source: ColumnSource = STAR) -> list[tuple[str, int]]:
    """The parts of a cell's measure with how many records each counts."""
    found = ask(document, source)
    asked = questioner_of(document, source.model, source, EVERYTHING, TODAY, source.group, Budget())
    place = place_of(found, row, column)
    return [(each.part.name, record_count(each, source)) for each in backings_of(found, place, *asked)]


def emptied(document: Analysis, row: int, column: int) -> WhyEmpty:
    asked = questioner_of(document, STAR.model, STAR, EVERYTHING, TODAY, STAR.group, Budget())
    found = ask(document)
    return why_empty(found, place_of(found, row, column), *asked, STAR.members)


def test_a_cell_a_subtotal_and_the_total_have_their_own_records() -> None:
    document = question("boardings", rows=(by("line", "mode"),), columns=(by("fare", "family"),))
    # Four taps: two on trams paid by family a, one on the bus and one without a line paid by b.
    assert behind(document, 1, 0) == [("boardings", 2)]
    assert behind(document, 0, 0) == [("boardings", 0)]
    assert behind(document, 0, 2) == [("boardings", 1)]
    assert behind(document, 3, 2) == [("boardings", 4)]


def test_records_without_a_line_and_those_of_others() -> None:
    document = question("boardings", rows=(limited(by("line", "mode"), level="mode", amount=1, others=True),))
    rows = [("bus", 1), ("others", 3), ("all", 4)]
    assert [behind(document, at, 0)[0][1] for at in range(3)] == [count for _, count in rows]


def test_what_empties_a_cell_is_named_and_what_lifting_it_would_leave() -> None:
    tram = MemberFilter(dimension="line", hierarchy="line", members=(("tram",),))
    b = MemberFilter(dimension="fare", hierarchy="fare", members=(("b",),))
    found = emptied(question("boardings", filters=(tram, b)), 0, 0)
    assert (found.all_records, found.left) == (4, 0)
    assert [(each.at, each.alone, each.without) for each in found.causes] == [(0, 2, 2), (1, 2, 2)]
    assert found.pairs == ()


def test_filters_that_empty_it_only_together_are_paired() -> None:
    nothing = AttributeFilter(dimension="line", attribute="colour", operator="equal", values=("no such colour",))
    none_of_them = AttributeFilter(dimension="fare", attribute="family", operator="equal", values=("no such",))
    found = emptied(question("boardings", filters=(nothing, none_of_them)), 0, 0)
    assert [each.without for each in found.causes] == [0, 0]
    assert [(each.at, each.without) for each in found.pairs] == [((0, 1), 4)]


def test_a_number_that_is_not_there_is_refused() -> None:
    with pytest.raises(InputError, match="no such number"):
        place_of(ask(question("boardings")), 7, 0)


def check_records(
    source: ColumnSource, document: Analysis, roles: tuple[str, ...], first: int, refused: tuple[str, ...]
) -> None:
    """Some cells from a place on: the records behind each come to its value, or say that they cannot be added up."""
    rights = rights_of_roles("tester", roles, source.model, TODAY, lambda _: None)
    try:
        found = answer(document, source.model, source, rights, TODAY)
        asked = questioner_of(document, source.model, source, rights, TODAY, source.group, Budget())
    except InputError as error:
        if not any(each in error.message for each in refused):
            raise
        return
    across, down = len(found.column_lines), len(found.row_lines)
    for at in range(first, min(first + CELLS, across * down)):
        if found.row_lines.has_figures[at // across]:
            place = place_of(found, at // across, at % across)
            account = account_of(found, place, *asked, source.members, ())
            assert account.agrees is not False, (account, cell_value(found, place))


@pytest.mark.parametrize("shard", range(2))
def test_the_records_of_any_cell_come_to_its_value(shard: int) -> None:
    @seed(shard)
    @settings(max_examples=60, deadline=None, suppress_health_check=list(HealthCheck))
    @given(rows=st.integers(0, 2**32), document=analyses(), roles=roles_of_reader, first=st.integers(0, 40))
    def run(rows: int, document: Analysis, roles: tuple[str, ...], first: int) -> None:
        check_records(source_of(random_rows(rows)), document, roles, first, REFUSED)

    run()


@pytest.mark.parametrize("shard", range(2))
def test_the_records_of_every_term_of_a_view_come_to_its_value(shard: int) -> None:
    @seed(shard)
    @settings(max_examples=60, deadline=None, suppress_health_check=list(HealthCheck), phases=[Phase.generate])
    @given(number=st.integers(0, 2**32), document=viewed(), roles=roles_of_reader, first=st.integers(0, 40))
    def run(number: int, document: Analysis, roles: tuple[str, ...], first: int) -> None:
        check_records(source_of(rows_of(number)), document, roles, first, VIEWS_REFUSED)

    run()
