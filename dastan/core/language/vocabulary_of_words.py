"""What the language calls the kinds of words that can stand somewhere."""

EXPECTED = {
    "QUOTED": "a name in double quotes", "WORD": "a name in double quotes", "NUMBER": "a number", "LPAR": "(",
    "RPAR": ")", "COMMA": ",", "COMPARATOR": "= <> < <= > >=", "PLUS": "+ - * /", "MINUS": "+ - * /",
    "STAR": "+ - * /", "SLASH": "+ - * /", "_ONLY": "only", "_OVER": "over", "_IN": "in the year before",
    "_CASE": "case", "_WHEN": "when", "_THEN": "then", "_ELSE": "else", "_END": "end", "_OF": "of", "_BEFORE": "before",
    "PERIOD": "period", "YEAR": "year", "DOWN": "down the rows", "ACROSS": "across the columns",
    "AMONG_ROWS": "among the rows", "AMONG_COLUMNS": "among the columns", "TEXT": "a text in single quotes",
    "_AND": "and", "_OR": "or", "_BETWEEN": "between", "_LIKE": "like", "_TOTAL": "total",
}  # fmt: skip
