"""From a tape to a record: a pure function of the entries."""

from collections.abc import Iterable
from datetime import timedelta
from typing import Any, NamedTuple

from pydantic import ValidationError

from vadum.soil.contract.fields import RecordPart
from vadum.soil.contract.outcome import Verdict
from vadum.soil.contract.times import span
from vadum.tape.entries import EVENTS, Taped, TapeError


class Folded(NamedTuple):
    """The record, which entry each place came from, what collided, and the run's events."""

    record: RecordPart
    came_from: dict[str, Taped]
    collisions: tuple[tuple[Taped, Taped], ...]
    events: tuple[Taped, ...]
    struck: dict[str, Taped]

    def typed(self, path: str) -> Any:
        """The value that stands at a path, as it was typed; None where nothing stands."""
        entry = self.came_from.get(path)
        if entry is None:
            return None
        return entry.value.get(path.rpartition(".")[2]) if isinstance(entry.value, dict) else entry.value

    def last_event(self, path: str) -> Taped | None:
        """The newest event of that kind."""
        return next((e for e in reversed(self.events) if e.path == path), None)


def _places(entry: Taped) -> list[tuple[str, Any]]:
    """The places an entry fills: one, or one per field of its row."""
    if isinstance(entry.value, dict):
        return [(f"{entry.path}.{field}", value) for field, value in entry.value.items() if value is not None]
    return [(entry.path, entry.value)]


def _nested(values: dict[str, Any], rows: dict[str, int]) -> dict[str, Any]:
    data: dict[str, Any] = {name: [{} for _ in range(count)] for name, count in rows.items()}
    for path, value in values.items():
        name, bracket, rest = path.partition("[")
        if bracket:
            index, _, field = rest.partition("].")
            data[name][int(index)][field] = value
        else:
            data[name] = value
    return data


def _fill_moments(record: type[RecordPart], data: dict[str, Any], came_from: dict[str, Taped]) -> None:
    """A field that is the moment of another takes its entry's time, unless it was typed."""

    def fill(model: type[RecordPart], part: dict[str, Any], prefix: str) -> None:
        for name, field in model.model_fields.items():
            extra = field.json_schema_extra
            sources: Any = extra.get("moment_of") if isinstance(extra, dict) else None
            if not sources or name in part:
                continue
            for source in [sources] if isinstance(sources, str) else sources:
                entry = came_from.get(f"{prefix}{source}")
                if entry:
                    part[name] = entry.at

    fill(record, data, "")
    for name, field in record.model_fields.items():
        if field.default == () and name in data:
            row_model = field.annotation.__args__[0]  # type: ignore[union-attr]
            for index, row in enumerate(data[name]):
                fill(row_model, row, f"{name}[{index}].")


def fold(entries: list[Taped], record: type[RecordPart]) -> Folded:
    """The record the entries make. Of two readings for one place the earlier stands, and the collision is told.

    Raises TapeError on an unknown kind of entry or a tape that no longer fits its record.
    """
    struck = {target: entry for entry in entries for target in entry.strikes}
    values: dict[str, Any] = {}
    came_from: dict[str, Taped] = {}
    collisions: list[tuple[Taped, Taped]] = []
    events: list[Taped] = []
    rows: dict[str, int] = {}
    for entry in entries:
        if entry.path.startswith("@"):
            if entry.path not in EVENTS:
                raise TapeError(f"unknown kind of entry {entry.path!r} at {entry.seq}")
            events.append(entry)
            continue
        name, bracket, rest = entry.path.partition("[")
        if bracket:
            # A struck row keeps its number: later entries name rows by it.
            rows[name] = max(rows.get(name, 0), int(rest.partition("]")[0]) + 1)
        if entry.value is None or entry.id in struck:
            continue
        for path, value in _places(entry):
            if path in values:
                collisions.append((came_from[path], entry))
                continue
            values[path] = value
            came_from[path] = entry
    data = _nested(values, rows)
    _fill_moments(record, data, came_from)
    try:
        folded = record.model_validate(data)
    except ValidationError as error:
        first = error.errors()[0]
        raise TapeError(f"the tape does not fit its record at {first['loc']}: {first['msg']}") from error
    return Folded(folded, came_from, tuple(collisions), tuple(events), struck)


def collision_verdicts(folded: Folded) -> tuple[Verdict, ...]:
    """One *redo* for each place that was entered twice."""
    return tuple(
        Verdict(
            rule="one reading for one place",
            level="redo",
            found=f"{second.path}: {first.value} by {first.by}, {second.value} by {second.by}",
            limit="one that stands",
            source="the tape",
            remedy=f"{first.value} stands until one of the two is struck.",
            at=(second.path,),
        )
        for first, second in folded.collisions
    )


def clock_verdicts(folded: Folded) -> tuple[Verdict, ...]:
    """A *watch* where the laboratory's clock was set back while the run was open: times between are doubtful."""
    return tuple(
        Verdict(
            rule="the clock goes forward",
            level="watch",
            found=f"it went back by {span(float(event.value['back_s']) / 60)} before entry {event.seq + 1}",
            limit="never back",
            source="the tape",
            remedy="Look at the times of the readings around it.",
        )
        for event in folded.events
        if event.path == "@clock"
    )


def passed(entries: Iterable[Taped]) -> timedelta:
    """How far a practice run's own time is ahead of the clock."""
    return timedelta(seconds=sum(float(e.value["seconds"]) for e in entries if e.path == "@passed"))
