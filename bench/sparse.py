"""A sparse crosstab: 12,000 stops by 1,826 days by 60 products, 1.3 billion possible cells.

Prints what it takes for growing numbers of records: groups that exist, seconds, bytes at the peak for each
record and for each group, and what `Budget` would have thought. Run by `make bench-sparse`; it asserts nothing.
"""

from __future__ import annotations

import argparse
import resource
import time
import tracemalloc

from dastan.core.engine.answer import answer
from dastan.core.engine.waist import Rights
from dastan.sources.columnar import load_kernels
from tests.core.engine.test_edges import SPARSE, sparse
from tests.core.star import TODAY


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("records", nargs="*", type=int, default=[100_000, 1_000_000, 4_000_000])
    load_kernels()
    print("records, cells, seconds, steps a second, peak bytes a record, peak bytes a cell")
    for records in parser.parse_args().records:
        source, _ = sparse(records)
        source.warm()
        started = time.perf_counter()
        result = answer(SPARSE, source.model, source, Rights("bench"), TODAY)
        seconds = time.perf_counter() - started
        cells = len(result.cell_rows)
        tracemalloc.start()
        answer(SPARSE, source.model, source, Rights("bench"), TODAY)
        peak = tracemalloc.get_traced_memory()[1]
        tracemalloc.stop()
        print(
            f"{records:>10,} {cells:>11,} {seconds:>7.2f} s {records * 6 / seconds:>14,.0f} "
            f"{peak / records:>8,.0f} B {peak / cells:>8,.0f} B"
        )
        del source, result
    print(f"largest resident size: {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 2**20:,.2f} GiB")


if __name__ == "__main__":
    main()
