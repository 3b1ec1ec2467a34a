"""A run's recorder: an instrument's samples become live figures, called readings on the tape, and a kept trace."""

import json
import logging
import queue
import threading
import time
from datetime import datetime
from typing import Any, NamedTuple, Protocol, cast

from sqlmodel import Session

from vadum.instruments.station import Station
from vadum.instruments.transport import Heard, State
from vadum.recording.clocked import ClockTaker, followed
from vadum.recording.live import is_simulated, line_status, live_figures
from vadum.recording.loading import Kept, LoadTaker
from vadum.recording.sampling import Event, Taker, stands_as_called
from vadum.recording.what_is_called import Series, called_now, travel_of
from vadum.soil.contract import paths
from vadum.soil.contract.called import Called
from vadum.soil.contract.compare import alike
from vadum.soil.contract.errors import FieldError, VadumError
from vadum.soil.contract.fields import unit_of
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.travel import Sample
from vadum.tape import instrument_log, people, posting, runs
from vadum.tape.database import Database
from vadum.tape.entries import NewEntry, RunClosed
from vadum.tape.runs import Read, Shelf
from vadum.tape.tables import Person, Run

LOG = logging.getLogger(__name__)
FLUSH_S = 1.0
FIRST_SAMPLE_S = 2.0
PRACTICE = "practice"  # the stations of practice runs begin so: nothing of theirs is kept
WIND_BACK_S, STANDS_MM = 2.0, 0.01
SAID: dict[State, str] = {"connected": "line back", "silent": "line silent", "lost": "line lost", "connecting": ""}


# What an instrument's figure is multiplied by to stand in a field of another unit of the same kind.
FACTORS = {("kN", "N"): 1000.0, ("N", "kN"): 0.001}


class Laboratory(Protocol):
    """What a recorder needs of the program that it works in."""

    database: Database
    shelf: Shelf

    def now(self) -> datetime:
        """Now, by the one clock."""
        ...

    def say(self, code: str, event: str, data: str) -> None:
        """Tell everyone who looks at a run."""
        ...

    def tell(self, code: str, seq: int) -> None:
        """The run's tape has grown."""
        ...


class Zero(NamedTuple):
    """What was taken while it stood."""

    events: tuple[Event, ...]
    heard: Heard


