"""The rack's words: the call that is due, with its fields, and the sheet of calls."""

from datetime import datetime, timedelta
from typing import Any, NamedTuple

from vadum.bench.moments import SOON
from vadum.bench.rack import Call, Rack
from vadum.bench.vessels import Vessel, slot_words
from vadum.soil.contract import paths
from vadum.soil.contract.fields import RecordPart, unit_of
from vadum.soil.contract.times import exact, span

SHOWN = timedelta(minutes=75)  # of the line of the hands
PAST = timedelta(minutes=4)
FREE_MIN = 4.0
LABEL_GAP = 5.0
MOST_LINES = 28  # of the call sheet


class Stone(NamedTuple):
    """A call on the line of the hands: where it lies and how wide it is, in hundredths of the line."""

    lane: str
    at: float
    wide: float
    label: str
    words: str


class Free(NamedTuple):
    """A stretch of the line in which no exact call comes."""

    begin: float
    end: float
    words: str


class Line(NamedTuple):
    """The line of the hands: what comes at its time, what waits, what is proposed; ticks and free stretches."""

    until: str
    now: float
    stones: tuple[Stone, ...]
    free: tuple[Free, ...]
    ticks: tuple[tuple[float, str], ...]


class _Laying:
    """Lays stones on the line: where a moment lies, and which labels have room."""

    def __init__(self, now: datetime) -> None:
        self.begin, self.whole = now - PAST, (PAST + SHOWN).total_seconds()
        self.stones: list[Stone] = []
        self._last: dict[str, float] = {}

    def share(self, at: datetime) -> float:
        """Where a moment lies, in hundredths of the line."""
        return 100 * (at - self.begin).total_seconds() / self.whole

    def lay(self, lane: str, at: datetime, seconds: float, label: str, words: str) -> None:
        """A stone for hands that are taken from a moment on."""
        where, wide = self.share(at), max(100 * seconds / self.whole, 1.2)
        if not 0 <= where <= 100:
            return
        shown = where - self._last.get(lane, -LABEL_GAP) >= LABEL_GAP
        if shown:
            self._last[lane] = where
        self.stones.append(Stone(lane, where, wide, label if shown else "", words))

    def free(self, now: datetime) -> tuple[Free, ...]:
        """The stretches ahead in which nothing comes at its time."""
        found, edge = [], self.share(now)
        for low, high in [*sorted((s.at, s.at + s.wide) for s in self.stones if s.lane == "exact"), (100.0, 100.0)]:
            minutes = (low - edge) / 100 * self.whole / 60
            if minutes >= FREE_MIN:
                found.append(Free(edge, low, span(minutes)))
            edge = max(edge, high)
        return tuple(found)

    def ticks(self) -> tuple[tuple[float, str], ...]:
        """Every ten minutes, as the clock has them."""
        first = self.begin.replace(second=0, microsecond=0)
        minutes = (first + timedelta(minutes=m) for m in range(int(self.whole / 60) + 2))
        return tuple((self.share(t), f"{t:%H:%M}") for t in minutes if t.minute % 10 == 0 and 0 <= self.share(t) <= 100)


class CallView(NamedTuple):
    """One line of the call sheet."""

    call: Call
    clock: str
    counts_to_ms: int
    late: str


class Asked(NamedTuple):
    """The call the hands are at: its field or fields, and what the steppers begin from."""

    call: Call
    headline: str
    detail: str
    counts_to_ms: int
    fields: tuple[tuple[str, str, str, str, str], ...]
    insert_path: str


