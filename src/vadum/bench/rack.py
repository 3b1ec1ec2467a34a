"""The cylinder rack: several hydrometer runs as one, their merged calls, and start times that do not clash."""

import math
from collections.abc import Iterable, Sequence
from datetime import datetime, timedelta
from functools import lru_cache
from typing import Any, Literal, NamedTuple

from vadum.bench.moments import Moment
from vadum.soil.contract.outcome import Advice
from vadum.soil.contract.times import minutes_between
from vadum.soil.methods.hydrometer.advise import ready_to_start
from vadum.soil.methods.hydrometer.suspension import reads_sg, stem_field, stem_reading
from vadum.soil.methods.hydrometer.timing import Slot, hands, timetable, words
from vadum.soil.shared.start_times import GRID_S, Block, Plan, clashes_at, next_start_s, stagger
from vadum.tape.fence import apart, fenced
from vadum.tape.ground import Place
from vadum.tape.runs import Read

Stage = Literal["running", "planned", "ready", "preparing", "done"]


class Cylinder(NamedTuple):
    """One hydrometer run as the rack shows it. `level` is how far the suspension has cleared, 0 to 1."""

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
    last_reading: float | None
    last_temperature: float | None
    in_sg: bool

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
    kind: Literal["insert", "read", "temperature", "shake", "start"]
    path: str
    temperature_path: str
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

    cylinders: tuple[Cylinder, ...]
    calls: tuple[Call, ...]
    proposals: tuple[Proposal, ...]
    proved: bool
    total_delay_min: float


def cylinder_of(read: Read, place: Place, now: datetime) -> Cylinder:
    """A run as a cylinder; raises BrokenRun."""
    return fenced(read.run, read.entries, "shown", lambda entries: _cylinder(read.upto(entries), place, now))


def _cylinder(read: Read, place: Place, now: datetime) -> Cylinder:
    record: Any = read.folded.record
    school: Any = read.school
    advice = read.method.advised(record, school, read.outcome, now)
    slots = tuple(timetable(record, school, now))
    stage: Stage = "preparing"
    if record.started_at is not None:
        stage = "running" if any(s.state in ("next", "ahead") for s in slots) else "done"
    elif record.planned_start_at is not None:
        stage = "planned"
    elif ready_to_start(record, school):
        stage = "ready"
    level = 0.0
    if record.started_at is not None:
        # Drawn, not computed with: clear to the bottom after about a day, as the eye sees it.
        level = min(1.0, math.log1p(max(minutes_between(record.started_at, now), 0.0)) / math.log1p(1440))
    taken = [r for r in record.readings if stem_reading(r, record) is not None]
    warm = [r.temperature_c for r in record.readings if r.temperature_c is not None]
    blanks = [b.temperature_c for b in record.blanks if b.temperature_c is not None]
    return Cylinder(
        code=read.run.code,
        name=record.cylinder or read.run.code,
        words=place.words,
        stage=stage,
        school=read.school.title,
        started_at=record.started_at,
        planned_at=record.planned_start_at if record.started_at is None else None,
        slots=slots,
        advice=advice,
        level=level,
        last_reading=stem_reading(taken[-1], record) if taken else None,
        last_temperature=(warm or blanks or [None])[-1],
        in_sg=reads_sg(record),
    )


def _is_in(record: Any, path: str) -> bool:
    """Whether the hydrometer is in for the reading at that path."""
    _, bracket, rest = path.partition("[")
    row = int(rest.partition("]")[0]) if bracket else -1
    return 0 <= row < len(record.readings) and record.readings[row].inserted_at is not None


