"""Limits and conditions by made measures that look beyond their own records: as a table of all members has them."""

from __future__ import annotations

import random
from dataclasses import replace
from itertools import pairwise

import pytest
from hypothesis import HealthCheck, Phase, given, seed, settings
from hypothesis import strategies as st

from dastan.core.analysis.document import Analysis, Limit, MadeMeasure, PlacedMeasure
from dastan.core.analysis.made import with_made
from dastan.core.engine.answer import answer
from dastan.core.engine.rights import rights_of_roles
from dastan.core.engine.waist import Rights
from dastan.core.errors import InputError, LimitError
from dastan.core.formula.formula import along_of
from dastan.core.language.reading import read_formula
from dastan.core.model.conditions import LevelName, MeasureFilter
from dastan.core.model.meaning import formula_of
from dastan.core.words.vocabulary import Vocabulary
from dastan.sources.columnar.column_source import ColumnSource
from tests.core.asked import STAR, ask, by, question, table
from tests.core.engine.examples import EXAMPLES, IS_FUZZING
from tests.core.engine.oracle_conditions import dimension
from tests.core.engine.oracle_views import rows_of
from tests.core.engine.random_model import source_of
from tests.core.engine.test_formulas import made
from tests.core.engine.test_oracle import cells, headers, roles_of_reader
from tests.core.engine.test_views import REFUSED
from tests.core.star import TODAY

LEVELS = [("line", "mode"), ("line", "line"), ("fare", "family"), ("calendar", "year"), ("calendar", "month")]


def with_measure(text: str, document: Analysis) -> Analysis:
    """The document with a made measure, which it does not show."""
    formula = read_formula(text, Vocabulary(STAR.model, STAR.members)).expression
    return replace(document, made=(MadeMeasure(name="own", caption="Own", formula=formula),))


def largest(amount: int, level: str, side: str = "largest") -> Limit:
    return Limit(level=level, amount=amount, side=side, by=PlacedMeasure(measure="own"), per="whole")  # type: ignore[arg-type]


def test_the_largest_by_a_share_of_the_whole() -> None:
    # Trams have 3 of 8 boardings, the bus 4, those without a line 1.
    asked = question("boardings", rows=(by("line", "mode", limits=(largest(1, "mode"),)),))
    assert table(ask(with_measure('"Boardings" / ("Boardings" over the whole)', asked))) == [
        ("bus", "4"), ("All of Line", "8"),
    ]  # fmt: skip


def test_the_members_of_which_a_share_is_large_enough() -> None:
    at = (LevelName(dimension="line", hierarchy="line", level="mode"),)
    kept = MeasureFilter(measure="own", at=at, operator="more", values=(0.3,))
    asked = question("boardings", rows=(by("line", "mode"),), filters=(kept,))
    found = ask(with_measure('"Boardings" / ("Boardings" over the whole)', asked))
    assert table(found) == [("bus", "4"), ("tram", "3"), ("All of Line", "7")]


def test_what_runs_along_a_table_ranks_nothing() -> None:
    asked = question("boardings", rows=(by("line", "mode", limits=(largest(1, "mode"),)),))
    with pytest.raises(InputError, match="“Own” runs along a table, so nothing can be ranked or compared by it"):
        ask(with_measure('"Boardings" rank among the rows', asked))


def at_one_level(document: Analysis, hierarchy: str, level: str) -> Analysis:
    """A document's first made measure by one level, under those of its filters that look at no measure."""
    filters = tuple(each for each in document.question.filters if not isinstance(each, MeasureFilter))
    placed = by(hierarchy, level, dimension(hierarchy))
    measures = (PlacedMeasure(measure="taps"), PlacedMeasure(measure="made_0"))
    found = replace(document.question, rows=(placed,), columns=(), filters=filters, measures=measures)
    return replace(document, question=found, openings=(), joints=())


def compare(
    number: int, document: Analysis, at: tuple[str, str], amount: int, side: str, roles: tuple[str, ...]
) -> bool:
    """Whether there was anything to compare: the members that rank first, and those with more than some value."""
    source = source_of(rows_of(number))
    rights = rights_of_roles("reader", roles, source.model, TODAY, lambda _: None)
    asked = at_one_level(document, *at)
    model = with_made(source.model, asked)
    try:
        whole = answer(asked, source.model, source, rights, TODAY)
    except (InputError, LimitError) as error:
        if not any(each in error.message for each in (*REFUSED, "18 digits")):
            raise
        return False
    values = {row: value for (row, _, name), value in cells(whole).items() if name == "made_0" and row}
    known = {each: float(value) for each, value in values.items() if value is not None}
    order = sorted(known, key=lambda each: -known[each] if side == "largest" else known[each])
    near = [abs(known[one] - known[other]) < 1e-9 for one, other in pairwise(order)]
    if not known or any(near):
        return False
    limit = Limit(level=at[1], amount=amount, side=side, by=PlacedMeasure(measure="made_0"), per="whole")  # type: ignore[arg-type]
    placed = replace(asked.question.rows[0], limits=(limit,))
    limited = replace(asked, question=replace(asked.question, rows=(placed,)))
    if along_of(formula_of(model.measure("made_0"), model)):
        with pytest.raises(InputError, match="runs along a table"):
            answer(limited, source.model, source, rights, TODAY)
        return False
    assert seen(limited, source, rights) == set(order[:amount])
    least = sorted(known.values())[len(known) // 2] - 5e-10
    level = LevelName(dimension=dimension(at[0]), hierarchy=at[0], level=at[1])
    kept = MeasureFilter(measure="made_0", at=(level,), operator="more", values=(least,))
    narrowed = replace(asked, question=replace(asked.question, filters=(*asked.question.filters, kept)))
    assert seen(narrowed, source, rights) == {each for each in known if known[each] > least}
    return True


def seen(document: Analysis, source: ColumnSource, rights: Rights) -> set[object]:
    return {each for each in headers(answer(document, source.model, source, rights, TODAY).rows) if each}


@pytest.mark.parametrize("shard", range(2))
def test_what_is_ranked_or_compared_is_what_the_table_shows(shard: int) -> None:
    compared = []

    @seed(random.randrange(2**32) if IS_FUZZING else shard)
    @settings(
        max_examples=EXAMPLES // 10, deadline=None, suppress_health_check=list(HealthCheck), phases=[Phase.generate]
    )
    @given(
        rows=st.integers(0, 2**32), document=made(), at=st.sampled_from(LEVELS), amount=st.integers(1, 3),
        side=st.sampled_from(["largest", "smallest"]), roles=roles_of_reader,
    )  # fmt: skip
    def run(rows: int, document: Analysis, at: tuple[str, str], amount: int, side: str, roles: tuple[str, ...]) -> None:
        compared.append(compare(rows, document, at, amount, side, roles))

    run()
    assert sum(compared) > len(compared) / 10
