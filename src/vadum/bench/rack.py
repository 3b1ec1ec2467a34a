"""The rack: everything that the clock calls, of all runs as one, and start times that do not clash."""

import math
from collections.abc import Iterable, Sequence
from datetime import datetime, timedelta
from functools import lru_cache
from typing import Literal, NamedTuple

from vadum.bench.moments import Moment
from vadum.soil.contract import paths
from vadum.soil.contract.called import Called, Slot, due_at, hands, minutes_words, slots
from vadum.soil.contract.fields import RecordPart, kind_of
from vadum.soil.contract.outcome import Advice, Due
from vadum.soil.contract.times import clock, exact, minutes_between
from vadum.soil.shared.start_times import GRID_S, Block, Plan, clashes_at, next_start_s, stagger
from vadum.tape.fence import apart, fenced
from vadum.tape.ground import Place
from vadum.tape.runs import Read

Stage = Literal["running", "planned", "ready", "preparing", "done"]
Kind = Literal["insert", "read", "after", "shake", "start", "mark"]
RANK: dict[Stage, int] = {"running": 0, "planned": 1, "ready": 2, "preparing": 3, "done": 4}


class Vessel(NamedTuple):
    """Something that the clock calls, as the rack shows it: a run's only vessel, or one of several. `level` is how far
    it has come or how full it stands, 0 to 1, as drawn; None where it is not drawn filled."""

    id: str
    code: str
    name: str
    words: str
    stage: Stage
    school: str
    started_at: datetime | None
    planned_at: datetime | None
    slots: tuple[Slot, ...]
    advice: Advice
    dues: tuple[Due, ...]
    level: float | None
    called: Called
    last: dict[str, float]
    record: type[RecordPart]

    def says(self, now: datetime) -> str:
        """What stands under it: what was read last, or when it is called next."""
        slot = next((s for s in self.slots if s.state == "next"), None)
        if self.stage == "planned" and self.planned_at is not None:
            return f"starts {exact(self.planned_at, now)}"
        if self.stage != "running" or slot is None:
            return "read to its end" if self.stage == "done" else self.stage
        if self.called.is_exact and self.called.only_row is None:
            return f"{slot_words(slot)} next"
        shown = self.called.taken[-1].shows if self.called.taken else ""
        at = due_at(self.called, slot.at)
        return " · ".join(w for w in (shown, "now" if at <= now else clock(at, now)) if w)

    @property
    def taken(self) -> int:
        """Scheduled readings that stand."""
        return sum(s.state in ("done", "late", "early") for s in self.slots)


class Group(NamedTuple):
    """The vessels of one run, or of several runs of one test with a vessel each, side by side under one bar: straight
    where their calls come at their time. `code` is empty where they are of several runs."""

    code: str
    title: str
    words: str
    exact: bool
    vessels: tuple[Vessel, ...]
    headline: str
    stage: Stage

    @property
    def drawn(self) -> tuple[Vessel, ...]:
        """Those that stand on the rack."""
        return tuple(v for v in self.vessels if v.called.drawn)


class Call(NamedTuple):
    """One call of the merged sheet. `vessel` is the id of the one that it belongs to."""

    at: datetime
    code: str
    vessel: str
    name: str
    what: str
    kind: Kind
    path: str
    after_path: str
    window_s: int | None
    late_s: float
    hands_s: int
    is_in: bool = False


class Proposal(NamedTuple):
    """When something ready can start: at once with what would suffer, and at the next clean moment."""

    id: str
    code: str
    name: str
    start_at: datetime | None
    clean_at: datetime | None
    suffers: tuple[str, ...]
    hands: tuple[Block, ...]


class Rack(NamedTuple):
    """The whole rack at a moment."""

    groups: tuple[Group, ...]
    calls: tuple[Call, ...]
    proposals: tuple[Proposal, ...]
    proved: bool
    total_delay_min: float

    @property
    def vessels(self) -> tuple[Vessel, ...]:
        """Every vessel, group by group."""
        return tuple(vessel for group in self.groups for vessel in group.vessels)


def group_of(read: Read, place: Place, now: datetime) -> Group:
    """A run's vessels; raises BrokenRun."""
    return fenced(read.run, read.entries, "shown", lambda entries: _group(read.upto(entries), place, now))


def clock_calls(read: Read) -> tuple[Called, ...]:
    """What the clock calls in a run; nothing while a load is held (the ladder's)."""
    calls = read.method.called(read.facts, read.school)
    if any(c.by == "load" for c in calls):
        return ()
    return tuple(c for c in calls if c.by == "clock")


