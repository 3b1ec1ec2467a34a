"""A run's ear: an instrument's samples become live figures, called readings on the tape, and a kept trace."""

import json
import logging
import queue
import threading
import time
from typing import Any, NamedTuple, cast

from sqlmodel import Session

from vadum.instruments.station import Station
from vadum.instruments.transport import Heard, State
from vadum.soil.contract.errors import FieldError, VadumError
from vadum.soil.contract.numerics import plain
from vadum.soil.shared.bearing.calls import Sample, next_call
from vadum.soil.shared.bearing.record import BearingRecord, End
from vadum.soil.shared.bearing.sampling import Event, Taker, stands_as_called
from vadum.soil.shared.bearing.school import BearingSchool
from vadum.tape import instrument_log, people, runs
from vadum.tape.entries import NewEntry, RunClosed
from vadum.tape.runs import Read
from vadum.tape.tables import Person, Run
from vadum.web.context import Shop
from vadum.web.views.call_panel import push_now
from vadum.web.views.instrument_panel import is_simulated, line_status, live_figures

LOG = logging.getLogger(__name__)
FLUSH_S = 1.0
FIRST_SAMPLE_S = 2.0
PRACTICE = "practice"  # the stations of practice runs begin so: nothing of theirs is kept
WIND_BACK_S, STANDS_MM = 2.0, 0.01
SAID: dict[State, str] = {"connected": "line back", "silent": "line silent", "lost": "line lost", "connecting": ""}


class Push(NamedTuple):
    """The push that is being read: its rows' path, the taker that goes along, where the instrument's gauge had its
    zero (None: never said), and the last call's penetration, mm."""

    path: str
    taker: Taker
    zero_mm: float | None
    last_mm: float


class Zero(NamedTuple):
    """What was taken while the plunger stood."""

    events: tuple[Event, ...]
    heard: Heard


