"""Which run listens to which instrument: begun, begun again after a restart, left, and reached from every process."""

import logging
import threading
import time
from typing import Any

from sqlmodel import Session

from vadum.instruments.address import allowed_address
from vadum.instruments.simulated import end_simulated
from vadum.soil.contract.errors import FieldError, VadumError
from vadum.tape import instrument_log, kit
from vadum.tape.fence import BrokenRun
from vadum.tape.runs import NotAllowed, Read
from vadum.tape.tables import Run
from vadum.web.channel import Unheard
from vadum.web.context import Shop
from vadum.web.ear import PRACTICE, Ear

LOG = logging.getLogger(__name__)
COMMANDS = ("take", "start", "stop")
PACES = ("faster", "slower")
MOST_PRACTICES = 8  # each has a simulated frame of its own
LONGEST_PRACTICE_S = 1800.0
LOOK_AGAIN_S = 3.0
SILENT: dict[str, Any] = {"instrument": ""}


def attach(its: Shop, session: Session, run: Run, instrument: str, by: str) -> Ear:
    """Let a run listen to a registered instrument; a former one must have been left."""
    address, profile_name = kit.instrument(session, instrument)
    allowed_address(address, its.settings.instrument_hosts)
    with its.ear_lock:
        if run.code in its.ears or not its.channel.take(run.code):
            raise FieldError("instrument", f"{run.code} listens already: leave that first")
        station = its.stations.open(instrument, address, profile_name)
        ear = its.ears[run.code] = Ear(its, run.code, station, by)
    return ear


def practise(its: Shop, code: str, address: str, by: str) -> Ear:
    """An ear for a practice run's own simulated frame: its dials are read by eye, nothing is taken from it."""
    with its.ear_lock:
        _let_go(its, code)
        if sum(ear.practising for ear in its.ears.values()) >= MOST_PRACTICES:
            raise NotAllowed(f"{MOST_PRACTICES} practices push at once already: wait until one has ended")
        if not its.channel.take(code):
            raise NotAllowed(f"{code} is being pushed already")
        end_simulated(address)
        station = its.stations.open(f"{PRACTICE} {code}", address, "frame")
        ear: Ear = Ear(its, code, station, by)
        its.ears[code] = ear
    return ear.open()


def _let_go(its: Shop, code: str) -> str | None:
    with its.ear_lock:
        ear: Ear | None = its.ears.pop(code, None)
        if ear is None:
            return None
        if ear.close() == 0:
            its.stations.close(ear.station.code)
            end_simulated(ear.station.address)
        its.channel.let_go(code)
        return str(ear.station.code)


def leave(its: Shop, code: str) -> str | None:
    """Stop listening for a run, wherever it is heard; the instrument that was left."""
    here = _let_go(its, code)
    if here is not None or not its.channel.shared or its.channel.take(code):
        if here is None:
            its.channel.let_go(code)
        return here
    left = its.channel.ask(code, "leave").get("left")
    return str(left) if left else None


def close(its: Shop) -> None:
    """Stop everything that listens here."""
    for code in list(its.ears):
        _let_go(its, code)


def resume(its: Shop, session: Session, read: Read) -> Ear | None:
    """The run's ear in this process; begun again when its tape says that it listened and nobody hears it."""
    known: Ear | None = its.ears.get(read.run.code)
    if known or not read.run.in_hand:
        return known
    told = instrument_log.listens_to(read)
    if told is None:
        return None
    try:
        return attach(its, session, read.run, *told).open()
    except VadumError:
        return None  # heard by another process, or gone from the kit: the desk works by hand


def resume_all(its: Shop) -> None:
    """Hear again whatever the tapes say is listened to and nobody hears. Nothing is taken until a person says so."""
    with its.database.reading() as session:
        for run in instrument_log.listening_runs(session):
            if run.code in its.ears:
                continue
            try:
                resume(its, session, its.shelf.read(session, run))
            except BrokenRun:
                continue


