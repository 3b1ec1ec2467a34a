"""Who holds a database file: a lock on a file beside it, which the system lets go when its process dies."""

import fcntl
import os
from pathlib import Path

from vadum.soil.contract.errors import VadumError


class Held(VadumError):
    """Another process holds the database."""


class Hold:
    """A hold on a database file, until it is closed or its process ends."""

    def __init__(self, handle: int) -> None:
        self._handle: int | None = handle

    def close(self) -> None:
        """Let go."""
        if self._handle is not None:
            os.close(self._handle)
            self._handle = None

    def share(self) -> None:
        """From alone to shared: others may hold it too, none may hold it alone."""
        if self._handle is not None:
            fcntl.flock(self._handle, fcntl.LOCK_SH)


def hold(file: Path, *, alone: bool) -> Hold:
    """Hold a database: shared with other holders, or alone. Raises Held when that cannot be."""
    handle = os.open(file.with_name(file.name + ".lock"), os.O_RDWR | os.O_CREAT, 0o600)
    try:
        fcntl.flock(handle, (fcntl.LOCK_EX if alone else fcntl.LOCK_SH) | fcntl.LOCK_NB)
    except OSError:
        os.close(handle)
        raise Held("another process holds this database") from None
    return Hold(handle)