class Recorder:
    """Listens to one station for one run. Samples come on the station's thread and are only passed on there; the
    tape is written on a thread of its own, so that a slow disk delays no sample."""

    def __init__(self, laboratory: Laboratory, code: str, station: Station, by: str, holder: str = "") -> None:
        self.laboratory, self.code, self.station, self.by = laboratory, code, station, by
        self.holder = holder  # the name under which it holds its station open
        self.offset_mm = 0.0
        self.takes = False
        self._begun = 0.0  # when the sample it began with arrived, monotonic s
        self.heard = 0
        self.kept = 0
        self._series: Series | None = None
        self._called: Called | None = None
        self._load: LoadTaker | None = None
        self._clock: ClockTaker | None = None
        self._pending: list[tuple[Event, Heard]] = []
        self._work: queue.Queue[Heard | Zero | str | None] = queue.Queue()
        self._trace: list[str] = []
        self._flushed = time.monotonic()
        self._lost = False
        self.began = time.monotonic()
        self.finished = False
        self._thread = threading.Thread(target=self._write, name=f"recorder {code}", daemon=True)
        self._opening = threading.Lock()
        self._closed = False

    def open(self) -> "Recorder":
        """Begin to listen; gives itself back. Nothing begins where it was closed meanwhile: somebody left at once."""
        self.refresh()
        with self._opening:
            if self._closed:
                return self
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

    def close(self) -> None:
        """Stop listening, write what is left."""
        with self._opening:
            self._closed = True
            begun = self._thread.ident is not None
        self.station.leave(self._on_sample)
        self._work.put(None)
        if begun and threading.current_thread() is not self._thread:
            self._thread.join(timeout=10)

    # On the station's thread: no database here.

    def _on_sample(self, heard: Heard) -> None:
        self.heard += 1
        self._work.put(heard)
        self.laboratory.say(self.code, "live", json.dumps(self.live(heard)))

    def _on_state(self, state: State, why: str) -> None:
        self.show(state, why)
        self._work.put(state)

    def show(self, state: State, why: str = "") -> None:
        """Tell the desks whether the instrument is heard."""
        self.laboratory.say(self.code, "line", json.dumps(self.status(state, why)))

    def status(self, state: State, why: str = "") -> dict[str, Any]:
        """What a desk says of the line."""
        return line_status(self.station, state, why, self.takes, self._clock is not None)

    def live(self, heard: Heard) -> dict[str, Any]:
        """One sample as a desk shows it, with its pace when it is a frame's."""
        return live_figures(self.station, heard, self.offset_mm, self._called)

    # On the recorder's own thread.

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
                LOG.exception("recorder of %s", self.code)
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
            self._keep_gathered()

    def _line(self, state: str) -> None:
        """A lost line, and its return, stand on the tape."""
        said = SAID[cast(State, state)]
        lost = state in ("lost", "silent")
        if not said or (state == "connected" and not self._lost) or (lost and self._lost):
            return
        self._lost = lost
        self._flush()
        with self.laboratory.database.writing() as session:
            instrument_log.note_instrument(
                session, self._run(session), self.station.code, said, self.by, self.laboratory.now(), self.station.why
            )
        self._tell()

    def _sample(self, heard: Heard) -> None:
        values = ",".join(f"{heard.values[c]:.12g}" if c in heard.values else "" for c in self._channels())
        if not self.station.code.startswith(PRACTICE):
            self._trace.append(f"{'' if heard.seq is None else heard.seq},{heard.seconds:.12g},{values}")
        if time.monotonic() - self._flushed >= FLUSH_S:
            self._flush()
            self._keep_gathered()
        if self._clock is not None and self.takes and heard.arrived > self._begun:
            self._clock.hear(heard.seconds, heard.values)
            return
        if self._load is not None and self.takes and heard.arrived > self._begun:
            self._keep_rows(self._load.hear(heard.seconds, heard.values))
            return
        sample = self._sample_of(heard)
        if sample is None or self._series is None or not self.takes or heard.arrived <= self._begun:
            return
        events = self._series.taker.hear(sample)
        if events or self._pending:
            self._keep(events, heard)

    def _channels(self) -> tuple[str, ...]:
        return tuple(self.station.profile.channels)

    def _sample_of(self, heard: Heard) -> Sample | None:
        called = self._series.called if self._series else self._called
        travel = travel_of(heard, called)
        if called is None or travel is None:
            return None
        figures = {name: value for name, value in heard.values.items() if name in called.channels}
        return Sample(heard.seconds, travel - self.offset_mm, figures) if figures else None

    def _flush(self) -> None:
        self._flushed = time.monotonic()
        if not self._trace:
            return
        rows = self._trace
        with self.laboratory.database.writing(self.by) as session:
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

    def _keep_rows(self, kept: list[Kept]) -> None:
        """Load steps and their readings on the tape, as they came."""
        if not kept:
            return
        with self.laboratory.database.writing(self.by) as session:
            run = self._run(session, to_write=True)
            by = people.by_initials(session)[self.by]
            for one in kept:
                value = one.value if isinstance(one.value, str) else dict(one.value)
                new = NewEntry(path=one.path, value=value, source=self.source)
                posting.post(session, run, new, by, self.laboratory.now(), insist=True)
        self._tell()
        self.refresh()

    def _keep_gathered(self) -> None:
        """What the vessels that drain have shown since, as blocks."""
        if self._clock is not None:
            self._keep_rows(self._clock.gathered())

    def _write_pending(self) -> None:
        if self._series is None or not self._pending:
            return
        path = self._series.path
        with self.laboratory.database.writing(self.by) as session:
            run = self._run(session, to_write=True)
            read = self.laboratory.shelf.read(session, run)
            by = people.by_initials(session)[self.by]
            rows = paths.reading_at(read.folded.record, path) or ()
            for event, heard in self._pending:
                self._keep_one(session, run, by, path, rows, event, heard)
        self._pending = []
        self._tell()
        self.refresh()

    def _keep_one(
        self, session: Session, run: Run, by: Person, path: str, rows: tuple[Any, ...], event: Event, heard: Heard
    ) -> None:
        source = self.source
        at = self.laboratory.now()
        series = self._series
        if series is None:
            return
        called = series.called
        if event.what == "noted":
            if called.note_field and event.row < len(rows) and getattr(rows[event.row], called.note_field) is None:
                new = NewEntry(path=called.path(event.row, called.note_field), value=event.note, source=source)
                posting.post(session, run, new, by, at, insist=True)
            return
        if event.row < len(rows):
            return  # a hand was quicker: its reading stands
        value = self._missed(called, event) if event.sample is None else self._taken(called, event.row, event.sample)
        if value:
            path = paths.at(called.key, event.row)
            posting.post(session, run, NewEntry(path=path, value=value, source=source), by, at, insist=True)

    @staticmethod
    def _missed(called: Called, event: Event) -> dict[str, str | int | float | bool | None]:
        if not called.missed_field:
            return {}
        noted = {called.note_field: event.note} if event.note and called.note_field else {}
        return {called.missed_field: "missed", **noted}

    def _taken(self, called: Called, row: int, sample: Sample) -> dict[str, str | int | float | bool | None]:
        """The fields of a row that the instrument fills: what it measures, its time, and where it was truly read."""
        value: dict[str, str | int | float | bool | None] = {}
        for channel, field in called.channels.items():
            if channel in sample.figures:
                factor = FACTORS.get((self.station.profile.channels[channel].unit, unit_of(field)), 1.0)
                value[field] = plain(sample.figures[channel] * factor, 7)
        if called.time_field:
            value[called.time_field] = plain(sample.seconds, 8)
        free = row >= len(called.at)
        if called.travel_field and (free or not alike(sample.travel, called.at[row]) or called.writes_travel):
            value[called.travel_field] = f"{sample.travel:.3f}"
        return value

    def _tell(self) -> None:
        with self.laboratory.database.reading() as session:
            self.laboratory.tell(self.code, self._run(session).last_seq)

    def refresh(self) -> None:
        """Look which series is being read: called after each change of the tape."""
        with self.laboratory.database.reading() as session:
            read = self.laboratory.shelf.read(session, self._run(session))
        if self._follow_load(read) or self._follow_clock(read):
            return
        called = self._called_now(read)
        self._called = called or next(
            (c for c in read.method.called(read.facts, read.school) if c.by == "travel"), None
        )
        if called is None:
            self._series, ended = None, self.takes
            self.takes = False
            if ended:
                self.show(self.station.state)
            return
        row = called.next_row
        last_mm = called.at[row - 1] if 0 < row <= len(called.at) else 0.0
        if self._series is None or self._series.path != called.key:
            zero = instrument_log.zero_mm(read, self.station.code, called.key)
            self._series = Series(called, self._taker(called, row), zero, last_mm)
            self.offset_mm = zero or 0.0
            self.takes = False  # a new end is seated and started by a person
        else:
            self._series.taker.row = max(self._series.taker.row, row)
            self._series = self._series._replace(called=called, last_mm=last_mm)

    def _follow_load(self, read: Read) -> bool:
        """Whether it is a load that is called, and this instrument reads it: then its steps are followed."""
        calls = read.method.called(read.facts, read.school)
        ladder = next((c for c in calls if c.by == "load"), None)
        if ladder is None or not set(ladder.channels) & set(self.station.profile.channels):
            return False
        if ladder.over or not read.run.in_hand:
            ended, self.takes, self._load = self.takes, False, None
            if ended:
                self.show(self.station.state)
            return True
        holding = next((c for c in calls if c.by == "clock" and c.key.startswith(ladder.key)), None)
        if self._load is None:
            self._load = LoadTaker(ladder, holding)
        else:
            self._load.follow(ladder, holding)
        return True

    def _follow_clock(self, read: Read) -> bool:
        """Whether vessels drain that this instrument reads: then each is sampled from its own start on."""
        calls = followed(read.method.called(read.facts, read.school), self.station.profile.channels)
        if not calls:
            return False
        if all(c.over for c in calls) or not read.run.in_hand:
            ended, self.takes, self._clock = self.takes, False, None
            if ended:
                self.show(self.station.state)
            return True
        if self._clock is None:
            self._clock = ClockTaker(calls, self.laboratory.now())
        else:
            self._clock.follow(calls)
        return True

    def _taker(self, called: Called, row: int) -> Taker:
        """A taker from a row on, as patient as the instrument's profile."""
        return Taker(called, row, self.station.profile.silent_s)

    def _called_now(self, read: Read) -> Called | None:
        advice = read.method.advised(read.facts, read.school, read.outcome, read.run.started_at)
        return called_now(read, advice.wants)

    def begin(self, start: bool) -> bool:
        """Take readings from here on: the gauge counts from where it stands; the motor is started where it can be."""
        if self._load is not None or self._clock is not None:
            newest = self._newest()
            if newest is None or self.station.state != "connected":
                raise FieldError("instrument", f"{self.station.code} is not heard: {self.station.state}")
            self._begun, self.takes = newest.arrived, True
            if self._clock is not None:
                self._clock = ClockTaker(self._clock.calls, self.laboratory.now())
            started = self.station.link.command("start") if start else False
            self.show(self.station.state)
            return started
        series = self._series  # once: the recorder's own thread may put another in its place
        if series is None:
            if start and self.station.link.command("start"):
                return True  # nothing that it travels is called: its figures are taken one by one
            raise FieldError("instrument", "no called series is ready to be read: what comes before it is not done")
        newest = self._newest()
        if newest is None or self.station.state != "connected":
            raise FieldError("instrument", f"{self.station.code} is not heard: {self.station.state}")
        travel = travel_of(newest, series.called)
        if travel is None:
            wanted = " or ".join(series.called.travel_channels)
            raise FieldError("instrument", f"{self.station.code} reads no {wanted}: it takes no called readings")
        if series.taker.row == 0:
            if start:
                newest = self._wound_back(newest)
                travel = travel_of(newest, series.called) or 0.0
            series = self._zeroed(series, travel)
        elif series.zero_mm is None and not stands_as_called(travel, series.last_mm):
            # Begun by hand: its travel counts from a zero that this gauge does not share.
            words = f"its gauge stands at {travel:.2f} mm, the last call was {series.last_mm:.2f} mm"
            raise FieldError("instrument", f"{words}: set its gauge as the series stands, or go on by hand")
        taker = self._taker(series.called, series.taker.row)
        self._series = series._replace(taker=taker)
        standing = self._sample_of(newest)
        self._begun = newest.arrived  # what still waits in the queue was read before the gauge was set
        if standing is not None:
            # The zero is read while it stands, not in the first sample of its way.
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

    def _zeroed(self, series: Series, at_mm: float) -> Series:
        """Penetrations count from here; it stands on the tape, so that a restart, or ten years, changes nothing."""
        with self.laboratory.database.writing(self.by) as session:
            instrument_log.note_zero(
                session,
                self._run(session, to_write=True),
                self.station.code,
                series.path,
                at_mm,
                self.by,
                self.laboratory.now(),
            )
        self.offset_mm = at_mm
        return series._replace(zero_mm=at_mm)

    def _wound_back(self, newest: Heard) -> Heard:
        """The first sample after it was wound back, where the instrument can do that; else the newest."""
        if not self.station.link.command("back"):
            return newest
        until = time.monotonic() + WIND_BACK_S
        while time.monotonic() < until and (travel_of(self.station.newest[-1], self._called) or 0.0) > STANDS_MM:
            time.sleep(0.02)
        return self.station.newest[-1]

    def stop(self) -> None:
        """Read by hand again; the motor is stopped where it can be."""
        self.takes = False
        self.station.link.command("stop")
        self.show(self.station.state)
