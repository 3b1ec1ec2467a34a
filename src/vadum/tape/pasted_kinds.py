"""What a pasted list may be: tins, locations, samples, a schedule of tests; what each of its lines makes, and how all
that one paste made is undone."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from datetime import date, datetime
from functools import cached_property
from typing import Any, Literal, NamedTuple

from pydantic import BaseModel, ConfigDict, Field, ValidationError
from sqlmodel import Session, SQLModel

from vadum.soil.contract.errors import FieldError
from vadum.soil.contract.fields import PlainNumber
from vadum.soil.contract.method import Method
from vadum.tape import ground, kit, put_right, schedule, specimens
from vadum.tape.codes import refuse_alike
from vadum.tape.ground import NewSample, NewSpot, Place
from vadum.tape.kit import NewItem
from vadum.tape.pasted_list import Column, Line, Listed, read_list
from vadum.tape.runs import NotAllowed
from vadum.tape.tables import Job, KitItem, Owed, Person, Sample, Specimen, Spot

Kind = Literal["tins", "locations", "samples", "schedule"]
MADE_BY_MISTAKE = "entered by mistake, undone"


class Made(BaseModel):
    """One thing that was just made or changed, and what it was before: a tin's mass in g, a test's day and why it stood
    withdrawn. Empty: it was not there."""

    model_config = ConfigDict(extra="forbid")
    what: Literal["tin", "tare", "location", "sample", "test", "specimen"]
    id: int = Field(ge=1, le=2**31 - 1)
    former_g: PlainNumber | None = None
    former_due_on: date | None = None
    withdrawn_because: str = Field("", max_length=schedule.MOST_REASON)


@dataclass
class Doer:
    """For whom a list is made: the session, the job it belongs to, who, when; the day for lines without one."""

    session: Session
    job: Job | None
    by: Person
    now: datetime
    due_on: date | None = None
    taken: dict[str, list[str]] = field(default_factory=dict)

    def refuse_taken(self, key: str, code: str, others: Callable[[], list[str]], words: str) -> None:
        """Raise FieldError for a code that looks like one that is there, or like one of an earlier line."""
        taken = self.taken.setdefault(key, [])
        if not taken:
            taken += others()
        refuse_alike(code, taken, words)
        taken.append(code)

    @cached_property
    def places(self) -> list[Place]:
        """The samples of the job."""
        return ground.places(self.session, self.job.id or 0) if self.job else []

    @cached_property
    def spots(self) -> dict[str, Spot]:
        """The locations of the job by their code, whichever way it is written."""
        return {s.code.casefold(): s for s in ground.spots_of(self.session, self.job)} if self.job else {}

    @cached_property
    def tins(self) -> dict[str, kit.State]:
        """Every tin that was ever registered, by its number."""
        today = self.now.date()
        both = (*kit.states(self.session, today), *kit.states(self.session, today, retired=True))
        return {state.item.code: state for state in both if state.item.kind == "tin"}


# What a line does, in words, and the act itself: who only looks does not act, and holds up nobody's readings.
Act = Callable[[], Made | None]
Planned = tuple[str, Act]


class Result(NamedTuple):
    """A list with what each of its lines does, by their numbers."""

    listed: Listed
    does: Mapping[int, str]


class ListKind(NamedTuple):
    """A kind of list: its columns, what one line would make, and what its things are called."""

    columns: tuple[Column, ...]
    plan: Callable[[Doer, dict[str, str]], Planned]
    noun: str
    grid: bool = False  # may also come as a table with one column for each test


def _checked(model: type[BaseModel], values: dict[str, Any]) -> Any:
    """The model of these values; raises FieldError in the words of its first fault."""
    try:
        return model.model_validate(values)
    except ValidationError as error:
        first = error.errors()[0]
        name = str(first["loc"][0]) if first["loc"] else ""
        raise FieldError(name, str(first["msg"]).removeprefix("Value error, ")) from None


def _tin(doer: Doer, values: dict[str, str]) -> Planned:
    new = _checked(NewItem, {"kind": "tin", "code": values["code"], "title": values.get("title", "")})
    grams = float(values["mass_g"]) if "mass_g" in values else None
    if grams is not None:
        kit.refuse_tare(grams)
    known = doer.tins.get(new.code)
    if known is None:
        codes = lambda: list(doer.tins)  # noqa: E731
        doer.refuse_taken("tins", new.code, codes, "another tin")
        return ("new" if grams is not None else "new, not weighed yet"), lambda: _registered(doer, new, grams)
    retired, before = known.item.retired_at is not None, known.tare_g
    if grams is None:
        does = "taken into use again" if retired else "registered already: nothing to do"
    else:
        does = "weighed for the first time" if before is None else f"weighed again: {before:.12g} g before"
    return does, lambda: _weighed_again(doer, known.item, grams, before, retired)


def _registered(doer: Doer, new: NewItem, grams: float | None) -> Made:
    item = kit.add_item(doer.session, new)
    if grams is not None:
        kit.add_tare(doer.session, item, grams, doer.by.initials, doer.now)
    return Made(what="tin", id=item.id or 0)


def _weighed_again(doer: Doer, item: KitItem, grams: float | None, before: float | None, retired: bool) -> Made | None:
    if retired:
        kit.take_back(doer.session, item, doer.by.initials, doer.now)
    if grams is not None:
        kit.add_tare(doer.session, item, grams, doer.by.initials, doer.now)
    if retired:
        return Made(what="tin", id=item.id or 0)
    return Made(what="tare", id=item.id or 0, former_g=before) if grams is not None else None


def _location(doer: Doer, values: dict[str, str]) -> Planned:
    job, new = doer.job, _checked(NewSpot, values)
    assert job is not None
    codes = lambda: [s.code for s in doer.spots.values()]  # noqa: E731
    doer.refuse_taken("locations", new.code, codes, "another location of this job")
    return f"new {new.kind}", lambda: Made(what="location", id=ground.add_spot(doer.session, job, new).id or 0)


def _sample(doer: Doer, values: dict[str, str]) -> Planned:
    assert doer.job is not None
    where = values["location"]
    spot = doer.spots.get(where.strip().casefold())
    if spot is None:
        raise FieldError("location", f"{where[:30]} is not a location of {doer.job.code}: paste locations first")
    new = _checked(NewSample, {name: value for name, value in values.items() if name != "location"})
    codes = lambda: [p.sample.code for p in doer.places if p.spot.id == spot.id]  # noqa: E731
    doer.refuse_taken(f"samples of {spot.id}", new.code, codes, f"another sample of {spot.code}")
    act: Act = lambda: Made(what="sample", id=ground.add_sample(doer.session, spot, new).id or 0)  # noqa: E731
    return f"new sample of {spot.code}", act


def _test(doer: Doer, values: dict[str, str]) -> Planned:
    place, its = schedule.line_means(doer.places, values)
    due = date.fromisoformat(values["due_on"]) if "due_on" in values else doer.due_on
    if due is None:
        raise FieldError("due_on", "give a day, such as 2026-05-19")
    before = schedule.on_sample(doer.session, place.sample.id or 0, its.name)
    was = f", {before.due_on.isoformat()} before" if before is not None else ""
    return f"{its.title} by {due.isoformat()}{was}", lambda: ask_for(doer.session, place.sample, its, due)


def ask_for(session: Session, sample: Sample, its: Method, due_on: date) -> Made:
    """Put a test on the schedule; what takes it back."""
    before = schedule.on_sample(session, sample.id or 0, its.name)
    day, because = (before.due_on, before.withdrawn_because) if before is not None else (None, "")
    row = schedule.ask(session, sample, its.name, due_on)
    return Made(what="test", id=row.id or 0, former_due_on=day, withdrawn_because=because)


KINDS: dict[str, ListKind] = {
    "tins": ListKind(
        (
            Column("code", "number", ("tin", "tin number", "no", "container"), required=True),
            Column("mass_g", "mass", ("tare", "empty mass", "empty"), "g", "number"),
            Column("title", "what it is", ("what", "description", "kind", "material")),
        ),
        _tin,
        "tin",
    ),
    "locations": ListKind(
        (
            Column("code", "location", ("code", "name", "id", "hole", "point"), required=True),
            Column("kind", "kind", ("type",)),
            Column("easting_m", "easting", ("x", "east", "e"), "m", "number"),
            Column("northing_m", "northing", ("y", "north", "n"), "m", "number"),
            Column("level_m", "ground level", ("level", "z", "elevation"), "m", "number"),
            Column("depth_m", "depth", ("final depth",), "m", "number"),
            Column("note", "note", ("remarks", "what is there", "description")),
        ),
        _location,
        "location",
    ),
    "samples": ListKind(
        (
            Column("location", "location", ("hole", "point", "spot"), required=True),
            Column("code", "sample", ("code", "name", "id", "reference", "sample number"), required=True),
            Column("depth_top_m", "depth top", ("top", "from", "depth", "depth from"), "m", "number"),
            Column("depth_bottom_m", "depth base", ("bottom", "base", "to", "depth to", "depth bottom"), "m", "number"),
            Column("kind", "kind", ("type", "sample type")),
            Column("mass_g", "mass", ("received mass",), "g", "number"),
            Column("description", "description", ("soil",)),
        ),
        _sample,
        "sample",
    ),
    "schedule": ListKind(
        (
            Column("sample", "sample", ("location sample", "reference"), required=True),
            Column("test", "test", ("method", "test asked for"), required=True),
            Column("due_on", "due", ("by", "by when", "due date", "day"), kind="day"),
        ),
        _test,
        "test",
        grid=True,
    ),
}


def look(kind: ListKind, text: str, doer: Doer, units: Mapping[str, str]) -> tuple[Result, list[Act]]:
    """What every line of a list would do, and the acts; a line that cannot be taken says why and has none.

    Nothing is written. Raises FieldError for a text that is no list.
    """
    grid = schedule.read_grid(text, doer.places) if kind.grid else None
    listed = grid or read_list(kind.columns, text, units)
    if listed.asks:
        return Result(listed, {}), []
    lines, does, acts = [], {}, []
    first_of: dict[str, int] = {}
    for line in listed.lines:
        problem = line.problem or _twice(kind, line, first_of)
        if not problem:
            try:
                does[line.number], act = kind.plan(doer, line.values)
                acts.append(act)
            except FieldError as error:
                label = next((c.label for c in kind.columns if c.key == error.field), "")
                problem = f"{label}: {error.problem}" if label and label not in error.problem.lower() else error.problem
        lines.append(line._replace(problem=problem))
    return Result(listed._replace(lines=tuple(lines)), does), acts


def make(kind: ListKind, text: str, doer: Doer, units: Mapping[str, str]) -> tuple[Made, ...]:
    """Make all that a list says; raises FieldError with its first line that cannot be taken. The caller's transaction
    decides: all of it, or nothing."""
    result, acts = look(kind, text, doer, units)
    result.listed.refuse()
    return tuple(one for act in acts if (one := act()) is not None)


def _twice(kind: ListKind, line: Line, first_of: dict[str, int]) -> str:
    """Why a line is the second of its kind; empty where it is not. The required columns are what names a thing."""
    name = " ".join(line.values[c.key] for c in kind.columns if c.required).casefold()
    before = first_of.setdefault(name, line.number)
    shown = " ".join(line.values[c.key] for c in kind.columns if c.required)
    return "" if before == line.number else f"{kind.noun} {shown} appears twice, first on line {before}"


TABLES: dict[str, type[SQLModel]] = {
    "tin": KitItem,
    "tare": KitItem,
    "location": Spot,
    "sample": Sample,
    "test": Owed,
    "specimen": Specimen,
}


def undo(session: Session, made: tuple[Made, ...], by: Person, now: datetime) -> int:
    """Take back all that one paste made; how many things. Raises NotAllowed where something rests on one of them."""
    for one in reversed(made):
        _undo_one(session, one, by, now)
    return len(made)


def _undo_one(session: Session, one: Made, by: Person, now: datetime) -> None:
    row: Any = session.get(TABLES[one.what], one.id)
    if row is None:
        return  # gone already
    if one.what in ("tin", "tare") and row.kind != "tin":
        raise NotAllowed(f"{row.code} is not a tin")
    if one.what == "specimen":
        specimens.delete_unused(session, row)
    elif one.what in ("location", "sample"):
        put_right.delete_empty(session, row)
    elif one.what == "tin":
        if row.retired_at is None:
            kit.retire(session, row, MADE_BY_MISTAKE, by.initials, now)
    elif one.what == "tare":
        if one.former_g is not None:
            kit.add_tare(session, row, one.former_g, by.initials, now)
    else:
        reason = one.withdrawn_because or ("" if one.former_due_on else MADE_BY_MISTAKE)
        schedule.take_back(session, row, one.former_due_on, by, reason)
