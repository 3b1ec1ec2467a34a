"""Pass-phrases are looked at beside the work, not in it: one at a time, behind everything else, with a short queue."""

import asyncio
import os
import threading
from concurrent.futures import ThreadPoolExecutor

from vadum.tape import people

MOST_WAITING = 16
NICE = 8  # argon2 takes a core for a tenth of a second: a reading that comes meanwhile goes first


def _behind_the_work() -> None:
    """This thread yields to the others, where the system lets a single thread do so."""
    if hasattr(os, "setpriority"):
        os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), NICE)


class HashingPool:
    """Verifies and makes pass-phrase hashes on a thread of its own."""

    def __init__(self) -> None:
        self._pool = ThreadPoolExecutor(1, thread_name_prefix="pass-phrase", initializer=_behind_the_work)
        self._waiting = 0
        self._lock = threading.Lock()

    def _enter(self) -> None:
        with self._lock:
            if self._waiting >= MOST_WAITING:
                raise people.Busy
            self._waiting += 1

    def _leave(self) -> None:
        with self._lock:
            self._waiting -= 1

    async def verified(self, passphrase: str, stored: str) -> bool:
        """Whether it is the pass-phrase; raises Busy when too many wait."""
        self._enter()
        try:
            return await asyncio.get_running_loop().run_in_executor(self._pool, people.verified, passphrase, stored)
        finally:
            self._leave()

    def hashed(self, passphrase: str) -> str:
        """The pass-phrase as it is stored; called from a worker thread. Raises Busy when too many wait."""
        self._enter()
        try:
            return self._pool.submit(people.hashed, passphrase).result()
        finally:
            self._leave()

    def close(self) -> None:
        """Let the thread end."""
        self._pool.shutdown(wait=False, cancel_futures=True)
