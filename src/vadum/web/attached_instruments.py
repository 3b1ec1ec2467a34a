"""Which run listens to which instrument: begun, begun again after a restart, left, and reached from every process."""

import logging
import threading
import time
import uuid
from typing import Any
from urllib.parse import urlsplit

from sqlmodel import Session

from vadum.instruments.address import allowed_address
from vadum.instruments.simulated import end_simulated
from vadum.recording.recorder import PRACTICE, Recorder
from vadum.soil.contract.errors import FieldError, VadumError
from vadum.tape import instrument_log, kit
from vadum.tape.fence import BrokenRun
from vadum.tape.runs import NotAllowed, Read
from vadum.tape.tables import Run
from vadum.web import glance
from vadum.web.channel import Unheard
from vadum.web.context import Shop

LOG = logging.getLogger(__name__)
COMMANDS = ("take", "start", "stop", "top")
PACES = ("faster", "slower")
MOST_PRACTICES = 8  # each has a simulated frame of its own
LONGEST_PRACTICE_S = 1800.0
LOOK_AGAIN_S = 3.0
LOOKS, LOOK_S = 10, 0.03  # how often it is looked whether another process hears: a look holds the lock a moment
SILENT: dict[str, Any] = {"instrument": ""}


def attach(its: Shop, session: Session, run: Run, instrument: str, by: str) -> Recorder:
    """Let a run listen to a registered instrument; a former one must have been left."""
    address, profile_name = kit.instrument(session, instrument)
    allowed_address(address, its.settings.instrument_hosts)
    with its.recorder_lock:
        if run.code in its.recorders or not its.channel.take(run.code):
            raise FieldError("instrument", f"{run.code} listens already: leave that first")
        holder = uuid.uuid4().hex
        station = its.stations.open(instrument, address, profile_name, holder)
        recorder = its.recorders[run.code] = Recorder(its, run.code, station, by, holder)
    return recorder


def practise(its: Shop, code: str, address: str, by: str) -> Recorder:
    """An recorder for a practice run's own simulated frame: its dials are read by eye, nothing is taken from it."""
    _let_go(its, code)
    with its.recorder_lock:
        if sum(recorder.practising for recorder in its.recorders.values()) >= MOST_PRACTICES:
            raise NotAllowed(f"{MOST_PRACTICES} practices push at once already: wait until one has ended")
        if not its.channel.take(code):
            raise NotAllowed(f"{code} is being pushed already")
        end_simulated(address)
        holder = uuid.uuid4().hex
        station = its.stations.open(f"{PRACTICE} {code}", address, urlsplit(address).netloc, holder)
        recorder: Recorder = Recorder(its, code, station, by, holder)
        its.recorders[code] = recorder
    return recorder.open()


def pumped_on(its: Shop, code: str) -> bool:
    """Let a practice's own jack go on to its next load; whether there is one."""
    recorder: Recorder | None = its.recorders.get(code)
    return recorder is not None and recorder.practising and recorder.station.link.command("start")


def _let_go(its: Shop, code: str) -> str | None:
    """Let a run's instrument go, where it is heard here. No lock is held while the recorder writes its last samples:
    who attaches meanwhile holds the database, which the recorder waits for."""
    with its.recorder_lock:
        recorder: Recorder | None = its.recorders.pop(code, None)
    if recorder is None:
        return None
    recorder.close()
    if its.stations.release(recorder.station, recorder.holder):
        end_simulated(recorder.station.address)
    its.channel.let_go(code)
    return str(recorder.station.code)


def leave(its: Shop, code: str) -> str | None:
    """Stop listening for a run, wherever it is heard; the instrument that was left, None where nobody heard it."""
    here = _let_go(its, code)
    if here is not None or not its.channel.shared:
        return here
    for _ in range(LOOKS):
        if _nobody_elsewhere_hears(its, code):
            return None
        time.sleep(LOOK_S)
    try:
        left = its.channel.ask(code, "leave").get("left")
    except Unheard:
        return None  # whoever heard it has left meanwhile
    return str(left) if left else None


def _nobody_elsewhere_hears(its: Shop, code: str) -> bool:
    """Whether no other process hears for this run. Two that look at the same moment see each other's look."""
    with its.recorder_lock:
        if code in its.recorders:
            return True  # attached here a moment ago, by somebody who came after this leaving
        if not its.channel.take(code):
            return False
        its.channel.let_go(code)
        return True


def close(its: Shop) -> None:
    """Stop everything that listens here."""
    for code in list(its.recorders):
        _let_go(its, code)


def resume(its: Shop, session: Session, read: Read) -> Recorder | None:
    """The run's recorder in this process; begun again when its tape says that it listened and nobody hears it."""
    known: Recorder | None = its.recorders.get(read.run.code)
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
            if run.code in its.recorders:
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
                glance.let_go(self._its)
                for code, recorder in list(self._its.recorders.items()):
                    if recorder.finished or (
                        recorder.practising and time.monotonic() - recorder.began > LONGEST_PRACTICE_S
                    ):
                        _let_go(self._its, code)
            except Exception:
                LOG.exception("housekeeper")
            first = False


def _status_here(its: Shop, code: str) -> dict[str, Any] | None:
    recorder: Recorder | None = its.recorders.get(code)
    if recorder is None:
        return None
    newest = recorder.station.newest[-1] if recorder.station.newest else None
    return {
        **recorder.status(recorder.station.state, recorder.station.why),
        **recorder.station.link.counts._asdict(),
        "heard": recorder.heard,
        "kept": recorder.kept,
        "live": recorder.live(newest) if newest else None,
    }


def _command_here(its: Shop, code: str, name: str) -> dict[str, Any] | None:
    recorder: Recorder | None = its.recorders.get(code)
    if recorder is None:
        return None
    if name in PACES:
        if not recorder.station.link.command(name):
            raise FieldError("pace", "nothing is being wound")
    elif name == "top":
        if not recorder.station.link.command("top"):
            raise FieldError("command", "nothing is topped up here")
    elif name == "stop":
        recorder.stop()
    else:
        recorder.refresh()
        recorder.begin(name == "start")
    return recorder.status(recorder.station.state, recorder.station.why)


def _showed(its: Shop, code: str, instrument: str, figure: str) -> dict[str, Any] | None:
    """Whether the instrument showed that figure within its last minute, and what its readings are marked with."""
    recorder: Recorder | None = its.recorders.get(code)
    if recorder is None:
        return None
    if recorder.station.code != instrument:
        return {"source": ""}
    shown = any(
        figure == text for h in list(recorder.station.newest) for text, _ in recorder.live(h)["values"].values()
    )
    return {"source": recorder.source if shown else ""}


def answer(its: Shop, code: str, what: str, more: dict[str, Any]) -> dict[str, Any] | None:
    """What another process asks of an instrument that is heard here; None when it is not."""
    if code not in its.recorders:
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
    return str((here or {}).get("source") or glance.source_of(its, instrument, value) or "hand")


def refresh(its: Shop, code: str) -> None:
    """A run's tape has grown: its recorder looks which push is being read."""
    recorder: Recorder | None = its.recorders.get(code)
    if recorder is not None:
        recorder.refresh()


def hear_others(its: Shop, code: str, event: str, data: str) -> None:
    """Another process has said something: this one's pages are told, and an recorder here looks again."""
    its.listeners.hear(code, event, data)
    if event == "laboratory":
        its.look_at_zone()
    if event == "grown":
        try:
            refresh(its, code)
        except VadumError:
            LOG.info("the recorder of %s cannot read its run", code)
