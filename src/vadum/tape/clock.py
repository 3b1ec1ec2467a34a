"""The one clock, injected: the machine's, a frozen one for pictures, a stepped one for tests."""

from datetime import UTC, datetime, timedelta, tzinfo


class Clock:
    """The machine's clock in the laboratory's zone."""

    frozen = False

    def __init__(self, zone: tzinfo | None = None) -> None:
        self.zone = zone

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
        self._at += timedelta(**length)
