"""Formulas read and written back; what is wrong is told with its place and what to do."""

from __future__ import annotations

import random

import pytest

from dastan.core.analysis.formula_words import aloud
from dastan.core.errors import FormulaError
from dastan.core.language.completing import complete
from dastan.core.language.reading import grammar, read_formula
from dastan.core.language.writing import write_formula
from dastan.core.model.expression import Arithmetic, MeasureOf, NumberOf
from dastan.core.words.vocabulary import Vocabulary
from tests.core.star import star

STAR = star()
WORDS = Vocabulary(STAR.model, STAR.members)


def read(text: str) -> str:
    """A formula as it is written back."""
    found = read_formula(text, WORDS).expression
    written = write_formula(found, WORDS)
    assert read_formula(written, WORDS).expression == found
    return written


def fault(text: str) -> FormulaError:
    with pytest.raises(FormulaError) as caught:
        read_formula(text, WORDS)
    return caught.value


def marked(text: str) -> str:
    """What is marked as wrong in a text."""
    start, end = fault(text).details["span"]
    return text[start:end]


def test_operators_hold_together_as_everywhere_and_brackets_stand_where_they_must() -> None:
    own = {each: MeasureOf(measure=each) for each in ("boardings", "taps", "revenue")}
    product = Arithmetic(operator="*", left=own["taps"], right=own["revenue"])
    assert read_formula("boardings + taps * revenue", WORDS).expression == Arithmetic(
        operator="+", left=own["boardings"], right=product
    )
    assert read("(boardings - (taps - 1)) * 2") == '("Boardings" - ("Taps" - 1)) * 2'
    assert read("boardings - taps - 1") == '"Boardings" - "Taps" - 1'
    assert read("-(-boardings)") == '-(-"Boardings")'
    assert read_formula("0.10 * taps", WORDS).expression == Arithmetic(
        operator="*", left=NumberOf(digits="0.10"), right=own["taps"]
    )


@pytest.mark.parametrize(
    ("text", "written"),
    [
        ("BOARDINGS -- people\n / /* of */ taps", '"Boardings" / "Taps"'),
        ('"tram boardings"', '"Tram boardings"'),
        ("case when taps > 3 and not boardings is null then 1 else 0 end * taps",
         'case when "Taps" > 3 and "Boardings" is not null then 1 else 0 end * "Taps"'),
        ("case when taps between 1 and 3 then taps end", 'case when "Taps" >= 1 and "Taps" <= 3 then "Taps" end'),
        ('case when taps > 3 and (boardings only "Mode" = "tram") > (taps only "Mode" = "bus") or cards > 2 then 1 end * taps',
         'case when "Taps" > 3 and ("Boardings" only "Mode" = "tram") > ("Taps" only "Mode" = "bus") or "Cards" > 2 then 1 end '
         '* "Taps"'),
        ('boardings only "Mode" = "tram" over the row', '"Boardings" only "Mode" = "tram" over the row'),
        ('(boardings only "Year" = 2024 to date in "Year") - 2', '("Boardings" only "Year" = "2024" to date in "Year") - 2'),
        ("coalesce(revenue, 0)", 'coalesce("Revenue", 0)'),
        ('boardings only "Mode" = \'tram\'', '"Boardings" only "Mode" = "tram"'),
        ('boardings only "Line" = "bus" everywhere', '"Boardings" only "Mode" = "bus" everywhere'),
        ('boardings only "Mode" <> "tram" or ("Family" in ("a", "b") and "Year" >= 2024)',
         '"Boardings" only "Mode" <> "tram" or ("Family" in ("a", "b") and "Year" >= 2024)'),
        ('boardings only "Mode" is null', '"Boardings" only "Mode" is null'),
        ("boardings only \"Line\" not like '%1'", "\"Boardings\" only \"Line\" not like '%1'"),
        ("boardings over what its column stands in", '"Boardings" over what its column stands in'),
        ('boardings over the "mode"', '"Boardings" over the "Mode"'),
        ('boardings over all "fare"', '"Boardings" over all "Fare"'),
        ("case when at line then boardings end", 'case when at "Line" then "Boardings" end'),
        ("case when not within mode and at family then 1 else boardings end", 'case when not within "Mode" and at "Family" then 1 else "Boardings" end'),
        ("boardings 2 years before", '"Boardings" 2 years before'),
        ("boardings 3 PERIODS before along calendar", '"Boardings" 3 periods before'),
        ("boardings 1 year before", '"Boardings" in the year before'),
        ("boardings in the same part of the year before", '"Boardings" in the same part of the year before'),
        ("boardings moving average of 3 across the columns in each group",
         '"Boardings" moving average of 3 across the columns in each group'),
        ("boardings rank among the rows", '"Boardings" rank among the rows'),
        ('(boardings / taps) greatest over "Month"', '("Boardings" / "Taps") greatest over "Month"'),
        ("least(taps, boardings, 3)", 'least("Taps", "Boardings", 3)'),
    ],
)  # fmt: skip
def test_what_can_be_said_is_written_back_the_same(text: str, written: str) -> None:
    assert read(text) == written