class Housekeeper:
    """Looks every few seconds: instruments that nobody hears any more, and practices that were left running."""

    def __init__(self, its: Shop) -> None:
        self._its = its
        self._ending = threading.Event()
        self._thread = threading.Thread(target=self._run, name="housekeeper", daemon=True)

    def start(self) -> "Housekeeper":
        """Begin; gives itself back."""
        self._thread.start()
        return self

    def close(self) -> None:
        """End."""
        self._ending.set()
        self._thread.join(5)

    def _run(self) -> None:
        first = True
        while first or not self._ending.wait(LOOK_AGAIN_S):
            try:
                if first or self._its.channel.shared:
                    resume_all(self._its)
                for code, ear in list(self._its.ears.items()):
                    if ear.finished or (ear.practising and time.monotonic() - ear.began > LONGEST_PRACTICE_S):
                        _let_go(self._its, code)
            except Exception:
                LOG.exception("housekeeper")
            first = False


def _status_here(its: Shop, code: str) -> dict[str, Any] | None:
    ear: Ear | None = its.ears.get(code)
    if ear is None:
        return None
    newest = ear.station.newest[-1] if ear.station.newest else None
    return {
        **ear.status(ear.station.state, ear.station.why),
        **ear.station.link.counts._asdict(),
        "heard": ear.heard,
        "kept": ear.kept,
        "live": ear.live(newest) if newest else None,
    }


def _command_here(its: Shop, code: str, name: str) -> dict[str, Any] | None:
    ear: Ear | None = its.ears.get(code)
    if ear is None:
        return None
    if name in PACES:
        if not ear.station.link.command(name):
            raise FieldError("pace", "nothing is being wound")
    elif name == "stop":
        ear.stop()
    else:
        ear.refresh()
        ear.begin(name == "start")
    return ear.status(ear.station.state, ear.station.why)


def _showed(its: Shop, code: str, instrument: str, figure: str) -> dict[str, Any] | None:
    """Whether the instrument showed that figure within its last minute, and what its readings are marked with."""
    ear: Ear | None = its.ears.get(code)
    if ear is None:
        return None
    if ear.station.code != instrument:
        return {"source": ""}
    shown = any(figure == text for h in list(ear.station.newest) for text, _ in ear.live(h)["values"].values())
    return {"source": ear.source if shown else ""}


def answer(its: Shop, code: str, what: str, more: dict[str, Any]) -> dict[str, Any] | None:
    """What another process asks of an instrument that is heard here; None when it is not."""
    if code not in its.ears:
        return None
    if what == "leave":
        return {"left": _let_go(its, code)}
    if what == "command":
        return _command_here(its, code, str(more["name"]))
    if what == "showed":
        return _showed(its, code, str(more["instrument"]), str(more["figure"]))
    return _status_here(its, code)


def status(its: Shop, session: Session, read: Read) -> dict[str, Any]:
    """What the run listens to, how the line stands, and what came so far."""
    resume(its, session, read)
    here = _status_here(its, read.run.code)
    if here is not None:
        return here
    if not its.channel.shared or instrument_log.listens_to(read) is None:
        return SILENT
    try:
        return its.channel.ask(read.run.code, "status")
    except Unheard:
        return SILENT


def command(its: Shop, code: str, name: str) -> dict[str, Any]:
    """Tell the instrument that a run listens to; raises Unheard when there is none."""
    here = _command_here(its, code, name)
    return here if here is not None else its.channel.ask(code, "command", name=name)


def source_of(its: Shop, code: str, instrument: str, value: Any) -> str:
    """The source of a figure that is said to be an instrument's: the instrument's when it showed it, else a hand's."""
    figure = str(value)[:40]
    here = _showed(its, code, instrument, figure)
    if here is None and its.channel.shared:
        try:
            here = its.channel.ask(code, "showed", instrument=instrument, figure=figure)
        except VadumError:
            here = None
    return str((here or {}).get("source") or "hand")


def refresh(its: Shop, code: str) -> None:
    """A run's tape has grown: its ear looks which push is being read."""
    ear: Ear | None = its.ears.get(code)
    if ear is not None:
        ear.refresh()


def hear_others(its: Shop, code: str, event: str, data: str) -> None:
    """Another process has said something: this one's pages are told, and an ear here looks again."""
    its.listeners.hear(code, event, data)
    if event == "grown":
        try:
            refresh(its, code)
        except VadumError:
            LOG.info("the ear of %s cannot read its run", code)
