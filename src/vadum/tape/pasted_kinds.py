"""What a pasted list may be: tins, locations, samples, a schedule of tests; what each of its lines makes, and how all
that one paste made is undone."""

from collections.abc import Callable, Mapping
from datetime import date, datetime
from functools import partial
from typing import Any, Literal, NamedTuple

from pydantic import BaseModel, ValidationError
from sqlmodel import Session, SQLModel

from vadum.soil.contract.errors import FieldError
from vadum.tape import kit, ledger, put_right, schedule, specimens
from vadum.tape.ground import NewSample, NewSpot
from vadum.tape.kit import NewItem
from vadum.tape.pasted_list import Column, Line, Listed, read_list
from vadum.tape.pasted_plan import Act, Doer, Made, Plan, Planned, Receipt, carry_out, planned
from vadum.tape.runs import NotAllowed
from vadum.tape.tables import KitItem, Owed, Person, Sample, Specimen, Spot

Kind = Literal["tins", "locations", "samples", "schedule"]
MADE_BY_MISTAKE = "entered by mistake, undone"


class Result(NamedTuple):
    """A list with what each of its lines does, by their numbers."""

    listed: Listed
    does: Mapping[int, str]


class ListKind(NamedTuple):
    """A kind of list: its columns, what one line would make, what its things are called, and the locks that whoever
    makes one of them holds on a server."""

    columns: tuple[Column, ...]
    plan: Callable[[Doer, dict[str, str]], Planned]
    noun: str
    locks: Callable[[Doer], list[str]]
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
        doer.refuse_taken("tins", new.code, lambda: list(doer.tins), "another tin")
        words = "new" if grams is not None else "new, not weighed yet"
        return words, partial(_registered, item=KitItem(**new.model_dump()), grams=grams)
    retired, before = known.item.retired_at is not None, known.tare_g
    if grams is None:
        does = "taken into use again" if retired else "registered already: nothing to do"
    else:
        does = "weighed for the first time" if before is None else f"weighed again: {before:.12g} g before"
    return does, partial(_weighed_again, item_id=known.item.id or 0, grams=grams, before=before, retired=retired)


def _registered(doer: Doer, item: KitItem, grams: float | None) -> Receipt:
    doer.new.append(item)

    def receipt() -> Made:
        if grams is not None:
            doer.new.append(kit.tare_of(item.id or 0, grams, doer.by.initials, doer.now))
        return Made(what="tin", id=item.id or 0)

    return receipt


def _weighed_again(doer: Doer, item_id: int, grams: float | None, before: float | None, retired: bool) -> Receipt:
    if retired:
        doer.later.append(partial(_into_use, item_id=item_id, by=doer.by.initials, at=doer.now))
    if grams is not None:
        doer.new.append(kit.tare_of(item_id, grams, doer.by.initials, doer.now))
    if retired:
        return lambda: Made(what="tin", id=item_id)
    weighed = Made(what="tare", id=item_id, former_g=before) if grams is not None else None
    return lambda: weighed


def _into_use(session: Session, item_id: int, by: str, at: datetime) -> None:
    item = session.get(KitItem, item_id)
    assert item is not None, "a piece of kit is retired, never deleted"
    kit.take_back(session, item, by, at)


def _location(doer: Doer, values: dict[str, str]) -> Planned:
    job, new = doer.job, _checked(NewSpot, values)
    assert job is not None
    codes = lambda: [s.code for s in doer.spots.values()]  # noqa: E731
    doer.refuse_taken("locations", new.code, codes, "another location of this job")
    return f"new {new.kind}", partial(_dug, spot=Spot(job_id=job.id or 0, **new.model_dump()))


def _dug(doer: Doer, spot: Spot) -> Receipt:
    doer.new.append(spot)
    return lambda: Made(what="location", id=spot.id or 0)


