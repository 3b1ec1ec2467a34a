"""The rack: everything that the clock calls, of all runs as one, and start times that do not clash."""

from collections.abc import Iterable, Sequence
from datetime import datetime, timedelta
from typing import Literal, NamedTuple

from vadum.bench.moments import Moment
from vadum.bench.start_plans import Proposal, base_of, busy_of, proposals_of, startable
from vadum.bench.vessels import RANK, Group, Vessel, clock_calls, group_of, together
from vadum.soil.contract import paths
from vadum.soil.contract.called import Called
from vadum.soil.contract.fields import RecordPart, kind_of
from vadum.soil.contract.outcome import Due
from vadum.tape.fence import apart
from vadum.tape.ground import Place
from vadum.tape.runs import Read

Kind = Literal["insert", "read", "after", "shake", "start", "mark"]


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


def rack(reads: Sequence[tuple[Read, Place]], moments: Iterable[Moment], now: datetime) -> Rack:
    """The rack at now. `moments` are those of every run in hand: what else needs hands is not planned over."""
    base = base_of(now)
    # A vessel that cannot be shown is told on the bench, and the rack goes on.
    timed = [pair for pair in reads if clock_calls(pair[0])]
    pairs, _ = apart(timed, lambda pair: (group_of(*pair, now), pair[0]))
    calls = [c for group, read in pairs for v in group.vessels for c in calls_of(v, read.folded.record, now)]
    order = {"after": 0, "read": 1, "mark": 1, "start": 1, "insert": 2, "shake": 2}
    calls.sort(key=lambda c: (c.at, c.window_s is None, order[c.kind], c.name))
    groups = together(sorted((g for g, _ in pairs), key=lambda g: (RANK[g.stage], not g.exact, g.code)))
    proposals, proved, delay = proposals_of(startable(groups), busy_of(moments, base), base)
    return Rack(groups, tuple(calls), proposals, proved, delay)