@pytest.mark.parametrize(
    ("text", "message", "where"),
    [
        ("boardngs / 2", "There is no measure “boardngs”. Did you mean “Boardings”", "boardngs"),
        ('boardings only "Mod" = "tram"', 'There is no level “Mod”. Did you mean “Mode”?', '"Mod"'),
        ('boardings only "Mode" = "trm"', "There is no “trm” in Line. Did you mean “tram”?", '"trm"'),
        ("boardings +", "The formula is not finished.", "+"),
        ("boardings taps", "“taps” is not expected here.", "taps"),
        ('"boardings', 'A quote is not closed. Close it with ".', '"'),
        ("squrt(taps)", 'There is no function squrt. Did you mean “sqrt”?', "squrt"),
        ("round(taps, boardings)", "How many digits to round to is a whole number.", "boardings"),
        ("taps > 3", "This is true or false, and a measure is a number.", "taps > 3"),
        ("taps * (boardings > 3)", "This is true or false, where a number is wanted.", "boardings > 3"),
        ("case when taps then 1 end", "This is a number, where true or false is wanted.", "taps"),
        ("3 + 4", "A formula stands on at least one measure.", "3 + 4"),
        ("boardings moving sum of 1 down the rows", "Nothing moves over 1.", "1"),
        ("cards running total down the rows", "This cannot be added up along the table", None),
        ('repairs only "Fare" = "a"', "Fare does not reach the records of Repairs", "repairs"),
        ('(boardings over the whole) in the year before', "Two things are said of which records it is over.", None),
        ('(boardings over the whole) average over "Mode"', "Members are brought together of what is worked out", None),
        ("boardings + at line", "“line” is not expected here.", None),
        ("case when at lime then boardings end", "There is no level “lime”.", None),
        ("(case when at line then boardings end) in the year before", "not moved elsewhere", None),
        ("boardings 0 years before", "Nothing is 0 years before.", None),
        ("boardings 400 periods before", "Nothing is 400 periods before.", None),
        ("boardings 2 before", "not expected", None),
        ("boardings in the year before along \"Line\"", "Line is not a calendar", None),
        ("boardings only \"Line\" like 'a%b'", "“like” finds a text at the beginning", "'a%b'"),
    ],
)  # fmt: skip
def test_what_is_wrong_is_told_at_its_place(text: str, message: str, where: str | None) -> None:
    assert message in str(fault(text))
    assert fault(text).hint
    if where is not None:
        assert marked(text) == where


def test_what_could_be_meant_of_one_value_or_of_all_asks_for_brackets_and_offers_both() -> None:
    text = 'revenue / boardings only "Mode" = "tram"'
    fixes = fault(text).details["fixes"]
    assert [each["text"] for each in fixes] == [
        '(revenue / boardings) only "Mode" = "tram"', 'revenue / (boardings only "Mode" = "tram")',
    ]  # fmt: skip
    whole, last = (read_formula(each["text"], WORDS).expression for each in fixes)
    assert whole != last


def test_a_blank_is_one_of_the_level_that_is_named() -> None:
    """What has no team is not all that has no mode: in the star there are only such as have neither."""
    team, mode = (read_formula(f'boardings only "{each}" is null', WORDS).expression for each in ("Team", "Mode"))
    assert [each.conditions[0].members for each in (team, mode)] == [((None, None),), ((None,),)]  # type: ignore[union-attr]
    assert read('boardings only "Team" is not null') == '"Boardings" only "Team" is not null'


def test_a_formula_is_said_aloud() -> None:
    said = aloud(
        read_formula('round(revenue / (boardings only "Mode" = "tram"), 2)', WORDS).expression,
        WORDS.model,
        WORDS.members,
    )
    assert said == "(Revenue per Boardings, of tram only), rounded to 2 digits"
    assert aloud(read_formula('boardings average over "Month"', WORDS).expression, WORDS.model, WORDS.members) == (
        "the average over each month of Boardings"
    )


def test_what_is_nested_or_long_beyond_reason_is_refused_and_not_a_crash() -> None:
    assert "inside one another" in str(fault("(" * 200 + "taps" + ")" * 200)) or "inside one another" in str(
        fault(" + ".join(["taps"] * 300))
    )
    assert "inside one another" in str(fault(" + ".join(["taps"] * 300)))
    assert "characters" in str(fault("taps " * 1000))


def test_no_text_is_a_crash() -> None:
    draw = random.Random(11)
    parts = ['"Boardings"', "taps", "only", "over", "all", '"Mode"', '"tram"', "=", "(", ")", "+", "-", "/", "1", "in the",
             "year before", "average over", "case", "when", "then", "else", "end", "'", '"', "--", "/*", "*/", "é", "\n",
             "round(", ",", "and", "not", "is null", "everywhere", "running total down the rows", "between", "›", ";"]  # fmt: skip
    read_well = 0
    for _ in range(3000):
        text = " ".join(draw.choice(parts) for _ in range(draw.randint(1, 9)))
        try:
            read_formula(text, WORDS)
            read_well += 1
        except FormulaError as error:
            start, end = error.details["span"]
            assert 0 <= start <= end <= max(len(text), 1) + 1
        complete(text, draw.randint(0, len(text)), WORDS)
    assert read_well > 10
    assert grammar() is grammar()


def offered(text: str) -> list[str]:
    return [each.text for each in complete(text, len(text), WORDS).found]


def test_what_could_stand_at_the_cursor() -> None:
    assert offered('"Tram b') == ['"Tram boardings"']
    assert {'"Boardings"', "case when ", "round("} <= set(offered(""))
    assert '"Boardings"' in offered("taps / ")
    assert "only " not in offered("taps / ")
    assert {"only ", "over the whole ", "average over "} <= set(offered("taps "))
    assert set(offered('taps average over "M')) == {'"Mode"', '"Month"'}
    assert offered('taps only "Mode" = ') == ['"bus"', '"tram"', '"without a line"']
    assert offered('taps only "Mode" in ("tram", "b') == ['"bus"']
    assert offered('taps only "Mode" = "tram" ')[0] == "everywhere "
    assert '"Fare"' in offered("taps over all ")
    assert complete("taps / boa", 10, WORDS).start == 7
