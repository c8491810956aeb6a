"""How long the event loop was held at the most: nobody is answered meanwhile, however little they ask."""

from __future__ import annotations

import asyncio
from collections import deque

_EVERY_S = 0.02
_MINUTE_OF_BEATS = int(60 / _EVERY_S)


class Pulse:
    """Beats on the event loop, and notes how late each beat came. The loop alone changes it."""

    def __init__(self) -> None:
        self._late: deque[float] = deque(maxlen=_MINUTE_OF_BEATS)

    async def beat(self) -> None:
        """Goes on until it is cancelled."""
        loop = asyncio.get_running_loop()
        while True:
            due = loop.time() + _EVERY_S
            await asyncio.sleep(_EVERY_S)
            self._late.append(max(loop.time() - due, 0.0))

    @property
    def held_ms(self) -> float:
        """The longest that the loop was held within the last minute or more."""
        return 1000 * max(self._late.copy(), default=0.0)
