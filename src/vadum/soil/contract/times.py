"""Moments as a technician says them."""

import math
from datetime import UTC, datetime, timedelta


def local(at: datetime, now: datetime) -> datetime:
    """A moment as the clocks of now's zone show it on its own day, also where it was worked out from now.

    Raises OverflowError at the ends of the calendar.
    """
    return at.astimezone(UTC).astimezone(now.tzinfo)


def clock(at: datetime, now: datetime) -> str:
    """The moment in now's zone: the bare time today, with the day when it is another.

    >>> from datetime import UTC
    >>> now = datetime(2026, 5, 12, 10, 21, tzinfo=UTC)
    >>> clock(now.replace(hour=14), now), clock(now + timedelta(days=1), now), clock(now + timedelta(days=3), now)
    ('14:21', 'tomorrow 10:21', 'Fri 10:21')
    """
    try:
        here = local(at, now)
    except (OverflowError, ValueError):  # the ends of the calendar, moved over them by a zone
        return at.isoformat()
    days = (here.date() - now.date()).days
    time = f"{here:%H:%M}"
    if days in (0, 1, -1):
        return {0: "", 1: "tomorrow ", -1: "yesterday "}[days] + time
    if abs(days) < 7:
        return f"{here:%a} {time}"
    # Far off, a day without its year would be taken for this year's.
    return f"{here:%d %b} {time}" if abs(days) < 300 else f"{here:%d %b %Y}"


def span(minutes: float) -> str:
    """A length of time in the unit that suits it.

    >>> span(0.5), span(35), span(90), span(4320)
    ('30 s', '35 min', '1 h 30 min', '3 days')
    """
    if not math.isfinite(minutes):
        return "no time that can be said"
    if minutes < 1:
        return f"{round(minutes * 60)} s"
    if minutes < 60:
        return f"{round(minutes)} min"
    if minutes < 48 * 60:
        hours, rest = divmod(round(minutes), 60)
        return f"{hours} h" + (f" {rest} min" if rest else "")
    return f"{round(minutes / 1440)} days"


def minutes_between(start: datetime, end: datetime) -> float:
    """Minutes from start to end, negative when end is earlier."""
    return (end - start) / timedelta(minutes=1)


def exact(at: datetime, now: datetime) -> str:
    """The moment to the second within half a day of now, else as `clock` says it."""
    return f"{local(at, now):%H:%M:%S}" if abs(minutes_between(now, at)) < 12 * 60 else clock(at, now)
