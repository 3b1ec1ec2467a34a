"""The rack: everything that the clock calls, of all runs as one, and start times that do not clash."""

import math
from collections.abc import Iterable, Sequence
from datetime import datetime, timedelta
from functools import lru_cache
from typing import Literal, NamedTuple

from vadum.bench.moments import Moment
from vadum.soil.contract import paths
from vadum.soil.contract.called import Called, Slot, hands, minutes_words, slots
from vadum.soil.contract.fields import RecordPart
from vadum.soil.contract.outcome import Advice
from vadum.soil.contract.times import minutes_between
from vadum.soil.shared.start_times import GRID_S, Block, Plan, clashes_at, next_start_s, stagger
from vadum.tape.fence import apart, fenced
from vadum.tape.ground import Place
from vadum.tape.runs import Read

Stage = Literal["running", "planned", "ready", "preparing", "done"]


class Vessel(NamedTuple):
    """One run that the clock calls, as the rack shows it. `level` is how far it has come, 0 to 1, as drawn."""

    code: str
    name: str
    words: str
    stage: Stage
    school: str
    started_at: datetime | None
    planned_at: datetime | None
    slots: tuple[Slot, ...]
    advice: Advice
    level: float
    called: Called
    last: dict[str, float]
    record: type[RecordPart]

    @property
    def taken(self) -> int:
        """Scheduled readings that stand."""
        return sum(s.state in ("done", "late", "early") for s in self.slots)


class Call(NamedTuple):
    """One call of the merged sheet."""

    at: datetime
    code: str
    name: str
    what: str
    kind: Literal["insert", "read", "after", "shake", "start"]
    path: str
    after_path: str
    window_s: int
    late_s: float
    is_in: bool = False


class Proposal(NamedTuple):
    """When a ready cylinder can start: at once with what would suffer, and at the next clean moment."""

    code: str
    name: str
    start_at: datetime | None
    clean_at: datetime | None
    suffers: tuple[str, ...]


class Rack(NamedTuple):
    """The whole rack at a moment."""

    vessels: tuple[Vessel, ...]
    calls: tuple[Call, ...]
    proposals: tuple[Proposal, ...]
    proved: bool
    total_delay_min: float


def vessel_of(read: Read, place: Place, now: datetime) -> Vessel:
    """A run as a vessel; raises BrokenRun."""
    return fenced(read.run, read.entries, "shown", lambda entries: _vessel(read.upto(entries), place, now))


def clock_calls(read: Read) -> Called | None:
    """What the clock calls in a run; None where it calls nothing, or only while a load is held (the ladder's)."""
    calls = read.method.called(read.facts, read.school)
    if any(c.by == "load" for c in calls):
        return None
    return next((c for c in calls if c.by == "clock"), None)


def _vessel(read: Read, place: Place, now: datetime) -> Vessel:
    called = clock_calls(read)
    assert called is not None
    record = read.folded.record
    advice = read.method.advised(read.facts, read.school, read.outcome, now)
    found = slots(called, now)
    planned = paths.reading_at(record, called.plan_field) if called.plan_field else None
    stage: Stage = "preparing"
    if called.began_at is not None:
        stage = "running" if any(s.state in ("next", "ahead") for s in found) else "done"
    elif planned is not None:
        stage = "planned"
    elif called.ready:
        stage = "ready"
    level = 0.0
    if called.began_at is not None:
        # Drawn, not computed with: to its end after about a day, as the eye sees it.
        level = min(1.0, math.log1p(max(minutes_between(called.began_at, now), 0.0)) / math.log1p(1440))
    last: dict[str, float] = {}
    for row in paths.reading_at(record, called.key) or ():
        last |= {f: value for f in called.reads if (value := getattr(row, f)) is not None}
    return Vessel(
        code=read.run.code,
        name=called.name or read.run.code,
        words=place.words,
        stage=stage,
        school=read.school.title,
        started_at=called.began_at,
        planned_at=planned if called.began_at is None else None,
        slots=found,
        advice=advice,
        level=level,
        called=called,
        last=last,
        record=read.method.Record,
    )


def _is_in(record: RecordPart, called: Called, path: str) -> bool:
    """Whether the gauge is in for the reading at that path."""
    row = paths.parse(path).row
    return bool(
        called.insert_field
        and row is not None
        and paths.reading_at(record, called.path(row, called.insert_field)) is not None
    )