def starts_of(calls: Sequence[Called]) -> tuple[tuple[Called, tuple[Block, ...]], ...]:
    """What of a run can be started by itself, with the hands of all that begins with it.

    What has no start of its own begins with the first that has one.
    """
    own = [c for c in calls if c.begin_field]
    found = []
    for i, one in enumerate(own):
        together = [one, *(c for c in calls if not c.begin_field)] if i == 0 else [one]
        hands_ = [b for c in together for b in (blocks_of(c) if c is one else blocks_of(c)[1:])]
        found.append((one, _apart(hands_)))
    return tuple(found)


def _apart(blocks: Iterable[Block]) -> tuple[Block, ...]:
    """Blocks that overlap or touch as one each, with the first one's label."""
    found: list[Block] = []
    for block in sorted(blocks):
        if found and block.begin_s <= found[-1].end_s:
            last = found.pop()
            block = Block(last.begin_s, max(last.end_s, block.end_s), last.label)
        found.append(block)
    return tuple(found)


def belongs(path: str, called: Called, alone: bool) -> bool:
    """Whether a reading's path is of what is called: its start, its plan, or a row of its own."""
    if not path:
        return False
    if path in (called.begin_field, called.plan_field):
        return True
    found = paths.parse(path)
    if not found.rows or found.rows[-1][0] != called.key:
        return False
    return alone or called.only_row is None or found.row == called.only_row


def _group(read: Read, place: Place, now: datetime) -> Group:
    calls = clock_calls(read)
    assert calls
    advice = read.method.advised(read.facts, read.school, read.outcome, now)
    several = len(calls) > 1
    vessels = tuple(
        _vessel(read, place, now, called, advice, f"{read.run.code}:{i}" if several else read.run.code, not several)
        for i, called in enumerate(calls)
    )
    stage = min((v.stage for v in vessels), key=RANK.__getitem__)
    exact = any(c.is_exact for c in calls)
    return Group(read.run.code, read.method.title, place.words, exact, vessels, advice.headline, stage)


def _level(called: Called, now: datetime) -> float | None:
    """How far it has come, as the eye sees it: to its end after about a day; or how full its method says it is."""
    if called.filled is not None:
        return called.filled
    if called.began_at is None:
        return None
    return min(1.0, math.log1p(max(minutes_between(called.began_at, now), 0.0)) / math.log1p(1440))


