"""Trouble with the disk or the database's lock, told apart from faults of the program, in plain words."""

import errno
from typing import NamedTuple

from vadum.soil.contract.errors import VadumError

FULL = "The disk is full or cannot be written: nothing was lost, and nothing more is kept until there is room."
LOCKED = "Another program holds the database, or it does not answer: nothing was lost; it is tried again."
_FULL = ("disk is full", "readonly", "read-only", "disk i/o", "no space", "unable to open", "could not extend")
_LOCKED = ("queuepool", "locked", "lock timeout", "deadlock", "serialize", "connect", "shutting down", "terminating")
# What waited in vain, whoever says so: our own turn, the pool of connections, a lock on the server, a statement that a
# limit of time ended, two that would have waited for each other.
_WAITED = ("TimeoutError", "LockNotAvailable", "QueryCanceled", "DeadlockDetected", "SerializationFailure")


class Busy(VadumError):
    """More slow work has been asked for than can be queued: nothing was begun."""

    retry_s = 5
    words = "The server is busy with other pictures and files: try again in a few seconds."

    def __init__(self) -> None:
        super().__init__(self.words)


class WaitedTooLong(Exception):
    """A hand waited for its turn to write for longer than it is to wait: nothing was written."""


class Trouble(NamedTuple):
    """Whether it passes by itself, and what a person is told."""

    passes: bool
    words: str


def trouble_of(error: BaseException) -> Trouble | None:
    """What kind of trouble it is; None when it is none of the disk or the lock.

    >>> trouble_of(WaitedTooLong()).passes, trouble_of(KeyError("x"))
    (True, None)
    """
    if isinstance(error, WaitedTooLong):
        return Trouble(True, LOCKED)
    if isinstance(error, OSError):
        full = error.errno in (errno.ENOSPC, errno.EDQUOT, errno.EROFS, errno.EACCES, errno.EFBIG)
        return Trouble(False, FULL) if full else None
    text = str(getattr(error, "orig", error)).lower()
    kind = type(getattr(error, "orig", error)).__name__
    if kind in _WAITED:
        return Trouble(True, LOCKED)
    if kind not in (
        "OperationalError",
        "InterfaceError",
        "AdminShutdown",
        "DiskFull",
        "ReadOnlySqlTransaction",
    ) and not (kind.endswith("Error") and any(words in text for words in _FULL)):
        return None
    if any(words in text for words in _FULL):
        return Trouble(False, FULL)
    return Trouble(True, LOCKED) if any(words in text for words in _LOCKED) else None


def trouble_words(error: BaseException) -> str | None:
    """What a person is told of it; None when it is a fault of the program."""
    found = trouble_of(error)
    return found.words if found else None
