"""What a pasted list may be: tins, locations, samples, a schedule of tests; what each of its lines makes, and how all
that one paste made is undone."""

from collections.abc import Callable, Mapping
from datetime import date, datetime
from typing import Any, Literal, NamedTuple

from pydantic import BaseModel, ConfigDict, Field, ValidationError
from sqlmodel import Session, SQLModel

from vadum.soil.contract.errors import FieldError
from vadum.tape import ground, kit, put_right, schedule, specimens
from vadum.tape.ground import NewSample, NewSpot, Place
from vadum.tape.kit import NewItem
from vadum.tape.pasted_list import Column, Line, Listed, read_list
from vadum.tape.runs import NotAllowed
from vadum.tape.tables import Job, KitItem, Owed, Person, Sample, Specimen, Spot

Kind = Literal["tins", "locations", "samples", "schedule"]
NOT_TAKEN = "Undone: registered by a paste that was taken back"


class Made(BaseModel):
    """One thing that a paste made or changed: what it was before, where it was there before."""

    model_config = ConfigDict(extra="forbid")
    what: Literal["tin", "tare", "location", "sample", "test", "specimen"]
    id: int = Field(ge=1, le=2**31 - 1)
    was: str = Field("", max_length=40)


class Doer(NamedTuple):
    """For whom a list is made: the session, the job it belongs to, who, when; the day for lines without one, and the
    job's samples, where tests are asked for."""

    session: Session
    job: Job | None
    by: Person
    now: datetime
    due_on: date | None = None
    places: tuple[Place, ...] = ()


class Result(NamedTuple):
    """A list with what each of its lines does; what was made by those that can be taken."""

    listed: Listed
    does: Mapping[int, str]
    made: tuple[Made, ...]


class ListKind(NamedTuple):
    """A kind of list: its columns, what one line makes, and what its things are called."""

    columns: tuple[Column, ...]
    make: Callable[[Doer, dict[str, str]], tuple[str, Made | None]]
    noun: str
    read: Callable[[str, Doer, Mapping[str, str]], Listed] | None = None


def _checked(model: type[BaseModel], values: dict[str, Any]) -> Any:
    """The model of these values; raises FieldError in the words of its first fault."""
    try:
        return model.model_validate(values)
    except ValidationError as error:
        first = error.errors()[0]
        field = str(first["loc"][0]) if first["loc"] else ""
        raise FieldError(field, str(first["msg"]).removeprefix("Value error, ")) from None


def _tin(doer: Doer, values: dict[str, str]) -> tuple[str, Made | None]:
    new = _checked(NewItem, {"kind": "tin", "code": values["code"], "title": values.get("title", "")})
    item = kit.find(doer.session, "tin", new.code)
    grams = float(values["mass_g"]) if "mass_g" in values else None
    if item is None:
        item = kit.add_item(doer.session, new)
        if grams is not None:
            kit.add_tare(doer.session, item, grams, doer.by.initials, doer.now)
        return "new" if grams is not None else "new, not weighed yet", Made(what="tin", id=item.id or 0)
    if item.retired_at is not None:
        kit.take_back(doer.session, item, doer.by.initials, doer.now)
    elif grams is None:
        return "registered already: nothing to do", None
    if grams is None:
        return "taken into use again", Made(what="tin", id=item.id or 0)
    before = kit.state(doer.session, item, doer.now.date()).tare_g
    kit.add_tare(doer.session, item, grams, doer.by.initials, doer.now)
    was = "" if before is None else f"{before:.12g}"
    return f"weighed again: {was or 'never weighed'} g before" if was else "weighed for the first time", Made(
        what="tare", id=item.id or 0, was=was
    )


def _location(doer: Doer, values: dict[str, str]) -> tuple[str, Made | None]:
    assert doer.job is not None
    spot = ground.add_spot(doer.session, doer.job, _checked(NewSpot, values))
    return f"new {spot.kind}", Made(what="location", id=spot.id or 0)


def _sample(doer: Doer, values: dict[str, str]) -> tuple[str, Made | None]:
    assert doer.job is not None
    rest = dict(values)
    where = rest.pop("location")
    spots = {s.code.casefold(): s for s in ground.spots_of(doer.session, doer.job)}
    spot = spots.get(where.strip().casefold())
    if spot is None:
        raise FieldError("location", f"{where[:30]} is not a location of {doer.job.code}: paste locations first")
    made = ground.add_sample(doer.session, spot, _checked(NewSample, rest))
    return f"new sample of {spot.code}", Made(what="sample", id=made.id or 0)


def _test(doer: Doer, values: dict[str, str]) -> tuple[str, Made | None]:
    place, its = schedule.line_means(doer.places, values)
    due = date.fromisoformat(values["due_on"]) if "due_on" in values else doer.due_on
    if due is None:
        raise FieldError("due_on", "give a day, such as 2026-05-19")
    before = schedule.on_sample(doer.session, place.sample.id or 0, its.name)
    was = before.due_on.isoformat() if before is not None else ""
    row = schedule.ask(doer.session, place.sample, its.name, due)
    does = f"{its.title} by {due.isoformat()}" + (f", {was} before" if was else "")
    return does, Made(what="test", id=row.id or 0, was=was)


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
        lambda text, doer, units: (
            schedule.read_grid(text, doer.places) or read_list(KINDS["schedule"].columns, text, units)
        ),
    ),
}


def carry_out(kind: ListKind, text: str, doer: Doer, units: Mapping[str, str]) -> Result:
    """Make what every line of a list says; a line that cannot be taken says why and makes nothing.

    Who only looks rolls the transaction back: what a preview says is what making it would do. Raises FieldError for a
    text that is no list.
    """
    listed = (kind.read or (lambda t, d, u: read_list(kind.columns, t, u)))(text, doer, units)
    if listed.asks:
        return Result(listed, {}, ())
    lines, does, made = [], {}, []
    first_of: dict[str, int] = {}
    for line in listed.lines:
        problem = line.problem or _twice(kind, line, first_of)
        if not problem:
            try:
                does[line.number], one = kind.make(doer, line.values)
                made += [one] if one is not None else []
            except FieldError as error:
                label = next((c.label for c in kind.columns if c.key == error.field), "")
                problem = f"{label}: {error.problem}" if label and label not in error.problem.lower() else error.problem
        lines.append(line._replace(problem=problem))
    return Result(listed._replace(lines=tuple(lines)), does, tuple(made))


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
    if one.what == "specimen":
        specimens.delete_unused(session, row)
        return
    if one.what in ("location", "sample"):
        put_right.delete_empty(session, row)
    elif one.what == "tin":
        if row.kind != "tin":
            raise NotAllowed(f"{row.code} is not a tin")
        if row.retired_at is None:
            kit.retire(session, row, NOT_TAKEN, by.initials, now)
    elif one.what == "tare" and one.was:
        kit.add_tare(session, row, float(one.was), by.initials, now)
    elif one.what == "test":
        schedule.take_back(session, row, date.fromisoformat(one.was) if one.was else None)
