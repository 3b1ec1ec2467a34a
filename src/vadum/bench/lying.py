"""What lies where: each tin, mould, cylinder or cell that holds a soil now, and the field that waits for it."""

import re
from collections.abc import Iterator
from datetime import datetime
from functools import partial
from typing import Any, Literal, NamedTuple

from sqlmodel import Session

from vadum.bench.foreman import Foreman, InHand
from vadum.bench.moments import Moment
from vadum.soil.contract import paths, tins
from vadum.soil.contract.fields import RecordPart
from vadum.tape import kit
from vadum.tape.fence import BrokenRun
from vadum.tape.runs import Read

VESSELS = frozenset(kit.VESSELS)
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
    if getattr(part, tins.WET, None) is None:
        since = read.folded.came_from.get(tins.inside(prefix, "tin"))
        return run.lying("tin", code, tins.inside(prefix, tins.WET), "to be filled", since.at if since else None, None)
    weighed = tins.dry_weighings(part)
    # A tin with several dry weighings is done when none is waited for; one with a single field, when it is filled.
    if weighed and (wait is None or getattr(part, tins.WEIGHINGS, None) is None):
        return None
    path = tins.next_dry(part, prefix)
    if wait is None:
        wet = read.folded.came_from.get(tins.inside(prefix, tins.WET))
        return run.lying("tin", code, path, "wet on the bench", wet.at if wet else None, None)
    ready = wait.due.at
    out: Where = "may come out" if ready is not None and ready <= run.now else "in the oven"
    return run.lying("tin", code, path, out, wait.due.since, ready)


def _others(run: _Looked, prefix: str, part: RecordPart) -> Iterator[Lying]:
    """Moulds, cylinders and cells: they hold the soil until nothing but the oven is waited for."""
    ahead = [m for m in run.moments if not tins.is_only_drying(m.due.kind, m.due.path)]
    for kind in kit.VESSELS:
        code = getattr(part, kind, None)
        if kind == "tin" or not isinstance(code, str) or not ahead:
            continue
        path = next((m.due.path for m in ahead if m.due.path and paths.parse(m.due.path).parent == prefix), "")
        named = run.read.folded.came_from.get(tins.inside(prefix, kind))
        yield run.lying(kind, code, path or ahead[0].due.path, "in use", named.at if named else None, ahead[0].due.at)


def lying(session: Session, foreman: Foreman, now: datetime) -> list[Lying]:
    """Everything that lies in a run in hand; of a run that cannot be read, nothing is known."""
    found: list[Lying] = []
    for run, moments in foreman.in_hand(session, now):
        make = partial(_of_run, session, foreman, now, run, moments)
        found += foreman.kept(run, foreman.dues(session, run, now), make)
    return found


def _of_run(session: Session, foreman: Foreman, now: datetime, run: InHand, moments: list[Moment]) -> tuple[Lying, ...]:
    try:
        looked = _Looked(foreman.read(session, run.id), moments, now, run.words)
    except BrokenRun:
        return ()
    found: list[Lying] = []
    for prefix, part in tins.naming(looked.read.folded.record, VESSELS):
        if getattr(part, "tin", None):
            tin = _tin(looked, prefix, part)
            found += [tin] if tin else []
        found += _others(looked, prefix, part)
    return tuple(found)


def in_the_oven(found: list[Lying]) -> list[Lying]:
    """The tins that dry, those that may come out first, then by the time they may; of one time by shelf and number."""
    tins = [one for one in found if one.where in ("in the oven", "may come out")]
    return sorted(tins, key=lambda t: (t.where != "may come out", t.ready or datetime.max, t.shelf, _number(t.code)))


def _number(code: str) -> tuple[int, str]:
    digits = re.search(r"\d+", code)
    return int(digits.group()) if digits else 0, code
