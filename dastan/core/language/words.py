"""The words of the language, each with what it does: for completion, and for the document that explains them."""

from __future__ import annotations

from typing import NamedTuple


class Word(NamedTuple):
    """A word, or several that stand together: what it is for, and how it goes on."""

    terminal: str
    """The kind of token with which it begins."""
    text: str
    note: str


CLAUSES = (
    Word("_ONLY", "only", "a slice, by members"),
    Word("_OVER", "over the whole", "the grand total"),
    Word("_OVER", "over the row", "the row's total"),
    Word("_OVER", "over the column", "the column's total"),
    Word("_OVER", "over what it stands in", "the total above its row"),
    Word("_OVER", "over what its column stands in", "the total above its column"),
    Word("_OVER", "over all", "all members of a dimension"),
    Word("_OVER", "over the", "the member of a level that it lies under"),
    Word("_IN", "in the year before", "the same place, a year earlier"),
    Word("_IN", "in the same part of the year before", "as far as the data goes"),
    Word("_IN", "in the period before", "the period before its own"),
    Word("SO_MANY", "2 years before", "the same place, so many years earlier"),
    Word("SO_MANY", "2 periods before", "so many periods before its own"),
    Word("_TO", "to date in", "from the beginning of a period on"),
    Word("AVERAGE", "average over", "the mean of a level's members"),
    Word("SUM", "sum over", "a level's members added up"),
    Word("COUNT", "count over", "how many of a level's members have a value"),
    Word("LEAST", "least over", "the least of a level's members"),
    Word("GREATEST", "greatest over", "the greatest of a level's members"),
    Word("_RUNNING", "running total down the rows", "the total so far"),
    Word("_RUNNING", "running total across the columns", "the total so far"),
    Word("MOVING", "moving average of 3 down the rows", "the mean of the last few"),
    Word("MOVING", "moving average of 3 across the columns", "the mean of the last few"),
    Word("MOVING", "moving sum of 3 down the rows", "the sum of the last few"),
    Word("INDEX", "index down the rows", "the first is 100"),
    Word("INDEX", "index across the columns", "the first is 100"),
    Word("RANK", "rank among the rows", "the largest is 1"),
    Word("RANK", "rank among the columns", "the largest is 1"),
    Word("_IN", "in the one before down the rows", "that of the row before"),
    Word("_IN", "in the one before across the columns", "that of the column before"),
    Word("CUMULATIVE", "cumulative share among the rows", "of this and all that have more"),
    Word("IN_EACH_GROUP", "in each group", "anew under each member above"),
    Word("EVERYWHERE", "everywhere", "whatever the table shows"),
    Word("_ALONG", "along", "by which calendar"),
)
SCALARS = (
    Word("_CASE", "case when", "a choice: case when … then … else … end"),
    Word("_WHEN", "when", "one more branch"),
    Word("_THEN", "then", "its value"),
    Word("_ELSE", "else", "the value otherwise"),
    Word("_END", "end", "ends the choice"),
    Word("_AT", "at", 'whether it stands at a level: at "Line"'),
    Word("_WITHIN", "within", "whether it stands at a level or below"),
    Word("_AND", "and", "both hold"),
    Word("_OR", "or", "any holds"),
    Word("_NOT", "not", "the opposite"),
    Word("_BETWEEN", "between", "from … and …, both included"),
    Word("_IS", "is null", "is empty"),
    Word("_IS", "is not null", "is not empty"),
    Word("_IN", "in (", "one of several members"),
    Word("_IN", "in", "one of a list"),
    Word("_LIKE", "like", "a text: 'Harbour%'"),
    Word("_OF", "of", "of which hierarchy"),
)
FUNCTIONS = {
    "abs": "its size", "round": "to so many digits: round(…, 2)", "floor": "the whole number below",
    "ceiling": "the whole number above", "sqrt": "the square root", "power": "power(…, 2)", "ln": "the logarithm",
    "exp": "e to the power of", "mod": "what a division leaves", "coalesce": "the first that is not empty",
    "nullif": "empty where both are equal", "least": "the least of several", "greatest": "the greatest of several",
}  # fmt: skip
"""What each function does."""
EXPECTED = {
    "QUOTED": "a name in double quotes", "WORD": "a name in double quotes", "NUMBER": "a number", "LPAR": "(",
    "RPAR": ")", "COMMA": ",", "COMPARATOR": "= <> < <= > >=", "PLUS": "+ - * /", "MINUS": "+ - * /",
    "STAR": "+ - * /", "SLASH": "+ - * /", "_ONLY": "only", "_OVER": "over", "_IN": "in the year before",
    "_CASE": "case", "_WHEN": "when", "_THEN": "then", "_ELSE": "else", "_END": "end", "_OF": "of", "_BEFORE": "before",
    "PERIOD": "period", "YEAR": "year", "SO_MANY": "2 years before", "DOWN": "down the rows",
    "ACROSS": "across the columns",
    "AMONG_ROWS": "among the rows", "AMONG_COLUMNS": "among the columns", "TEXT": "a text in single quotes",
    "_AND": "and", "_OR": "or", "_BETWEEN": "between", "_LIKE": "like", "_TOTAL": "total",
}  # fmt: skip
"""What each kind of word is called where it is expected."""
