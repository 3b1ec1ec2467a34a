"""Slow work is done beside the readings, not among them: one piece at a time, behind everything else, with a short
queue. Pass-phrases, pictures and whole jobs each have such a room."""

import asyncio
import os
import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import ParamSpec, TypeVar

from vadum.tape import people
from vadum.tape.trouble import Busy

NICE = 8  # a picture or a hash takes a core for a tenth of a second and more: a reading that comes meanwhile goes first
Given = ParamSpec("Given")
Made = TypeVar("Made")


def _behind_the_work(nice: int) -> None:
    """This thread yields to the others, where the system lets a single thread do so."""
    if hasattr(os, "setpriority"):
        os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), nice)


class SlowWork:
    """One thread for one kind of slow work. Whoever finds the queue full is told at once, instead of holding one of
    the few threads that readings are answered on."""

    def __init__(self, name: str, most_waiting: int, busy: type[Busy] = Busy, nice: int = NICE) -> None:
        self._pool = ThreadPoolExecutor(1, thread_name_prefix=name, initializer=_behind_the_work, initargs=(nice,))
        self._most, self._busy = most_waiting, busy
        self._waiting = 0
        self._lock = threading.Lock()

    def _enter(self) -> None:
        with self._lock:
            if self._waiting >= self._most:
                raise self._busy
            self._waiting += 1

    def _leave(self) -> None:
        with self._lock:
            self._waiting -= 1

    async def awaited(self, work: Callable[Given, Made], *given: Given.args, **named: Given.kwargs) -> Made:
        """What the work makes, for a coroutine; raises Busy when too many wait."""
        self._enter()
        try:
            return await asyncio.wrap_future(self._pool.submit(work, *given, **named))
        finally:
            self._leave()

    def done(self, work: Callable[Given, Made], *given: Given.args, **named: Given.kwargs) -> Made:
        """What the work makes; called from a worker thread. Raises Busy when too many wait."""
        self._enter()
        try:
            return self._pool.submit(work, *given, **named).result()
        finally:
            self._leave()

    def close(self) -> None:
        """Let the thread end."""
        self._pool.shutdown(wait=False, cancel_futures=True)


class HashingPool(SlowWork):
    """Verifies and makes pass-phrase hashes."""

    def __init__(self) -> None:
        super().__init__("pass-phrase", 16, people.TooManySignIns)

    async def verified(self, passphrase: str, stored: str) -> bool:
        """Whether it is the pass-phrase."""
        return await self.awaited(people.verified, passphrase, stored)

    def hashed(self, passphrase: str) -> str:
        """The pass-phrase as it is stored."""
        return self.done(people.hashed, passphrase)