class Ear:
    """Listens to one station for one run. Samples come on the station's thread and are only passed on there; the
    tape is written on a thread of the ear's own, so that a slow disk delays no sample."""

    def __init__(self, its: Shop, code: str, station: Station, by: str) -> None:
        self.its, self.code, self.station, self.by = its, code, station, by
        self.offset_mm = 0.0
        self.takes = False
        self.heard = 0
        self.kept = 0
        self._push: Push | None = None
        self._school: BearingSchool | None = None
        self._pending: list[tuple[Event, Heard]] = []
        self._work: queue.Queue[Heard | Zero | str | None] = queue.Queue()
        self._trace: list[str] = []
        self._flushed = time.monotonic()
        self._lost = False
        self.began = time.monotonic()
        self.finished = False
        self._thread = threading.Thread(target=self._write, name=f"ear {code}", daemon=True)

    def open(self) -> "Ear":
        """Begin to listen; gives itself back."""
        self.refresh()
        self._thread.start()
        self.station.hear(self._on_sample, self._on_state)
        self.show(self.station.state, self.station.why)
        return self

    @property
    def practising(self) -> bool:
        """Whether it is a practice run's own frame, of which nothing is kept."""
        return self.station.code.startswith(PRACTICE)

    @property
    def source(self) -> str:
        """What its readings are marked with."""
        return f"{'simulated' if is_simulated(self.station) else 'instrument'}: {self.station.code}"

    def close(self) -> int:
        """Stop listening, write what is left; how many ears the station still has."""
        left = self.station.leave(self._on_sample)
        self._work.put(None)
        if threading.current_thread() is not self._thread:
            self._thread.join(timeout=10)
        return left

    # On the station's thread: no database here.

    def _on_sample(self, heard: Heard) -> None:
        self.heard += 1
        self._work.put(heard)
        self.its.listeners.say(self.code, "live", json.dumps(self.live(heard)))

    def _on_state(self, state: State, why: str) -> None:
        self.show(state, why)
        self._work.put(state)

    def show(self, state: State, why: str = "") -> None:
        """Tell the desks whether the instrument is heard."""
        self.its.listeners.say(self.code, "line", json.dumps(self.status(state, why)))

    def status(self, state: State, why: str = "") -> dict[str, Any]:
        """What a desk says of the line."""
        return line_status(self.station, state, why, self.takes)

    def live(self, heard: Heard) -> dict[str, Any]:
        """One sample as a desk shows it, with its pace when it is a frame's."""
        return live_figures(self.station, heard, self.offset_mm, self._school)

    # On the ear's own thread.

    def _write(self) -> None:
        while True:
            try:
                work: Heard | Zero | str | None = self._work.get(timeout=FLUSH_S)
            except queue.Empty:
                work = ""
            try:
                self._do(work)
            except RunClosed as error:
                # Signed: nothing is read or kept behind a signature, and the housekeeper lets the instrument go.
                self._pending, self._trace, self.takes, self.finished = [], [], False, True
                self.show(self.station.state, str(error))
            except VadumError as error:
                # Refused for good (a signed run, say): the trace goes on, the desk is told, the hand is not touched.
                self._pending, self.takes = [], False
                self.show(self.station.state, str(error))
            except Exception:
                # A disk that is busy, or a fault of ours: what waits is kept and tried with the next sample.
                LOG.exception("ear of %s", self.code)
            if work is None:
                return

    def _do(self, work: Heard | Zero | str | None) -> None:
        """One piece of work; an empty one, or the end, writes what waits."""
        if self.finished:
            return
        if isinstance(work, Zero):
            self._keep(list(work.events), work.heard)
        elif isinstance(work, Heard):
            self._sample(work)
        elif work:
            self._line(work)
        else:
            self._write_pending()
            self._flush()

    def _line(self, state: str) -> None:
        """A lost line, and its return, stand on the tape."""
        said = SAID[cast(State, state)]
        lost = state in ("lost", "silent")
        if not said or (state == "connected" and not self._lost) or (lost and self._lost):
            return
        self._lost = lost
        self._flush()
        with self.its.database.writing() as session:
            instrument_log.note_instrument(
                session, self._run(session), self.station.code, said, self.by, self.its.now(), self.station.why
            )
        self._tell()

    def _sample(self, heard: Heard) -> None:
        values = ",".join(f"{heard.values[c]:.12g}" if c in heard.values else "" for c in self._channels())
        if not self.station.code.startswith(PRACTICE):
            self._trace.append(f"{'' if heard.seq is None else heard.seq},{heard.seconds:.12g},{values}")
        if time.monotonic() - self._flushed >= FLUSH_S:
            self._flush()
        sample = self._sample_of(heard)
        if sample is None or self._push is None or not self.takes:
            return
        events = self._push.taker.hear(sample)
        if events or self._pending:
            self._keep(events, heard)

    def _channels(self) -> tuple[str, ...]:
        return tuple(self.station.profile.channels)

    def _sample_of(self, heard: Heard) -> Sample | None:
        reading = heard.values.get("ring", heard.values.get("force"))
        penetration = heard.values.get("penetration")
        if reading is None or penetration is None:
            return None
        return Sample(heard.seconds, penetration - self.offset_mm, reading)

    def _flush(self) -> None:
        self._flushed = time.monotonic()
        if not self._trace:
            return
        rows = self._trace
        with self.its.database.writing(self.by) as session:
            run = self._run(session, to_write=True)
            instrument_log.keep_trace(
                session, run.id or 0, self.station.code, "seq,seconds," + ",".join(self._channels()), rows
            )
        self._trace = []  # only now: a write that failed is tried again with what came since
        self.kept += len(rows)

    def _run(self, session: Session, *, to_write: bool = False) -> Run:
        run = runs.find(session, self.code, to_write=to_write)
        if run is None:
            raise FieldError("run", f"there is no run {self.code}")
        return run

    def _keep(self, events: list[Event], heard: Heard) -> None:
        """Readings on the tape: exactly at the called penetrations, those that a hand has not entered."""
        self._pending += [(event, heard) for event in events]
        self._write_pending()

    def _write_pending(self) -> None:
        if self._push is None or not self._pending:
            return
        path = self._push.path
        with self.its.database.writing(self.by) as session:
            run = self._run(session, to_write=True)
            read = self.its.shelf.read(session, run)
            by = people.by_initials(session)[self.by]
            rows = getattr(read.folded.record, path)
            for event, heard in self._pending:
                self._keep_one(session, run, by, path, rows, event, heard)
        self._pending = []
        self._tell()
        self.refresh()

    def _keep_one(
        self, session: Session, run: Run, by: Person, path: str, rows: tuple[Any, ...], event: Event, heard: Heard
    ) -> None:
        source = self.source
        at = self.its.now()
        if event.what == "noted":
            if event.row < len(rows) and rows[event.row].noted is None:
                new = NewEntry(path=f"{path}[{event.row}].noted", value=event.note, source=source)
                runs.post(session, run, new, by, at, insist=True)
            return
        if event.row < len(rows):
            return  # a hand was quicker: its reading stands
        value: dict[str, str | int | float | bool | None]
        if event.sample is None:
            value = {"missed": "missed", **({"noted": event.note} if event.note else {})}
        else:
            field = "ring_div" if "ring" in heard.values else "force_kn"
            value = {field: plain(event.sample.reading, 7), "elapsed_s": plain(event.sample.seconds, 8)}
            called = self._push.taker.school.called_mm[event.row] if self._push else 0.0
            if abs(event.sample.penetration_mm - called) > 1e-9:
                value["penetration_mm"] = f"{event.sample.penetration_mm:.3f}"
            if "vehicle" in heard.values:
                value["vehicle_mm"] = plain(heard.values["vehicle"], 5)
        runs.post(session, run, NewEntry(path=f"{path}[{event.row}]", value=value, source=source), by, at, insist=True)

    def _tell(self) -> None:
        with self.its.database.reading() as session:
            self.its.listeners.tell(self.code, self._run(session).last_seq)

    def refresh(self) -> None:
        """Look which push is being read: called after each change of the tape."""
        with self.its.database.reading() as session:
            read = self.its.shelf.read(session, self._run(session))
        self._school = read.school if isinstance(read.school, BearingSchool) else None
        its = self._pushed(read)
        if its is None:
            self._push, ended = None, self.takes
            self.takes = False
            if ended:
                self.show(self.station.state)
            return
        end, school = its
        call = next_call(end, school)
        row = call.row if call else len(end.rows)
        last_mm = school.called_mm[row - 1] if row else 0.0
        if self._push is None or self._push.path != end.rows_path:
            zero = instrument_log.zero_mm(read, self.station.code, end.rows_path)
            self._push = Push(end.rows_path, self._taker(school, row), zero, last_mm)
            self.offset_mm = zero or 0.0
            self.takes = False  # a new end is seated and started by a person
        else:
            self._push.taker.row = max(self._push.taker.row, row)
            self._push = self._push._replace(last_mm=last_mm)

    def _taker(self, school: BearingSchool, row: int) -> Taker:
        """A taker from a row on, as patient as the instrument's profile."""
        return Taker(school, row, self.station.profile.silent_s)

    def _pushed(self, read: Read) -> tuple[End, BearingSchool] | None:
        if not isinstance(read.folded.record, BearingRecord):
            return None
        advice = read.method.advised(read.folded.record, read.school, read.outcome, read.run.started_at)
        return push_now(read, advice)

    def begin(self, start: bool) -> bool:
        """Take readings from here on: the gauge counts from where it stands; the motor is started where it can be."""
        push = self._push  # once: the ear's own thread may put another in its place
        if push is None:
            raise FieldError("instrument", "no push is ready to be read: seat the plunger first")
        newest = self._newest()
        if newest is None or self.station.state != "connected":
            raise FieldError("instrument", f"{self.station.code} is not heard: {self.station.state}")
        if "penetration" not in newest.values:
            raise FieldError("instrument", f"{self.station.code} reads no penetration: it takes no called readings")
        if push.taker.row == 0:
            if start:
                newest = self._wound_back(newest)
            push = self._zeroed(push, newest.values["penetration"])
        elif push.zero_mm is None and not stands_as_called(newest.values["penetration"], push.last_mm):
            # Begun by hand: its penetrations count from a zero that this gauge does not share.
            words = (
                f"its gauge stands at {newest.values['penetration']:.2f} mm, the last call was {push.last_mm:.2f} mm"
            )
            raise FieldError("instrument", f"{words}: set its gauge as the push stands, or go on by hand")
        taker = self._taker(push.taker.school, push.taker.row)
        self._push = push._replace(taker=taker)
        standing = self._sample_of(newest)
        if standing is not None:
            # The zero is read while the plunger stands, not in the first sample of its way.
            self._work.put(Zero(tuple(taker.hear(standing)), newest))
        self.takes = True
        started = self.station.link.command("start") if start else False
        self.show(self.station.state)
        return started

    def _newest(self) -> Heard | None:
        """The newest sample; a line that has just been found is waited for until its first."""
        until = time.monotonic() + FIRST_SAMPLE_S
        while not self.station.newest and self.station.state == "connected" and time.monotonic() < until:
            time.sleep(0.02)
        return self.station.newest[-1] if self.station.newest else None

    def _zeroed(self, push: Push, at_mm: float) -> Push:
        """Penetrations count from here; it stands on the tape, so that a restart, or ten years, changes nothing."""
        with self.its.database.writing(self.by) as session:
            instrument_log.note_zero(
                session, self._run(session, to_write=True), self.station.code, push.path, at_mm, self.by, self.its.now()
            )
        self.offset_mm = at_mm
        return push._replace(zero_mm=at_mm)

    def _wound_back(self, newest: Heard) -> Heard:
        """The first sample after the plunger was wound back, where the instrument can do that; else the newest."""
        if not self.station.link.command("back"):
            return newest
        until = time.monotonic() + WIND_BACK_S
        while time.monotonic() < until and self.station.newest[-1].values.get("penetration", 0.0) > STANDS_MM:
            time.sleep(0.02)
        return self.station.newest[-1]

    def stop(self) -> None:
        """Read by hand again; the motor is stopped where it can be."""
        self.takes = False
        self.station.link.command("stop")
        self.show(self.station.state)
