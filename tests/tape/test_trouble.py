"""Waiting in vain is one kind of trouble, whoever says so; and a turn that does not come ends in it."""

import sqlite3
import threading

import pytest
from sqlalchemy.exc import OperationalError
from sqlalchemy.exc import TimeoutError as PoolTimeout

from vadum.tape import database
from vadum.tape.trouble import FULL, WaitedTooLong, trouble_of


def of_the_server(name):
    """An error of the server's driver, by its name, as SQLAlchemy wraps it."""
    return OperationalError("SELECT 1", None, type(name, (Exception,), {})("canceling statement"))


@pytest.mark.parametrize(
    "error",
    [
        WaitedTooLong("the database is locked by another hand of this program"),
        PoolTimeout("QueuePool limit of size 5 overflow 10 reached, connection timed out"),
        OperationalError("BEGIN", None, sqlite3.OperationalError("database is locked")),
        *map(of_the_server, ("LockNotAvailable", "DeadlockDetected", "SerializationFailure", "QueryCanceled")),
    ],
    ids=str,
)
def test_waiting_too_long_passes_by_itself(error):
    found = trouble_of(error)
    assert found is not None
    assert found.passes


def test_a_full_disk_does_not_pass_and_a_fault_is_no_trouble():
    assert trouble_of(OSError(28, "No space left on device")).words == FULL
    assert trouble_of(ZeroDivisionError()) is None


def test_a_hand_whose_turn_does_not_come_is_told_so_and_writes_nothing(lab, monkeypatch):
    if lab.database._writers is None:
        pytest.skip("a server has no one turn")
    monkeypatch.setattr(database, "PATIENCE_S", 0.05)
    inside, over = threading.Event(), threading.Event()

    def other():
        with lab.database.writing():
            inside.set()
            over.wait(20)

    hand = threading.Thread(target=other)
    hand.start()
    inside.wait(20)
    try:
        with pytest.raises(WaitedTooLong), lab.database.writing():
            pytest.fail("it was not its turn")
    finally:
        over.set()
        hand.join(20)
    with lab.database.writing():
        pass