def _sample(doer: Doer, values: dict[str, str]) -> Planned:
    assert doer.job is not None
    where = values["location"]
    spot = doer.spots.get(where.strip().casefold())
    if spot is None:
        raise FieldError("location", f"{where[:30]} is not a location of {doer.job.code}: paste locations first")
    new = _checked(NewSample, {name: value for name, value in values.items() if name != "location"})
    codes = lambda: [p.sample.code for p in doer.places if p.spot.id == spot.id]  # noqa: E731
    doer.refuse_taken(f"samples of {spot.id}", new.code, codes, f"another sample of {spot.code}")
    return f"new sample of {spot.code}", partial(_taken_in, sample=Sample(spot_id=spot.id or 0, **new.model_dump()))


def _taken_in(doer: Doer, sample: Sample) -> Receipt:
    doer.new.append(sample)
    return lambda: Made(what="sample", id=sample.id or 0)


def _test(doer: Doer, values: dict[str, str]) -> Planned:
    place, its = schedule.line_means(doer.named, values)
    due = date.fromisoformat(values["due_on"]) if "due_on" in values else doer.due_on
    if due is None:
        raise FieldError("due_on", "give a day, such as 2026-05-19")
    before = doer.asked.get((place.sample.id or 0, its.name))
    was = f", {before.due_on.isoformat()} before" if before is not None else ""
    sample_id = place.sample.id or 0
    new = Owed(sample_id=sample_id, method=its.name, due_on=due)
    return f"{its.title} by {due.isoformat()}{was}", partial(ask_for, new=new)


def ask_for(doer: Doer, new: Owed) -> Receipt:
    """Put a test on the schedule; what takes it back.

    A test that is named twice is there once, due on the day that was named last.
    """
    before = doer.asked.get((new.sample_id, new.method))
    if before is None:
        doer.new.append(new)
        doer.asked[new.sample_id, new.method] = new
        return lambda: Made(what="test", id=new.id or 0)
    if before.id is None:  # from an earlier line, not written yet
        before.due_on = new.due_on
        return lambda: None
    twice = before.id in doer.changes
    doer.changes[before.id] = before, schedule.asked_by(new.due_on)
    made = Made(what="test", id=before.id, former_due_on=before.due_on, withdrawn_because=before.withdrawn_because)
    return lambda: None if twice else made


KINDS: dict[str, ListKind] = {
    "tins": ListKind(
        (
            Column("code", "number", ("tin", "tin number", "no", "container"), required=True),
            Column("mass_g", "mass", ("tare", "empty mass", "empty"), "g", "number"),
            Column("title", "what it is", ("what", "description", "kind", "material")),
        ),
        _tin,
        "tin",
        lambda doer: ["kit tin"],
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
        lambda doer: [f"spots of {doer.job_id}"],
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
        lambda doer: [f"samples of {spot_id}" for spot_id in sorted(s.id or 0 for s in doer.spots.values())],
    ),
    "schedule": ListKind(
        (
            Column("sample", "sample", ("location sample", "reference"), required=True),
            Column("test", "test", ("method", "test asked for"), required=True),
            Column("due_on", "due", ("by", "by when", "due date", "day"), kind="day"),
        ),
        _test,
        "test",
        lambda doer: [f"schedule of {doer.job_id}"],
        grid=True,
    ),
}


def look(kind: ListKind, text: str, doer: Doer, units: Mapping[str, str]) -> tuple[Result, list[Act]]:
    """What every line of a list would do, and the acts; a line that cannot be taken says why and has none.

    Nothing is written. Raises FieldError for a text that is no list.
    """
    grid = schedule.read_grid(text, doer.named) if kind.grid else None
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


def plan(kind: ListKind, text: str, doer: Doer, units: Mapping[str, str]) -> Plan:
    """What a list will do, found without the lock; raises FieldError with its first line that cannot be taken."""
    reached = ledger.head(doer.session.connection()).seq
    result, acts = look(kind, text, doer, units)
    result.listed.refuse()
    return planned(doer, acts)._replace(reached=reached)


def make(kind: ListKind, text: str, doer: Doer, units: Mapping[str, str]) -> tuple[Made, ...]:
    """Make all that a list says, planned and written by one session."""
    first = plan(kind, text, doer, units)
    return carry_out(first, doer.session, (), lambda: first)


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
