"""The desk's parts: fields, steps, the strip of the tape."""

from datetime import datetime
from functools import cache
from typing import Any, Literal, NamedTuple

from sqlmodel import Session

from vadum.soil.contract import paths
from vadum.soil.contract.fields import Kind, RecordPart, kind_of, unit_of
from vadum.soil.contract.method import Method
from vadum.soil.contract.outcome import Outcome
from vadum.soil.contract.plain_json import as_json
from vadum.soil.contract.task import Task
from vadum.soil.contract.times import local
from vadum.soil.register import METHODS
from vadum.soil.soil_card.card import Card
from vadum.tape import kit, photographs, signatures
from vadum.tape.entries import Taped
from vadum.tape.photographs import Pictured
from vadum.tape.runs import Read
from vadum.tape.shown import said
from vadum.tape.tables import Person


class FieldView(NamedTuple):
    """One place to enter a reading. `closes` are the readings that are not asked once this one is entered."""

    path: str
    label: str
    row: str
    unit: str
    kind: Kind
    options: tuple[str, ...]
    value: str
    entry_id: str
    hint: str
    timed: bool = False
    kit: str = ""
    required: bool = False
    optional: bool = False
    asks: str = ""
    closes: tuple[str, ...] = ()


class StepView(NamedTuple):
    """A step as the column shows it."""

    step: Task
    state: Literal["done", "now", "ahead", "skipped"]
    note: str
    by: str


class StripPiece(NamedTuple):
    """One piece of the strip: a reading as it landed."""

    entry: Taped
    label: str
    value: str
    struck: bool
    reason: str


MOST_FIELDS = 60  # a step of many rows shows so many; the table import takes the rest
HINTS = {"moment": "or type 14:05"}


def hint_of(method: Method, path: str, kind: Kind) -> str:
    """What is said at an empty field: the method's own word, what a piece of kit brings, how a time is typed."""
    name = paths.field_name(path)
    return method.hints.get(name) or kit.hint_of(name) or HINTS.get(kind, "")


def said_of_row(read: Read, path: str) -> str:
    """The row a path names: by what names it best, such as a sieve's aperture, else by its number."""
    found = paths.parse(path)
    if not found.rows:
        return ""
    named = read.method.row_named_by.get(paths.pattern_of(found.rows[-1][0]))
    return read.method.row_words(path, None if found.name == named else read.folded.record)


def leave_out_rows(read: Read) -> tuple[str, str]:
    """The list whose rows may be left out, and what one of them is called."""
    for name, word in read.method.rows.items():
        model = paths.rows_model(read.method.Record, name)
        if model is not None and "excluded_because" in model.model_fields:
            return name, word
    return "", ""


def pictured(read: Read) -> list[tuple[Pictured, str]]:
    """The run's photographs, each with what it is of in words."""
    return [(one, photographs.place_words(read.run, one.place)) for one in photographs.taken(read.entries)]


def photograph_places(read: Read) -> list[tuple[str, str]]:
    """What a photograph may be of: the run, the rows of its first list (specimens, stages), its steps."""
    found = [("", "the run")]
    for name in list(read.method.rows)[:1]:
        many = paths.reading_at(read.folded.record, name) or ()
        found += [(paths.at(name, i), read.method.row_words(paths.at(name, i))) for i in range(len(many))]
    return [*found, *((s.key, s.title) for s in read.method.steps if s.applies(read.school))]


def board_values(read: Read, outcome: Outcome, now: datetime) -> dict[str, Any]:
    """What a method's board shows beside record and outcome."""
    return dict(read.method.board(read.facts, read.school, outcome, now))


def shown_value(read: Read, path: str, value: Any, now: datetime) -> str:
    """A taped value as the person reads it."""

    def moment_words(at: datetime) -> str:
        here = local(at, now)
        if here.date() == now.date():
            return f"{here:%H:%M}"
        return f"{here:%d %b %H:%M}" if abs((here.date() - now.date()).days) < 300 else f"{here:%d %b %Y}"

    return said(read.method.Record, path, value, moment_words, lambda day: day.isoformat())


def _by_the_clock(read: Read, path: str) -> bool:
    """Whether the clock calls that reading: it was read when its first key was pressed."""
    place = paths.parse(path)
    calls = read.method.called(read.facts, read.school) if place.rows else ()
    return any(c.by == "clock" and c.key == place.rows[-1][0] and place.name in c.reads for c in calls)


def field_view(read: Read, path: str, now: datetime) -> FieldView | None:
    """The field to enter at a path."""
    field = paths.field_of(read.method.Record, path)
    if field is None:
        return None
    kind, options = kind_of(field)
    entry = read.folded.came_from.get(path)
    value = ""
    if entry:
        value = shown_value(read, path, read.folded.typed(path), now)
    last = paths.field_name(path)
    return FieldView(
        path,
        field.title or path,
        said_of_row(read, path),
        unit_of(last),
        kind,
        options,
        value,
        entry.id if entry else "",
        hint_of(read.method, path, kind),
        _by_the_clock(read, path),
        kit.kind_named(last),
    )


def fields(read: Read, wanted: tuple[str, ...], now: datetime) -> list[FieldView]:
    """The fields at these paths that exist."""
    return [view for path in wanted if (view := field_view(read, path, now))]


