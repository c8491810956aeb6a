"""The compiled kernels are loaded once, when they are first used, whoever begins."""

from __future__ import annotations

import subprocess
import sys

AT_ONCE = """
from concurrent.futures import ThreadPoolExecutor
from threading import Barrier
from dastan.sources.columnar import block_kernels
from dastan.core.engine import kernels
begin = Barrier(8)
def use(number):
    begin.wait()
    return kernels.pick_ranked if number % 2 else block_kernels.unpack_groups
with ThreadPoolExecutor(8) as pool:
    assert len(set(map(id, pool.map(use, range(8))))) == 2
"""


def test_many_threads_may_be_the_first_to_use_them() -> None:
    subprocess.run([sys.executable, "-c", AT_ONCE], check=True)
