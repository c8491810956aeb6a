"""Times that come again: each day, on some weekdays, or on a day of the month, by the server's own clock."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Annotated, Literal

from dateutil.rrule import DAILY, MONTHLY, WEEKLY, rrule
from pydantic import BaseModel, Field, model_validator

_RHYTHMS: dict[str, Literal[1, 2, 3]] = {"day": DAILY, "week": WEEKLY, "month": MONTHLY}


class Times(BaseModel):
    """When something is made. `weekdays` count from Monday, 0; `day` is of the month, −1 for its last."""

    every: Literal["day", "week", "month"]
    weekdays: Annotated[tuple[Annotated[int, Field(ge=0, le=6)], ...], Field(max_length=7)] = ()
    day: Annotated[int, Field(ge=-1, le=31)] = 1
    at: Annotated[str, Field(pattern=r"^([01]\d|2[0-3]):[0-5]\d$")]

    @model_validator(mode="after")
    def _says_which(self) -> Times:
        if self.every == "week" and not self.weekdays:
            raise ValueError("Choose at least one weekday.")
        if self.every == "month" and self.day == 0:
            raise ValueError("Choose a day of the month.")
        return self

    def after(self, moment: datetime) -> datetime:
        """The next time after a moment that knows its zone, in UTC. A month that is too short is passed over."""
        own = moment.astimezone().replace(tzinfo=None)
        hour, minute = map(int, self.at.split(":"))
        rule = rrule(
            _RHYTHMS[self.every], dtstart=own.replace(hour=0, minute=0, second=0, microsecond=0), byhour=hour,
            byminute=minute, bysecond=0, byweekday=self.weekdays if self.every == "week" else None,
            bymonthday=self.day if self.every == "month" else None,
        )  # fmt: skip
        while (found := rule.after(own)) is not None:
            # A naive time is the server's own. One that its clock leaps over comes before what it leapt from.
            if (next_time := found.astimezone(UTC)) > moment:
                return next_time
            own = found
        raise AssertionError("every rule goes on for ever")