def _asked(rack: Rack, now: datetime, pick: str) -> Asked | None:
    """The call to answer: the picked vessel's; else an exact one that is near, else the soonest."""
    answered = [c for c in rack.calls if c.kind in ("read", "after", "start", "mark")]
    mine = [c for c in answered if pick in (c.vessel, c.code, c.name)] if pick else []
    near = [c for c in answered if c.window_s is not None and c.at - now <= SOON]
    call = next(iter(mine or near or answered), None)
    if call is None:
        return None
    vessel = next(v for v in rack.vessels if v.id == call.vessel)
    called = vessel.called
    before = (c for c in rack.calls if c.vessel == call.vessel and c.kind in ("insert", "shake") and c.at <= call.at)
    begin = next(before, None)
    first = begin if begin and begin.at > now and not call.is_in and call.kind in ("read", "start") else call
    if first is not call:
        words = first.what[0].upper() + first.what[1:]
        headline = f"{words} at {exact(first.at, now)}."
        then = called.start_words(call.name) if call.kind == "start" else call.what
        detail = f"Then {then} at {exact(call.at, now)}."
    else:
        ahead = f" at {exact(call.at, now)}" if call.at > now else ""
        headline = f"{call.what[0].upper()}{call.what[1:]}{ahead}."
        detail = called.how if call.kind in ("read", "mark") else ""
        if call.kind == "start":
            detail = "Press Now at the moment it stands: time zero."
        if call.kind == "mark":
            detail = f"{detail} Press Now when it is done.".strip()
        elif call.window_s is None and call.at <= now:
            detail = f"It waits until hands are free. {detail}".strip()
        if call.late_s > 0:
            detail = f"{span(call.late_s / 60)} late: it is kept with its true time. {detail}"
    counts = int(first.at.timestamp() * 1000)
    row = paths.parse(call.path).row
    inserts = call.kind == "read" and not call.is_in and called.insert_field and row is not None
    insert = called.path(row, called.insert_field) if inserts and row is not None else ""
    return Asked(call, headline, detail, counts, _fields(call, vessel, vessel.record), insert)


def _fields(call: Call, vessel: Vessel, record: type[RecordPart]) -> tuple[tuple[str, str, str, str, str], ...]:
    """Path, label, step, last value and kind of each field."""
    if call.kind == "start":
        return ((call.path, "time zero", "", "", "moment"),)
    if call.kind == "mark":
        return ((call.path, "done at", "", "", "moment"),)
    wanted = [call.path]
    row = paths.parse(call.path).row
    if call.kind == "read" and row is not None:
        wanted = [vessel.called.path(row, f) for f in vessel.called.reads]
        wanted = wanted[wanted.index(call.path) :] if call.path in wanted else wanted
    if call.after_path and call.kind == "read":
        wanted.append(call.after_path)
    return tuple(_number(path, vessel, record) for path in dict.fromkeys(wanted))


def _number(path: str, vessel: Vessel, record: type[RecordPart]) -> tuple[str, str, str, str, str]:
    name, field = paths.field_name(path), paths.field_of(record, path)
    unit = unit_of(name)
    title = (field.title if field else None) or name
    extra = field.json_schema_extra if field else None
    step = str(extra.get("step", "")) if isinstance(extra, dict) else ""
    last = f"{vessel.last[name]:g}" if name in vessel.last else ""
    return path, f"{title}, {unit}" if unit else title, step, last, "number"


def _line(rack: Rack, now: datetime) -> Line:
    """The next hour and a quarter as one line for the hands."""
    laying = _Laying(now)
    for call in rack.calls:
        if call.kind in ("insert", "shake", "after"):
            continue
        label = "shake" if call.kind == "mark" else call.name
        lane = "exact" if call.window_s is not None else "patient"
        laying.lay(lane, call.at, call.hands_s, label, f"{call.what} at {exact(call.at, now)}")
    for one in rack.proposals:
        for block in one.hands if one.start_at is not None else ():
            assert one.start_at is not None
            at = one.start_at + timedelta(seconds=block.begin_s)
            label = one.name if block is one.hands[0] else block.label
            laying.lay("proposed", at, block.end_s - block.begin_s, label, f"{one.name}, proposed: {block.label}")
    until = f"{now + SHOWN:%H:%M}"
    return Line(until, laying.share(now), tuple(laying.stones), laying.free(now), laying.ticks())


def rack_values(rack: Rack, now: datetime, pick: str) -> dict[str, Any]:
    """All that the rack's fragments show."""
    views = [
        CallView(
            call,
            exact(call.at, now),
            int(call.at.timestamp() * 1000),
            f"{span(call.late_s / 60)} late" if call.late_s > 0 else "",
        )
        for call in rack.calls
    ]
    return {
        "rack": rack,
        "asked": _asked(rack, now, pick),
        "line": _line(rack, now),
        "calls": views[:MOST_LINES],
        "more_calls": max(0, len(views) - MOST_LINES),
        "exact": exact,
        "slot_words": slot_words,
        "now": now,
        "pick": pick,
    }