def _vessel(read: Read, place: Place, now: datetime, called: Called, advice: Advice, name: str, alone: bool) -> Vessel:
    record = read.folded.record
    found = slots(called, now)
    planned = paths.reading_at(record, called.plan_field) if called.plan_field else None
    stage: Stage = "preparing"
    if called.over:
        stage = "done"
    elif called.began_at is not None:
        stage = "running" if any(s.state in ("next", "ahead") for s in found) else "done"
    elif planned is not None:
        stage = "planned"
    elif called.ready:
        stage = "ready"
    last: dict[str, float] = {}
    for row in paths.reading_at(record, called.key) or ():
        for f in (*called.reads, *((called.after_field,) if called.after_field else ())):
            value = getattr(row, f)
            if isinstance(value, float):
                last[f] = value
    return Vessel(
        id=name,
        code=read.run.code,
        name=called.name or read.run.code,
        words=place.words,
        stage=stage,
        school=read.school.title,
        started_at=called.began_at,
        planned_at=planned if called.began_at is None else None,
        slots=found,
        advice=advice,
        dues=tuple(d for d in advice.due if belongs(d.path, called, alone)),
        level=_level(called, now),
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


def _is_moment(record: RecordPart, path: str) -> bool:
    """Whether what is called is noted by its moment alone."""
    field = paths.field_of(type(record), path)
    return field is not None and kind_of(field)[0] == "moment"


def calls_of(vessel: Vessel, record: RecordPart, now: datetime) -> list[Call]:
    """A vessel's calls, soonest first: what is late, the gauge in, the reading, what is still owed after one."""
    found: list[Call] = []
    called, name, code = vessel.called, vessel.name, vessel.code

    def add(
        at: datetime, what: str, kind: Kind, due: Due, after: str = "", late: float = 0.0, is_in: bool = False
    ) -> None:
        window = due.window_s if due.at is not None else 60
        found.append(Call(at, code, vessel.id, name, what, kind, due.path, after, window, late, due.hands_s, is_in))

    # What waits is called once, for its next reading: those behind it wait for that one.
    waiting = [d for d in vessel.dues if d.at is not None and d.window_s is None]
    for due in (d for d in vessel.dues if d not in waiting[1:]):
        field = paths.field_name(due.path) if due.path else ""
        if called.after_field and field == called.after_field and due.at is None:
            add(now, f"{_title(record, due.path)} of {name}", "after", due)
            continue
        if due.at is None:
            continue
        late = 0.0 if due.window_s is None else max(0.0, (now - due.at).total_seconds() - due.window_s)
        row = paths.parse(due.path).row
        reading = field in called.reads and row is not None
        after = called.path(row, called.after_field) if reading and row is not None and called.after_field else ""
        starting = due.path == called.begin_field
        if due.lead_s and due.since and due.since > now - timedelta(seconds=5):
            what = called.prepares.replace("{}", name) if starting else f"{called.gauge} into {name}"
            add(due.since, what, "shake" if starting else "insert", due, after)
        if starting:
            add(due.at, called.start_words(name), "start", due, after, late)
        elif _is_moment(record, due.path):
            add(due.at, f"{called.does} {called.words}", "mark", due, after, late)
        else:
            add(due.at, f"{called.does} {due.label}", "read", due, after, late, _is_in(record, called, due.path))
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


class Startable(NamedTuple):
    """A vessel that is ready, with the hands of all that begins with it."""

    vessel: Vessel
    hands: tuple[Block, ...]


def startable(groups: Iterable[Group]) -> list[Startable]:
    """Everything that can be started now, group by group."""
    found = []
    for group in groups:
        for code in dict.fromkeys(v.code for v in group.vessels):
            mine = [v for v in group.vessels if v.code == code]
            for one, hands_ in starts_of([v.called for v in mine]):
                vessel = next(v for v in mine if v.called is one)
                if vessel.stage == "ready":
                    found.append(Startable(vessel, hands_))
    return found


def proposals_of(
    ready: Sequence[Startable], busy: Sequence[Block], base: datetime
) -> tuple[tuple[Proposal, ...], bool, float]:
    """Start times of all that is ready together, with the least total delay; and what each would cost at once."""
    if not ready:
        return (), True, 0.0
    patterns = [one.hands for one in ready]
    earliest = max(-p[0].begin_s for p in patterns)
    plan = _planned(tuple(patterns), tuple(busy), earliest)
    found = []
    for i, (vessel, hands_) in enumerate(ready):
        start = base + timedelta(seconds=plan.starts_s[i]) if plan.starts_s else None
        clean = next_start_s(hands_, busy, earliest)
        clashes = clashes_at(earliest, hands_, busy)
        said = dict.fromkeys(f"{c.mine.label} against {c.other.label}" for c in clashes)
        found.append(
            Proposal(
                id=vessel.id,
                code=vessel.code,
                name=vessel.name,
                start_at=start,
                clean_at=None if clean is None else base + timedelta(seconds=clean),
                suffers=tuple(said),
                hands=hands_,
            )
        )
    return tuple(found), plan.proved, (plan.total_delay_s - earliest * len(ready)) / 60


def _together(groups: Iterable[Group]) -> tuple[Group, ...]:
    """Runs of one test with a vessel each as one group, where its first stands."""
    found: dict[str, Group] = {}
    for group in groups:
        key = group.title if len(group.vessels) == 1 else group.code
        if key in found:
            was = found[key]
            found[key] = was._replace(code="", words="", vessels=(*was.vessels, *group.vessels))
        else:
            found[key] = group
    return tuple(found.values())


def rack(reads: Sequence[tuple[Read, Place]], moments: Iterable[Moment], now: datetime) -> Rack:
    """The rack at now. `moments` are those of every run in hand: what else needs hands is not planned over."""
    base = base_of(now)
    # A vessel that cannot be shown is told on the bench, and the rack goes on.
    timed = [pair for pair in reads if clock_calls(pair[0])]
    pairs, _ = apart(timed, lambda pair: (group_of(*pair, now), pair[0]))
    calls = [c for group, read in pairs for v in group.vessels for c in calls_of(v, read.folded.record, now)]
    order = {"after": 0, "read": 1, "mark": 1, "start": 1, "insert": 2, "shake": 2}
    calls.sort(key=lambda c: (c.at, c.window_s is None, order[c.kind], c.name))
    groups = _together(sorted((g for g, _ in pairs), key=lambda g: (RANK[g.stage], not g.exact, g.code)))
    proposals, proved, delay = proposals_of(startable(groups), busy_of(moments, base), base)
    return Rack(groups, tuple(calls), proposals, proved, delay)


def slot_words(slot: Slot) -> str:
    """A scheduled reading and how it stands, for the list under a vessel."""
    word = minutes_words(slot.at)
    if slot.state in ("late", "early"):
        return f"{word} {abs(slot.off_s):.0f} s {slot.state}"
    return f"{word} {slot.state}" if slot.state == "missed" else word
