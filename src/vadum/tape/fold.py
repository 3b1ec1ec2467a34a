"""From a tape to a record: a pure function of the entries."""

from collections.abc import Callable, Iterable
from datetime import timedelta
from functools import cache
from typing import Any, NamedTuple

from pydantic import ValidationError

from vadum.soil.contract import paths
from vadum.soil.contract.block import is_block, rows_in, rows_of
from vadum.soil.contract.fields import RecordPart
from vadum.soil.contract.outcome import Verdict
from vadum.soil.contract.times import span
from vadum.tape.entries import EVENTS, Taped, TapeError


class Laid(NamedTuple):
    """A block as it lies in its list: its first row, how many there are, and the entry that holds it."""

    first: int
    many: int
    entry: Taped


class Origins(dict[str, Taped]):
    """The entry that each place came from. The places of a block are told by where it lies, not one by one."""

    def __init__(self) -> None:
        super().__init__()
        self.blocks: dict[str, list[Laid]] = {}

    def _block_at(self, path: str) -> Taped | None:
        if not self.blocks or "[" not in path:
            return None
        place = paths.parse(path)
        if not place.rows or place.is_row:
            return None
        name, row = place.rows[-1]
        for laid in self.blocks.get(name, ()):
            if laid.first <= row < laid.first + laid.many:
                cells = laid.entry.value["columns"].get(place.name)
                return laid.entry if cells is not None and cells[row - laid.first] not in (None, "") else None
        return None

    def get(self, path: str, default: Any = None) -> Any:
        """The entry that stands at a path, or the default."""
        found = super().get(path)
        return found if found is not None else (self._block_at(path) or default)

    def __contains__(self, path: object) -> bool:
        return super().__contains__(path) or (isinstance(path, str) and self._block_at(path) is not None)

    def __missing__(self, path: str) -> Taped:
        found = self._block_at(path)
        if found is None:
            raise KeyError(path)
        return found


def value_in(entry: Taped, path: str) -> Any:
    """What an entry says at a path: its value, or that of the field of its row or of its block's row."""
    if is_block(entry.value):
        place, first = paths.parse(path), paths.parse(entry.path).row or 0
        cells = entry.value["columns"].get(place.name)
        return None if cells is None or place.row is None else cells[place.row - first]
    if isinstance(entry.value, dict):
        return entry.value.get(paths.field_name(path))
    return entry.value


class Collision(NamedTuple):
    """Two readings for one place: the one that stands, and the one that came after it."""

    path: str
    first: Taped
    second: Taped


class Folded(NamedTuple):
    """The record, which entry each place came from, what collided, and the run's events."""

    record: RecordPart
    came_from: Origins
    collisions: tuple[Collision, ...]
    events: tuple[Taped, ...]
    struck: dict[str, Taped]

    def typed(self, path: str) -> Any:
        """The value that stands at a path, as it was typed; None where nothing stands."""
        entry = self.came_from.get(path)
        return None if entry is None else value_in(entry, path)

    def last_event(self, path: str) -> Taped | None:
        """The newest event of that kind."""
        return next((e for e in reversed(self.events) if e.path == path), None)


def _places(entry: Taped) -> list[tuple[str, Any]]:
    """The places an entry fills: one, or one per field of its row."""
    if isinstance(entry.value, dict):
        return [(f"{entry.path}.{field}", value) for field, value in entry.value.items() if value is not None]
    return [(entry.path, entry.value)]


class _Tree:
    """The data of a record while it is folded: rows in rows grow as entries name them."""

    def __init__(self) -> None:
        self.data: dict[str, Any] = {}

    def row(self, list_path: tuple[paths.Step, ...], many: int) -> list[dict[str, Any]]:
        """The list at a path, with room for so many rows."""
        part = self.data
        for step in list_path[:-1]:
            rows = part.setdefault(step.name, [])
            rows += [{} for _ in range((step.row or 0) + 1 - len(rows))]
            part = rows[step.row or 0]
        found: list[dict[str, Any]] = part.setdefault(list_path[-1].name, [])
        found += [{} for _ in range(many - len(found))]
        return found

    def put(self, path: paths.Path, value: Any) -> None:
        """A value at its place."""
        *before, last = path.steps
        if not before:
            self.data[last.name] = value
            return
        row = before[-1].row or 0
        self.row(tuple(before), row + 1)[row][last.name] = value


@cache
def _has_moments(model: type[RecordPart]) -> dict[str, list[str]]:
    """Fields that are the moment of others, with those others."""
    found = {}
    for name, field in model.model_fields.items():
        extra = field.json_schema_extra
        sources: Any = extra.get("moment_of") if isinstance(extra, dict) else None
        if sources:
            found[name] = [sources] if isinstance(sources, str) else list(sources)
    return found


