"""How far a long piece of work is, as a line on standard error: percent and the time that is left."""

from __future__ import annotations

import time
from collections.abc import Iterator
from contextlib import contextmanager
from threading import Event, Thread

from tqdm import tqdm

from dastan.core.engine.watch import Watch

FORM = "{desc}: {percentage:3.0f} %|{bar:24}| {elapsed} gone, {remaining} left{postfix}"
_LOOK_S = 0.2
SHORT_S = 1.0
"""What is over sooner needs no line."""


@contextmanager
def followed(watch: Watch, words: str) -> Iterator[None]:
    """Draws a bar for what a watch hears while the block runs, and leaves one line of it. Nothing is drawn where nobody
    looks on, as in a log."""
    is_over = Event()
    started = time.time()

    def draw() -> None:
        if is_over.wait(SHORT_S):
            return
        with tqdm(total=1, desc=words, bar_format=FORM, disable=None) as bar:
            if bar.disable:
                return
            bar.start_t = started
            while not is_over.wait(_LOOK_S):
                found = watch.progress
                bar.total, bar.n = max(found.total, 1), found.done
                bar.set_postfix_str(found.doing)
            bar.total, bar.n = max(watch.progress.total, 1), watch.progress.done
            bar.set_postfix_str("")

    drawing = Thread(target=draw, daemon=True)
    drawing.start()
    try:
        yield
    finally:
        is_over.set()
        drawing.join()
