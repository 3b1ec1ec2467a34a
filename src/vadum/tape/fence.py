"""The one fence around a run: whatever goes wrong inside it is that run's trouble, told with the entry it began at."""

import logging
from collections import OrderedDict
from collections.abc import Callable, Iterable
from threading import Lock
from typing import Literal, TypeVar

from vadum.soil.contract.errors import VadumError
from vadum.tape.entries import Taped
from vadum.tape.tables import Run

LOG = logging.getLogger(__name__)
Doing = Literal["read", "judged", "advised on", "drawn", "shown", "printed", "told on the soil card"]
A = TypeVar("A")
T = TypeVar("T")
_MOST_TOLD = 1000
_told: OrderedDict[tuple[str, str], None] = OrderedDict()
_lock = Lock()


class BrokenRun(VadumError):
    """A run that cannot be read, judged, advised on, drawn or printed. Its tape stands, and can be struck from."""

    def __init__(self, code: str, doing: Doing, cause: str, entries: tuple[Taped, ...], seq: int) -> None:
        self.code, self.doing, self.cause, self.entries, self.seq = code, doing, cause, entries, seq
        blamed = self.blamed
        where = f" since entry {seq}" + (f" by {blamed.by}" if blamed else "")
        super().__init__(
            f"{code} cannot be {doing}{where}. Its readings are safe: open it, strike the entry that is wrong, "
            "and enter it again; if none is, tell whoever looks after the program."
        )

    @property
    def blamed(self) -> Taped | None:
        """The entry from which on it does not work."""
        return next((entry for entry in self.entries if entry.seq == self.seq), None)


def fenced(run: Run, entries: tuple[Taped, ...], doing: Doing, work: Callable[[tuple[Taped, ...]], T]) -> T:
    """What `work` makes of the entries; raises BrokenRun, whatever it raised. The traceback is logged once."""
    try:
        return work(entries)
    except BrokenRun:
        raise
    except Exception as error:
        seq = _began_at(entries, work)
        known = next((e.hash for e in entries if e.seq == seq), run.code)
        if _first_time(known, doing):
            LOG.exception("%s cannot be %s since entry %s", run.code, doing, seq)
        raise BrokenRun(run.code, doing, f"{type(error).__name__}: {str(error)[:300]}", entries, seq) from error


def _first_time(entry: str, doing: str) -> bool:
    """Whether it is new that this cannot be done since the entry of that hash."""
    with _lock:
        known = (entry, doing) in _told
        _told[(entry, doing)] = None
        while len(_told) > _MOST_TOLD:
            _told.popitem(last=False)
    return not known


def _began_at(entries: tuple[Taped, ...], work: Callable[[tuple[Taped, ...]], object]) -> int:
    """The entry with which the tape ceased to work, by halving; a tape with no beginning never worked."""
    works, fails = 0, len(entries)
    while fails - works > 1:
        middle = (works + fails) // 2
        try:
            work(entries[:middle])
            works = middle
        except Exception:
            fails = middle
    return entries[fails - 1].seq if entries else 0


def apart(found: Iterable[A], work: Callable[[A], T]) -> tuple[list[T], list[BrokenRun]]:
    """What `work` makes of each, and apart from it the runs that are broken: no list of runs stops at one."""
    sound: list[T] = []
    broken: list[BrokenRun] = []
    for one in found:
        try:
            sound.append(work(one))
        except BrokenRun as error:
            broken.append(error)
    return sound, broken
