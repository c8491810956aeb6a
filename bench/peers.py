"""The engines in common use, doing the same work: level columns joined on beforehand, as enums or categoricals."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from bench.star import AREAS, CATEGORIES, REGIONS

Cells = dict[tuple[object, ...], tuple[float | int | None, ...]]
"""What a question came to: keys (None at a level that is totalled), and the numbers there."""

_LEVELS = ("region", "line", "category", "product")
PATH = ((), (2024,), (2024, 2), (2024, 2, 5))
"""The drill path: which member is open at each step."""
_TIME = ("year", "quarter", "month", "date")


class Duck:
    """DuckDB, its table in memory, in order of date."""

    name = "DuckDB"

    def __init__(self, folder: Path) -> None:
        import duckdb

        self.connection = duckdb.connect(config={"threads": 2})
        run = self.connection.execute
        for name, count in (
            ("region", REGIONS),
            ("category", CATEGORIES),
            ("area", AREAS),
            ("line", 60),
            ("product", 40),
            ("stop", 12_000),
        ):
            listed = ", ".join(f"'{each}'" for each in range(count))
            run(f"CREATE TYPE {name}_name AS ENUM ({listed})")
        run(f"""
            CREATE TABLE journeys AS
            SELECT date, year(date)::SMALLINT AS year, quarter(date)::TINYINT AS quarter, month(date)::TINYINT AS month,
                   line::VARCHAR::line_name AS line, (line % {REGIONS})::VARCHAR::region_name AS region,
                   product::VARCHAR::product_name AS product,
                   (product % {CATEGORIES})::VARCHAR::category_name AS category,
                   stop::VARCHAR::stop_name AS stop, (stop % {AREAS})::VARCHAR::area_name AS area,
                   card, boardings, fare, delay
            FROM read_parquet('{folder}/journeys/*.parquet', filename = false)
        """)  # fmt: skip

    def ask(self, question: str) -> Any:
        return getattr(self, question)()

    def _rows(self, sql: str) -> list[tuple[Any, ...]]:
        found: list[tuple[Any, ...]] = self.connection.execute(sql).fetchall()
        return found

    def crosstab(self) -> Any:
        return self._rows("SELECT line, product, sum(boardings) FROM journeys GROUP BY ALL")

    def subtotals(self) -> Any:
        return self._rows("""
            WITH fine AS MATERIALIZED (
                SELECT region, line, category, product, sum(boardings) AS b, sum(fare) AS f, sum(delay) AS d,
                       count(delay) AS n
                FROM journeys GROUP BY ALL)
            SELECT region, line, category, product, sum(b), sum(f), sum(d) / sum(n) FROM fine
            GROUP BY GROUPING SETS (
                (region, line, category, product), (region, line, category), (region, line),
                (region, category, product), (region, category), (region), (category, product), (category), ())
        """)

    def filtered(self) -> Any:
        return self._rows(
            "SELECT line, area, sum(boardings) FROM journeys WHERE category IN ('1', '5') AND year = 2024 GROUP BY ALL"
        )

    def distinct(self) -> Any:
        return self._rows("""
            SELECT line, category, count(DISTINCT card) FROM journeys
            GROUP BY GROUPING SETS ((line, category), (line), (category), ())
        """)

    def records(self) -> Any:
        where = "line = '3' AND product = '5' AND year = 2023"
        count = self._rows(f"SELECT count(*) FROM journeys WHERE {where}")[0][0]
        return count, self._rows(f"SELECT * FROM journeys WHERE {where} LIMIT 1000")

    def best(self) -> Any:
        return self._rows("""
            WITH fine AS (SELECT region, line, sum(boardings) AS b FROM journeys WHERE year = 2024 GROUP BY ALL),
                 ranked AS (
                     SELECT *, row_number() OVER (PARTITION BY region ORDER BY b DESC, line::VARCHAR::INT) AS rank
                     FROM fine)
            SELECT region, CASE WHEN rank <= 5 THEN line::VARCHAR END, sum(b) FROM ranked GROUP BY ALL
        """)

    def median(self) -> Any:
        return self._rows("SELECT line, year, median(delay) FROM journeys GROUP BY ALL")

    def spread(self) -> Any:
        return self._rows("SELECT line, category, min(fare), max(fare), stddev_samp(delay) FROM journeys GROUP BY ALL")

    def either(self) -> Any:
        where = "category IN ('1', '5') OR year = 2024"
        return self._rows(f"SELECT line, product, sum(boardings) FROM journeys WHERE {where} GROUP BY ALL")

    def wide(self) -> Any:
        return self.connection.execute("SELECT stop, line, sum(boardings) FROM journeys GROUP BY ALL").to_arrow_table()

    def drill(self) -> Any:
        found = []
        for path in PATH:
            where = " AND ".join(f"{level} = {each}" for level, each in zip(_TIME, path, strict=False)) or "true"
            level = _TIME[len(path)]
            found.append(self._rows(f"SELECT {level}, region, sum(boardings) FROM journeys WHERE {where} GROUP BY ALL"))
        return found

    def cells(self, question: str, found: Any) -> Cells:
        return read(question, found, is_duck=True)


class Bear:
    """Polars, its frame in memory, in order of date."""

    name = "Polars"

    def __init__(self, folder: Path) -> None:
        import polars

        self.pl = pl = polars

        def enum(column: str, modulo: int | None, count: int, name: str) -> Any:
            number = pl.col(column) if modulo is None else pl.col(column) % modulo
            return number.cast(pl.String).cast(pl.Enum([str(each) for each in range(count)])).alias(name)

        self.frame = pl.scan_parquet(f"{folder}/journeys/*.parquet").with_columns(
            pl.col("date").dt.year().cast(pl.Int16).alias("year"), pl.col("date").dt.quarter().alias("quarter"),
            pl.col("date").dt.month().alias("month"),
            enum("line", REGIONS, REGIONS, "region"), enum("product", CATEGORIES, CATEGORIES, "category"),
            enum("stop", AREAS, AREAS, "area"), enum("line", None, 60, "line"), enum("product", None, 40, "product"),
            enum("stop", None, 12_000, "stop"),
        ).collect()  # fmt: skip

    def ask(self, question: str) -> Any:
        return getattr(self, question)()

    def crosstab(self) -> Any:
        return (
            self.frame.lazy()
            .group_by("line", "product")
            .agg(self.pl.col("boardings").cast(self.pl.Int64).sum())
            .collect()
        )

    def subtotals(self) -> Any:
        pl = self.pl
        fine = self.frame.lazy().group_by(*_LEVELS).agg(
            pl.col("boardings").cast(pl.Int64).sum(), pl.col("fare").sum(), pl.col("delay").sum(),
            pl.col("delay").count().alias("n"),
        ).collect()  # fmt: skip
        found = []
        for rows in (("region", "line"), ("region",), ()):
            for columns in (("category", "product"), ("category",), ()):
                keys = [*rows, *columns]
                sums = [pl.col(each).sum() for each in ("boardings", "fare", "delay", "n")]
                part = fine.group_by(keys).agg(sums) if keys else fine.select(sums)
                found.append((keys, part.with_columns(pl.col("delay") / pl.col("n"))))
        return found

    def filtered(self) -> Any:
        pl = self.pl
        kept = self.frame.lazy().filter(pl.col("category").is_in(["1", "5"]) & (pl.col("year") == 2024))
        return kept.group_by("line", "area").agg(pl.col("boardings").cast(pl.Int64).sum()).collect()

    def distinct(self) -> Any:
        frame, card = self.frame.lazy(), self.pl.col("card").n_unique()
        return [
            (keys, (frame.group_by(*keys).agg(card) if keys else frame.select(card)).collect())
            for keys in (("line", "category"), ("line",), ("category",), ())
        ]

    def records(self) -> Any:
        pl = self.pl
        kept = self.frame.lazy().filter((pl.col("line") == "3") & (pl.col("product") == "5") & (pl.col("year") == 2023))
        return kept.select(pl.len()).collect().item(), kept.head(1000).collect().rows()

    def best(self) -> Any:
        pl = self.pl
        fine = self.frame.lazy().filter(pl.col("year") == 2024).group_by("region", "line").agg(
            pl.col("boardings").cast(pl.Int64).sum()).collect()  # fmt: skip
        ranked = fine.sort("region", "boardings", "line", descending=[False, True, False]).with_columns(
            pl.int_range(pl.len()).over("region").alias("rank"))  # fmt: skip
        name = pl.when(pl.col("rank") < 5).then(pl.col("line").cast(pl.String)).alias("name")
        return ranked.group_by("region", name).agg(pl.col("boardings").sum())

    def median(self) -> Any:
        return self.frame.lazy().group_by("line", "year").agg(self.pl.col("delay").median()).collect()

    def spread(self) -> Any:
        pl = self.pl
        numbers = (pl.col("fare").min().alias("least"), pl.col("fare").max(), pl.col("delay").std(ddof=1))
        return self.frame.lazy().group_by("line", "category").agg(*numbers).collect()

    def either(self) -> Any:
        pl = self.pl
        kept = self.frame.lazy().filter(pl.col("category").is_in(["1", "5"]) | (pl.col("year") == 2024))
        return kept.group_by("line", "product").agg(pl.col("boardings").cast(pl.Int64).sum()).collect()

    def wide(self) -> Any:
        return (
            self.frame.lazy().group_by("stop", "line").agg(self.pl.col("boardings").cast(self.pl.Int64).sum()).collect()
        )

    def drill(self) -> Any:
        pl, found = self.pl, []
        for path in PATH:
            kept = self.frame.lazy()
            for level, each in zip(_TIME, path, strict=False):
                kept = kept.filter(pl.col(level) == each)
            found.append(
                kept.group_by(_TIME[len(path)], "region").agg(pl.col("boardings").cast(pl.Int64).sum()).collect()
            )
        return found

    def cells(self, question: str, found: Any) -> Cells:
        return read(question, found, is_duck=False)


def read(question: str, found: Any, *, is_duck: bool) -> Cells:
    """A peer's result as cells."""
    if question == "records":
        count, rows = found
        return {("count",): (count, len(rows))}
    if question == "subtotals" and not is_duck:
        return {
            tuple(_number(dict(zip(keys, row, strict=False)).get(level)) for level in _LEVELS): tuple(
                map(_value, row[len(keys) : len(keys) + 3])
            )
            for keys, part in found
            for row in part.rows()
        }
    if question == "distinct" and not is_duck:
        return {
            tuple(_number(dict(zip(keys, row, strict=False)).get(level)) for level in ("line", "category")): (row[-1],)
            for keys, part in found
            for row in part.rows()
        }
    if question == "drill":
        return {
            (step, str(row[0]), _number(row[1])): (_value(row[2]),)
            for step, part in enumerate(found)
            for row in (part if is_duck else part.rows())
        }
    if question == "wide" and is_duck:
        rows = list(zip(*(each.to_pylist() for each in found.columns), strict=True))
    else:
        rows = found if is_duck else found.rows()
    width = {"subtotals": 3, "spread": 3}.get(question, 1)
    return {tuple(map(_number, row[:-width])): tuple(map(_value, row[-width:])) for row in rows}


def _number(key: object) -> int | None:
    return None if key is None else int(str(key))


def _value(value: object) -> float | int | None:
    return None if value is None else round(float(str(value)), 6)
