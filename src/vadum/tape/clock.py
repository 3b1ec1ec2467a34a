"""The one clock, injected: the laboratory's, a frozen one for pictures, a stepped one for tests; and its zone.

A moment of ours carries the fixed offset of its own day, so that lengths of time are true across a change of clocks
(Python takes moments of one zone apart by their faces, not by the time between them); whoever brings another moment
into the zone of `now` gets that moment's own offset, not today's.
"""

import os
from datetime import UTC, datetime, timedelta, tzinfo
from functools import cache
from pathlib import Path
from zoneinfo import ZoneInfo, available_timezones

from vadum.soil.contract.errors import FieldError


class OffsetInZone(tzinfo):
    """An offset from UTC that knows the named zone it belongs to."""

    def __init__(self, zone: ZoneInfo, offset: timedelta, short: str) -> None:
        self.zone, self._offset, self._short = zone, offset, short

    def utcoffset(self, at: datetime | None) -> timedelta:
        """Always the same: the offset of the moment it was made for."""
        return self._offset

    def dst(self, at: datetime | None) -> None:
        """Not told: the offset holds it."""
        return

    def tzname(self, at: datetime | None) -> str:
        """As people call it, such as CEST."""
        return self._short

    def fromutc(self, at: datetime) -> datetime:
        """Another moment of the zone, with the offset of its own day."""
        return in_zone(at.replace(tzinfo=UTC), self.zone)

    def __repr__(self) -> str:
        return f"{self.zone.key} {self._short}"


@cache
def _offset(zone: ZoneInfo, offset: timedelta, short: str) -> OffsetInZone:
    return OffsetInZone(zone, offset, short)


def in_zone(at: datetime, zone: ZoneInfo) -> datetime:
    """A moment as the clocks of a zone showed it.

    >>> summer = in_zone(datetime(2026, 10, 25, 0, 30, tzinfo=UTC), ZoneInfo("Europe/Berlin"))
    >>> later = (summer + timedelta(hours=1)).astimezone(UTC)
    >>> summer.isoformat(), later.astimezone(summer.tzinfo).isoformat()
    ('2026-10-25T02:30:00+02:00', '2026-10-25T02:30:00+01:00')
    """
    local = at.astimezone(zone)
    return local.replace(tzinfo=_offset(zone, local.utcoffset() or timedelta(), local.tzname() or ""), fold=0)


def zone_names() -> list[str]:
    """Every zone that may be chosen, by region."""
    return sorted(z for z in available_timezones() if "/" in z and not z.startswith(("Etc/", "posix/", "right/")))


def zone_named(name: str) -> ZoneInfo:
    """The zone of that name; raises FieldError."""
    if name != "UTC" and name not in available_timezones():
        raise FieldError("zone", f"{name[:40]!r} is no time zone such as Europe/Lisbon")
    return ZoneInfo(name)


def machine_zone() -> ZoneInfo:
    """The named zone that the machine is set to, for as long as the laboratory has not said its own; else UTC."""
    told = os.environ.get("TZ", "").lstrip(":")
    parts = Path("/etc/localtime").resolve().parts
    by_link = "/".join(parts[parts.index("zoneinfo") + 1 :]) if "zoneinfo" in parts else ""
    for name in (told, by_link):
        if name in available_timezones():
            return ZoneInfo(name)
    return ZoneInfo("UTC")


def read_by_the_clock(face: datetime, now: datetime) -> datetime:
    """A time as it was read off a clock on the wall, without an offset, in the laboratory's zone.

    `now` brings the zone. Raises ValueError with a sentence for the person where the clocks showed that time twice,
    or never.

    >>> now = in_zone(datetime(2026, 10, 25, 9, 0, tzinfo=UTC), ZoneInfo("Europe/Berlin"))
    >>> read_by_the_clock(datetime(2026, 10, 25, 1, 30), now).isoformat()
    '2026-10-25T01:30:00+02:00'
    >>> read_by_the_clock(datetime(2026, 10, 25, 2, 30), now)
    Traceback (most recent call last):
    ...
    ValueError: came twice that night: write 02:30+02:00 for the first, 02:30+01:00 for the second
    """
    place = now.tzinfo
    if not isinstance(place, OffsetInZone):
        return face.replace(tzinfo=place)
    found = [face.replace(tzinfo=place.zone, fold=fold) for fold in (0, 1)]
    instants = {at.astimezone(UTC) for at in found}
    true = sorted(at for at in instants if in_zone(at, place.zone).replace(tzinfo=None) == face)
    if not true:
        raise ValueError(f"never came: the clocks went from {_skip(found)} that night")
    if len(true) > 1:
        first, second = (f"{in_zone(at, place.zone):%H:%M%z}" for at in true)
        raise ValueError(f"came twice that night: write {_colon(first)} for the first, {_colon(second)} for the second")
    return in_zone(true[0], place.zone)


def _colon(text: str) -> str:
    return f"{text[:-2]}:{text[-2:]}"


def _skip(found: list[datetime]) -> str:
    """From when to when the clocks jumped around a time that never came."""
    before, after = found[0].utcoffset() or timedelta(), found[1].utcoffset() or timedelta()
    gap = abs(after - before)
    hours = f"{gap.total_seconds() / 3600:g} h"
    return f"winter to summer time and left out {hours}"


class Clock:
    """The machine's clock in the laboratory's zone."""

    frozen = False

    def __init__(self, zone: tzinfo | None = None) -> None:
        self.zone = zone or in_zone(datetime.now(UTC), machine_zone()).tzinfo

    def now(self) -> datetime:
        """Now, in the laboratory's zone."""
        return datetime.now(UTC).astimezone(self.zone)


class FrozenClock(Clock):
    """Stands still until it is stepped."""

    frozen = True

    def __init__(self, at: datetime) -> None:
        super().__init__(at.tzinfo)
        self._at = at

    def now(self) -> datetime:
        """The moment it stands at."""
        return self._at

    def step(self, **length: float) -> None:
        """Move on by a timedelta's arguments."""
        self._at = (self._at + timedelta(**length)).astimezone(UTC).astimezone(self.zone)