@cache
def _is_timed(model: type[RecordPart]) -> bool:
    """Whether a row, or a row within it, has a field that is the moment of another."""
    return bool(_has_moments(model)) or any(True for _ in paths.lists(model))


@cache
def _stays(model: type[RecordPart], name: str) -> bool:
    """Whether a moment is that of a call: a reading that is corrected was still read when it was called."""
    extra = model.model_fields[name].json_schema_extra
    return isinstance(extra, dict) and bool(extra.get("of_the_call"))


def _first_read(entry: Taped, by_id: dict[str, Taped]) -> Taped:
    """The reading that was corrected, and that one's, back to the first."""
    while True:
        replaced = next((by_id[i] for i in entry.strikes if i in by_id and by_id[i].path == entry.path), None)
        if replaced is None or replaced.seq >= entry.seq:
            return entry
        entry = replaced


def _fill_moments(
    model: type[RecordPart], part: dict[str, Any], prefix: str, came_from: Origins, by_id: dict[str, Taped]
) -> None:
    """A field that is the moment of another takes its entry's time, unless it was typed.

    A corrected call keeps the time of the reading it replaces. The rows of a block have no moments of their own: the
    block came in at once.
    """
    for name, sources in _has_moments(model).items():
        if name in part:
            continue
        for source in sources:
            entry = dict.get(came_from, f"{prefix}{source}")
            if entry:
                part[name] = (_first_read(entry, by_id) if _stays(model, name) else entry).at
    for name in part:
        inner = paths.rows_model(model, name)
        if inner is not None and _is_timed(inner):
            for index, row in enumerate(part[name]):
                _fill_moments(inner, row, f"{prefix}{name}[{index}].", came_from, by_id)


def fold(entries: list[Taped], record: type[RecordPart]) -> Folded:
    """The record the entries make. Of two readings for one place the earlier stands, and the collision is told.

    Raises TapeError on an unknown kind of entry or a tape that no longer fits its record.
    """
    struck = {target: entry for entry in entries for target in entry.strikes}
    tree, came_from = _Tree(), Origins()
    collisions: list[Collision] = []
    events: list[Taped] = []
    for entry in entries:
        if entry.path.startswith("@"):
            if entry.path not in EVENTS:
                raise TapeError(f"unknown kind of entry {entry.path!r} at {entry.seq}")
            events.append(entry)
            continue
        written = paths.as_named_now(record, entry.path)
        if not written:
            continue  # a reading that a former version asked for: it stays on the tape
        place = paths.parse(written)
        if is_block(entry.value):
            if entry.id not in struck:
                _lay_block(record, tree, came_from, place, entry)
            continue
        if place.rows:
            # A struck row keeps its number: later entries name rows by it.
            steps = place.steps if place.is_row else place.steps[:-1]
            tree.row(steps, (steps[-1].row or 0) + 1)
        if entry.value is None or entry.id in struck:
            continue
        for formerly, value in _places(entry):
            path = paths.as_named_now(record, formerly)
            if not path:
                continue
            if path in came_from:
                collisions.append(Collision(path, came_from[path], entry))
                continue
            tree.put(paths.parse(path), value)
            came_from[path] = entry
    _fill_moments(record, tree.data, "", came_from, {e.id: e for e in entries})
    try:
        folded = record.model_validate(tree.data)
    except ValidationError as error:
        first = error.errors()[0]
        raise TapeError(f"the tape does not fit its record at {first['loc']}: {first['msg']}") from error
    return Folded(folded, came_from, tuple(collisions), tuple(events), struck)


def _lay_block(record: type[RecordPart], tree: _Tree, came_from: Origins, place: paths.Path, entry: Taped) -> None:
    """The rows of a block into their list, from the row its path names on."""
    first, many = place.row or 0, rows_in(entry.value)
    rows = tree.row(place.steps, first + many)
    names: dict[str, str] = {}
    for i, cells in enumerate(rows_of(entry.value), first):
        for name in cells.keys() - names.keys():
            names[name] = paths.as_named_now(record, f"{place.rows[-1][0]}[0].{name}").rpartition(".")[2]
        rows[i].update({names[name]: value for name, value in cells.items() if names[name]})
    came_from.blocks.setdefault(place.rows[-1][0], []).append(Laid(first, many, entry))


def collision_verdicts(folded: Folded, called: Callable[[str], str]) -> tuple[Verdict, ...]:
    """One *redo* for each place that was entered twice; `called` says a place in words."""
    found = []
    for path, first, second in folded.collisions:
        one, other = value_in(first, path), value_in(second, path)
        found.append(
            Verdict(
                rule="one reading for one place",
                level="redo",
                found=f"{called(path)}: {one} by {first.by}, {other} by {second.by}",
                limit="one that stands",
                source="the tape",
                remedy=f"{one} stands until one of the two is struck.",
                at=(path,),
            )
        )
    return tuple(found)


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