def step_paths(read: Read, step: Task) -> tuple[str, ...]:
    """Every path a step fills: of each row there is, and of the next; row by row."""
    found: list[str] = []
    unused = read.method.unused(read.school)
    for pattern in step.fields:
        if pattern in unused:
            continue
        if "[]" not in pattern:
            found.append(pattern)
            continue
        list_path = paths.parse(pattern).rows[0][0]
        model = paths.rows_model(read.method.Record, list_path)
        rows = paths.reading_at(read.folded.record, list_path) or ()
        # Rows that may be left out are led by the advice; to the others the next can always be added here.
        led = model is not None and "excluded_because" in model.model_fields and rows
        many = paths.expanded(read.folded.record, pattern, 0 if led else 1)
        found += many if len(many) <= MOST_FIELDS else many[:MOST_FIELDS]
    return tuple(sorted(found, key=lambda p: paths.parse(p).parent))


def steps(read: Read, wants: tuple[str, ...] = ()) -> list[StepView]:
    """The column of steps. Now is the step that the wanted reading belongs to, else the first not yet done."""
    noted = {e.value["key"]: e for e in read.folded.events if e.path == "@step"}
    views = []
    wanted = paths.pattern_of(wants[0]) if wants else ""
    asked = next((s.key for s in read.method.steps if wanted in s.fields), "")
    current_found = False
    for step in (s for s in read.method.steps if s.applies(read.school)):
        note = noted.get(step.key)
        state: Literal["done", "now", "ahead", "skipped"] = "ahead"
        if step.key == asked:
            state, current_found = "now", True
        elif step.done(read.facts, read.school) or (note and note.value["state"] == "done"):
            state = "done"
        elif note and note.value["state"] == "skipped":
            state = "skipped"
        elif not asked and not current_found:
            state, current_found = "now", True
        by = note.by if note else _by(read, step)
        text = step.note(read.facts, read.school)
        if note and note.reason:
            text = f"{text} · {note.reason}" if text else note.reason
        views.append(StepView(step, state, text, by))
    return views


def _by(read: Read, step: Task) -> str:
    fields = set(step.fields)
    names = dict.fromkeys(e.by for path, e in read.folded.came_from.items() if paths.pattern_of(path) in fields)
    return ", ".join(names)


class Cautions(NamedTuple):
    """What has to be minded before a step, and whether somebody has ticked that it was read."""

    texts: tuple[str, ...]
    read: bool


def cautions(read: Read, current: StepView | None) -> Cautions:
    """Cautions of the current step; once read they fold to one line."""
    if current is None:
        return Cautions((), read=False)
    ticked = {e.value["key"] for e in read.folded.events if e.path == "@caution"}
    return Cautions(current.step.cautions, current.step.key in ticked)


OLDER = 300  # readings that are shown when somebody goes back; the tape as a file holds all


def remark(read: Read) -> tuple[str, str]:
    """What was remarked, and the entry that says it; empty texts where nothing was."""
    entry = read.folded.came_from.get("remarks")
    return ("", "") if entry is None else (str(entry.value), entry.id)


def strip(read: Read, now: datetime, most: int = 8) -> list[StripPiece]:
    """The newest readings, oldest of them first."""
    slips = []
    for entry in read.entries:
        if entry.path.startswith("@") or entry.value is None:
            continue
        field = paths.field_of(read.method.Record, entry.path)
        label = " ".join(w for w in (said_of_row(read, entry.path), (field.title or "") if field else "") if w)
        unit = unit_of(paths.field_name(entry.path))
        value = f"{shown_value(read, entry.path, entry.value, now)} {unit}".strip()
        by = read.folded.struck.get(entry.id)
        slips.append(StripPiece(entry, label, value, by is not None, by.reason if by else ""))
    return slips[-most:]


@cache
def kit_kinds(name: str) -> frozenset[str]:
    """The kinds of equipment whose numbers a method's readings hold."""
    found = (kit.kind_named(paths.field_name(p)) for p, _ in paths.patterns(METHODS[name].Record))
    return frozenset(kind for kind in found if kind)


@cache
def field_words(name: str) -> dict[str, dict[str, str]]:
    """What a method calls its readings and its rows: a person is never shown a field's name."""
    its = METHODS[name]
    titles: dict[str, str] = {}
    parts: list[type[RecordPart]] = [its.Record]
    while parts:
        part = parts.pop()
        for field, info in part.model_fields.items():
            titles.setdefault(field, info.title or field.replace("_", " "))
            rows = paths.rows_model(part, field)
            parts += [rows] if rows else []
    units = {field: unit_of(field) for field in titles}
    return {"titles": titles, "units": units, "rows": {paths.field_name(name): noun for name, noun in its.rows.items()}}


def sheet_ready(outcome: Outcome) -> bool:
    """Whether the run can be signed without a reason."""
    return outcome.advice is not None and outcome.advice.finished


def may(session: Session, read: Read, me: Person) -> dict[str, bool]:
    """What this person may do with the sheet now."""
    state = read.run.state
    checker = me.role in ("checker", "manager")
    return {
        "sign": state == "open" and bool(read.outcome.values),
        "check": state == "signed" and not signatures.may_check(session, read.entries, me),
        "reopen": state == "signed" or (state == "checked" and checker),
    }


def card_tables(known: Card) -> list[tuple[list[str], list[list[str]]]]:
    """The data behind a soil card's pictures."""
    curve = [[f"{r['size_mm']:.4g}", _cell(r["finer_percent"]), str(r["source"])] for r in known.series["curve"]]
    point = [[_cell(r["ll"]), _cell(r["pi"])] for r in known.series["point"]]
    return [
        (["size, mm", "finer, %", "by"], curve),
        (["liquid limit, %", "plasticity index, %"], point),
    ]


def _cell(value: Any) -> str:
    return f"{value:.2f}" if isinstance(value, float) else ("" if value is None else str(value))


def embedded(value: Any) -> str:
    """JSON that is safe inside a page."""
    return as_json(value).replace("<", "\\u003c").replace("&", "\\u0026")