def calls_of(cylinder: Cylinder, record: Any, now: datetime) -> list[Call]:
    """A cylinder's calls, soonest first: what is late, the hydrometer in, the reading, a temperature still owed."""
    found = []
    field = stem_field(record)
    for due in cylinder.advice.due:
        if due.path.endswith("temperature_c") and due.at is None:
            what = f"temperature of {cylinder.name}"
            path = due.path
            found.append(Call(now, cylinder.code, cylinder.name, what, "temperature", path, "", 60, 0.0))
            continue
        if due.at is None:
            continue
        late = max(0.0, (now - due.at).total_seconds() - (due.window_s or 0))
        window = due.window_s or 0
        row = due.path.partition("]")[0] + "]"
        temperature = f"{row}.temperature_c" if due.path.endswith(field) else ""
        starting = due.path == "started_at"
        if due.lead_s and due.since and due.since > now - timedelta(seconds=5):
            what = f"turn {cylinder.name} end over end" if starting else f"hydrometer into {cylinder.name}"
            kind: Literal["shake", "insert"] = "shake" if starting else "insert"
            found.append(Call(due.since, cylinder.code, cylinder.name, what, kind, due.path, temperature, window, 0.0))
        what = f"set {cylinder.name} down" if starting else f"read {due.label}"
        kind_: Literal["start", "read"] = "start" if starting else "read"
        at, code, name = due.at, cylinder.code, cylinder.name
        found.append(Call(at, code, name, what, kind_, due.path, temperature, window, late, _is_in(record, due.path)))
    return found


def base_of(now: datetime) -> datetime:
    """The next whole step of the grid: plans are made from there, so that they do not jitter with the seconds."""
    second = now.replace(microsecond=0)
    past = (second.minute * 60 + second.second) % GRID_S
    return second + timedelta(seconds=(GRID_S - past) % GRID_S)


def busy_of(moments: Iterable[Moment], base: datetime) -> list[Block]:
    """Everything with a window that already takes hands, in seconds from base."""
    blocks = []
    for moment in moments:
        if moment.due.at is None or moment.due.window_s is None:
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


def proposals_of(
    ready: Sequence[tuple[Cylinder, Any]], busy: Sequence[Block], base: datetime
) -> tuple[tuple[Proposal, ...], bool, float]:
    """Start times of all ready cylinders together, with the least total delay; and what each would cost at once."""
    if not ready:
        return (), True, 0.0
    patterns = [hands(school) for _, school in ready]
    earliest = max(-p[0].begin_s for p in patterns)
    plan = _planned(tuple(patterns), tuple(busy), earliest)
    found = []
    for i, (cylinder, _) in enumerate(ready):
        start = base + timedelta(seconds=plan.starts_s[i]) if plan.starts_s else None
        clean = next_start_s(patterns[i], busy, earliest)
        clashes = clashes_at(earliest, patterns[i], busy)
        said = dict.fromkeys(f"{c.mine.label} against {c.other.label}" for c in clashes)
        found.append(
            Proposal(
                code=cylinder.code,
                name=cylinder.name,
                start_at=start,
                clean_at=None if clean is None else base + timedelta(seconds=clean),
                suffers=tuple(said),
            )
        )
    return tuple(found), plan.proved, (plan.total_delay_s - earliest * len(ready)) / 60


def rack(reads: Sequence[tuple[Read, Place]], moments: Iterable[Moment], now: datetime) -> Rack:
    """The rack at now. `moments` are those of every run in hand: what else needs hands is not planned over."""
    base = base_of(now)
    # A cylinder that cannot be shown is told on the bench, and the rack goes on.
    pairs, _ = apart(reads, lambda pair: (cylinder_of(*pair, now), pair[0]))
    calls = [call for cylinder, read in pairs for call in calls_of(cylinder, read.folded.record, now)]
    order = {"temperature": 0, "read": 1, "start": 1, "insert": 2, "shake": 2}
    calls.sort(key=lambda c: (c.at, order[c.kind], c.name))
    ready = [(cylinder, read.school) for cylinder, read in pairs if cylinder.stage == "ready"]
    proposals, proved, delay = proposals_of(ready, busy_of(moments, base), base)
    rank = {"running": 0, "planned": 1, "ready": 2, "preparing": 3, "done": 4}
    cylinders = sorted((c for c, _ in pairs), key=lambda c: (rank[c.stage], c.name, c.code))
    return Rack(tuple(cylinders), tuple(calls), proposals, proved, delay)


def slot_words(slot: Slot) -> str:
    """A scheduled reading and how it stands, for the list under a cylinder."""
    word = words(slot.minutes)
    if slot.state in ("late", "early"):
        return f"{word} {abs(slot.off_s):.0f} s {slot.state}"
    return f"{word} {slot.state}" if slot.state == "missed" else word
