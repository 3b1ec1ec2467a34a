"""What lies where: each tin, mould, cylinder or cell that holds a soil now, and the field that waits for it."""

import re
from collections.abc import Iterator
from datetime import datetime
from functools import cache
from typing import Any, Literal, NamedTuple

from sqlmodel import Session

from vadum.bench.foreman import Foreman
from vadum.bench.moments import Moment
from vadum.soil.contract import paths
from vadum.soil.contract.fields import RecordPart
from vadum.tape import kit
from vadum.tape.fence import BrokenRun
from vadum.tape.runs import Read

DRY, WET = "mass_dry_g", "mass_wet_g"
Where = Literal["to be filled", "wet on the bench", "in the oven", "may come out", "in use"]


class Lying(NamedTuple):
    """A vessel with soil in it: the run it belongs to, the field that waits for it, since when and until when."""

    kind: str
    code: str
    run_code: str
    method_title: str
    place: str
    path: str
    asks: str
    where: Where
    since: datetime | None
    ready: datetime | None
    shelf: str

    @property
    def href(self) -> str:
        """The desk, at the field that waits."""
        return f"/runs/{self.run_code}" + (f"?field={self.path}" if self.path else "")

    @property
    def words(self) -> str:
        """As it is said: `tin 38`."""
        return f"{kit.one_of(self.kind)} {self.code}"


def parts_of(record: RecordPart, prefix: str = "") -> Iterator[tuple[str, RecordPart]]:
    """A record and those of its rows that name a vessel, rows in rows too, with the path of their fields' parent."""
    yield prefix, record
    for name in _lists_with_vessels(type(record)):
        for i, row in enumerate(getattr(record, name)):
            yield from parts_of(row, paths.at(paths.of(prefix, name), i))


@cache
def _lists_with_vessels(model: type[RecordPart]) -> tuple[str, ...]:
    """The lists whose rows, or rows within them, name a vessel: a logger's thousands of readings name none."""
    found = []
    for name in model.model_fields:
        rows = paths.rows_model(model, name)
        if rows is not None and (set(kit.VESSELS) & set(rows.model_fields) or _lists_with_vessels(rows)):
            found.append(name)
    return tuple(found)


def _field(prefix: str, name: str) -> str:
    return paths.of(prefix, name) if prefix else name


def _title(read: Read, path: str) -> str:
    field = paths.field_of(read.method.Record, path)
    return (field.title if field else "") or ""


class _Looked(NamedTuple):
    """A run in hand as it is looked through."""

    read: Read
    moments: list[Moment]
    now: datetime
    words: str

    def wait_of(self, name: str) -> Moment | None:
        """The moment that waits in the heat and names this tin."""
        said = re.compile(rf"(?<![\w.-]){re.escape(name)}(?![\w-])")
        return next((m for m in self.moments if m.due.kind == "wait" and said.search(m.due.label or m.due.what)), None)

    def shelf_of(self, code: str) -> str:
        """The shelf it was last said to stand on."""
        said = (e.value for e in reversed(self.read.folded.events) if e.path == "@shelf")
        return next((str(v["shelf"]) for v in said if v.get("tin") == code), "")

    def lying(self, kind: str, code: str, path: str, where: Where, since: Any, ready: datetime | None) -> Lying:
        """With the run's own words."""
        asks, shelf = _title(self.read, path) if path else "", self.shelf_of(code)
        run, method = self.read.run.code, self.read.method.title
        return Lying(kind, code, run, method, self.words, path, asks, where, since, ready, shelf)


def _tin(run: _Looked, prefix: str, part: Any) -> Lying | None:
    """A tin of a run: what it waits for, or None when it is dry, weighed and free."""
    if getattr(part, "excluded_because", None):
        return None
    read, code = run.read, str(part.tin)
    wait = run.wait_of(code)
    rows = getattr(part, "weighings", None)
    if getattr(part, WET, None) is None:
        since = read.folded.came_from.get(_field(prefix, "tin"))
        return run.lying("tin", code, _field(prefix, WET), "to be filled", since.at if since else None, None)
    if rows is None:
        path, dried = _field(prefix, DRY), getattr(part, DRY, None) is not None
    else:
        weighed = sum(row.mass_dry_g is not None for row in rows)
        path, dried = _field(paths.at(_field(prefix, "weighings"), weighed), DRY), weighed > 0 and wait is None
    if dried:
        return None
    if wait is None:
        wet = read.folded.came_from.get(_field(prefix, WET))
        return run.lying("tin", code, path, "wet on the bench", wet.at if wet else None, None)
    ready = wait.due.at
    out: Where = "may come out" if ready is not None and ready <= run.now else "in the oven"
    return run.lying("tin", code, path, out, wait.due.since, ready)


def _others(run: _Looked, prefix: str, part: RecordPart) -> Iterator[Lying]:
    """Moulds, cylinders and cells: they hold the soil until nothing but the oven is waited for."""
    ahead = [m for m in run.moments if not (m.due.kind == "wait" and paths.field_name(m.due.path) == DRY)]
    for kind in kit.VESSELS:
        code = getattr(part, kind, None)
        if kind == "tin" or not isinstance(code, str) or not ahead:
            continue
        path = next((m.due.path for m in ahead if m.due.path and paths.parse(m.due.path).parent == prefix), "")
        named = run.read.folded.came_from.get(_field(prefix, kind))
        yield run.lying(kind, code, path or ahead[0].due.path, "in use", named.at if named else None, ahead[0].due.at)


def lying(session: Session, foreman: Foreman, now: datetime) -> list[Lying]:
    """Everything that lies in a run in hand; of a run that cannot be read, nothing is known."""
    found: list[Lying] = []
    for run, moments in foreman.in_hand(session, now):
        try:
            looked = _Looked(foreman.read(session, run.id), moments, now, run.words)
        except BrokenRun:
            continue
        for prefix, part in parts_of(looked.read.folded.record):
            if getattr(part, "tin", None):
                tin = _tin(looked, prefix, part)
                found += [tin] if tin else []
            found += _others(looked, prefix, part)
    return found


def in_the_oven(found: list[Lying]) -> list[Lying]:
    """The tins that dry, those that may come out first, then by the time they may; of one time by shelf and number."""
    tins = [one for one in found if one.where in ("in the oven", "may come out")]
    return sorted(tins, key=lambda t: (t.where != "may come out", t.ready or datetime.max, t.shelf, _number(t.code)))


def _number(code: str) -> tuple[int, str]:
    digits = re.search(r"\d+", code)
    return int(digits.group()) if digits else 0, code