def calls_of(vessel: Vessel, record: RecordPart, now: datetime) -> list[Call]:
    """A vessel's calls, soonest first: what is late, the gauge in, the reading, what is still owed after one."""
    found = []
    called, name, code = vessel.called, vessel.name, vessel.code
    for due in vessel.advice.due:
        field = paths.field_name(due.path) if due.path else ""
        if called.after_field and field == called.after_field and due.at is None:
            title = _title(record, due.path)
            found.append(Call(now, code, name, f"{title} of {name}", "after", due.path, "", 60, 0.0))
            continue
        if due.at is None:
            continue
        late = max(0.0, (now - due.at).total_seconds() - (due.window_s or 0))
        window = due.window_s or 0
        row = paths.parse(due.path).row
        reading = field in called.reads and row is not None
        after = called.path(row, called.after_field) if reading and row is not None and called.after_field else ""
        starting = due.path == called.begin_field
        if due.lead_s and due.since and due.since > now - timedelta(seconds=5):
            what = called.prepares.replace("{}", name) if starting else f"{called.gauge} into {name}"
            kind: Literal["shake", "insert"] = "shake" if starting else "insert"
            found.append(Call(due.since, code, name, what, kind, due.path, after, window, 0.0))
        what = f"{called.begins} {name}" if starting else f"read {due.label}"
        kind_: Literal["start", "read"] = "start" if starting else "read"
        is_in = _is_in(record, called, due.path)
        found.append(Call(due.at, code, name, what, kind_, due.path, after, window, late, is_in))
    return found


def _title(record: RecordPart, path: str) -> str:
    field = paths.field_of(type(record), path)
    return (field.title if field else None) or paths.field_name(path)


def base_of(now: datetime) -> datetime:
    """The next whole step of the grid: plans are made from there, so that they do not jitter with the seconds."""
    second = now.replace(microsecond=0)
    past = (second.minute * 60 + second.second) % GRID_S
    return second + timedelta(seconds=(GRID_S - past) % GRID_S)


def busy_of(moments: Iterable[Moment], base: datetime) -> list[Block]:
    """Everything with a window that already takes hands, in seconds from base."""
    blocks = []
    for moment in moments:
        if moment.due.at is None or moment.due.window_s is None or moment.elsewhere:
            continue
        begin, end = moment.busy(base)
        first, last = (begin - base).total_seconds(), (end - base).total_seconds()
        if last > 0:
            blocks.append(Block(math.floor(first), math.ceil(last), f"{moment.due.what} ({moment.run_code})"))
    return blocks


@lru_cache(maxsize=16)
def _planned(patterns: tuple[tuple[Block, ...], ...], busy: tuple[Block, ...], earliest: int) -> Plan:
    """A plan, kept for as long as its grid step stands: several pages ask for the same one."""
    return stagger(patterns, busy, earliest)


def blocks_of(called: Called) -> tuple[Block, ...]:
    """When a timetable takes hands, as the search for start times reads it."""
    return tuple(Block(*one) for one in hands(called))


def proposals_of(
    ready: Sequence[Vessel], busy: Sequence[Block], base: datetime
) -> tuple[tuple[Proposal, ...], bool, float]:
    """Start times of all ready vessels together, with the least total delay; and what each would cost at once."""
    if not ready:
        return (), True, 0.0
    patterns = [blocks_of(vessel.called) for vessel in ready]
    earliest = max(-p[0].begin_s for p in patterns)
    plan = _planned(tuple(patterns), tuple(busy), earliest)
    found = []
    for i, vessel in enumerate(ready):
        start = base + timedelta(seconds=plan.starts_s[i]) if plan.starts_s else None
        clean = next_start_s(patterns[i], busy, earliest)
        clashes = clashes_at(earliest, patterns[i], busy)
        said = dict.fromkeys(f"{c.mine.label} against {c.other.label}" for c in clashes)
        found.append(
            Proposal(
                code=vessel.code,
                name=vessel.name,
                start_at=start,
                clean_at=None if clean is None else base + timedelta(seconds=clean),
                suffers=tuple(said),
            )
        )
    return tuple(found), plan.proved, (plan.total_delay_s - earliest * len(ready)) / 60


def rack(reads: Sequence[tuple[Read, Place]], moments: Iterable[Moment], now: datetime) -> Rack:
    """The rack at now. `moments` are those of every run in hand: what else needs hands is not planned over."""
    base = base_of(now)
    # A vessel that cannot be shown is told on the bench, and the rack goes on.
    timed = [pair for pair in reads if clock_calls(pair[0])]
    pairs, _ = apart(timed, lambda pair: (vessel_of(*pair, now), pair[0]))
    calls = [call for vessel, read in pairs for call in calls_of(vessel, read.folded.record, now)]
    order = {"after": 0, "read": 1, "start": 1, "insert": 2, "shake": 2}
    calls.sort(key=lambda c: (c.at, order[c.kind], c.name))
    ready = [vessel for vessel, _ in pairs if vessel.stage == "ready"]
    proposals, proved, delay = proposals_of(ready, busy_of(moments, base), base)
    rank = {"running": 0, "planned": 1, "ready": 2, "preparing": 3, "done": 4}
    vessels = sorted((v for v, _ in pairs), key=lambda v: (rank[v.stage], v.name, v.code))
    return Rack(tuple(vessels), tuple(calls), proposals, proved, delay)


def slot_words(slot: Slot) -> str:
    """A scheduled reading and how it stands, for the list under a vessel."""
    word = minutes_words(slot.at)
    if slot.state in ("late", "early"):
        return f"{word} {abs(slot.off_s):.0f} s {slot.state}"
    return f"{word} {slot.state}" if slot.state == "missed" else word
