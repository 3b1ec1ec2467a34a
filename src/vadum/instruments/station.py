"""A station listens to one instrument for all who want to hear it, as long as one of them does."""

import threading
from collections import deque
from collections.abc import Callable

from vadum.instruments.profile import Profile, profile
from vadum.instruments.transport import Heard, Link, State

KEPT = 600  # a minute at ten samples a second, for the pace and for a late desk


class Station:
    """One instrument: its link, its newest samples, and the ears that hear each sample as it comes."""

    def __init__(self, code: str, address: str, its: Profile) -> None:
        self.code, self.address, self.profile = code, address, its
        self.newest: deque[Heard] = deque(maxlen=KEPT)
        self.why = ""
        self.holders: set[str] = set()  # who wants the line open, see Stations
        self._ears: list[tuple[Callable[[Heard], None], Callable[[State, str], None]]] = []
        self._lock = threading.Lock()
        self.link = Link(address, its, self._sample, self._state)

    @property
    def state(self) -> State:
        """Whether it is heard."""
        return self.link.state

    def hear(self, on_sample: Callable[[Heard], None], on_state: Callable[[State, str], None]) -> None:
        """Add a pair of ears."""
        with self._lock:
            self._ears.append((on_sample, on_state))

    def leave(self, on_sample: Callable[[Heard], None]) -> None:
        """Take ears away."""
        with self._lock:
            self._ears = [e for e in self._ears if e[0] != on_sample]

    def _sample(self, heard: Heard) -> None:
        self.newest.append(heard)
        with self._lock:
            ears = list(self._ears)
        for on_sample, _ in ears:
            on_sample(heard)

    def _state(self, state: State, why: str) -> None:
        self.why = why
        with self._lock:
            ears = list(self._ears)
        for _, on_state in ears:
            on_state(state, why)


class Stations:
    """The stations that are listened to now, by the instrument's code."""

    def __init__(self) -> None:
        self._stations: dict[str, Station] = {}
        self._lock = threading.Lock()

    def open(self, code: str, address: str, profile_name: str, holder: str) -> Station:
        """The station of that instrument, listening until each `holder` has released it; begun again when its address
        or its profile has changed."""
        its = profile(profile_name)
        with self._lock:
            station = self._stations.get(code)
            if station and (station.address, station.profile) == (address, its):
                station.holders.add(holder)
                return station
            if station:
                station.link.stop()
            station = self._stations[code] = Station(code, address, its)
            station.holders.add(holder)
        station.link.start()
        return station

    def release(self, station: Station, holder: str) -> bool:
        """One holder needs it no more; whether it was the last, and the line is closed."""
        with self._lock:
            station.holders.discard(holder)
            if station.holders or self._stations.get(station.code) is not station:
                return False
            del self._stations[station.code]
        station.link.stop()
        return True

    def get(self, code: str) -> Station | None:
        """The station of that instrument, if it is listened to."""
        return self._stations.get(code)

    def close(self) -> None:
        """Stop listening to all."""
        with self._lock:
            gone = list(self._stations.values())
            self._stations.clear()
        for station in gone:
            station.link.stop()
