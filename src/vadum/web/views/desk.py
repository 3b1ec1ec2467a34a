"""The desk's parts: fields, steps, the strip of the tape."""

import re
from collections.abc import Callable, Mapping
from datetime import datetime
from typing import Any, Literal, NamedTuple, cast, get_args

from sqlmodel import Session

from vadum.bench.rack import slot_words
from vadum.soil.contract.fields import Kind, field_of, kind_of, unit_of
from vadum.soil.contract.method import Method, Step
from vadum.soil.contract.outcome import Outcome
from vadum.soil.contract.plain_json import as_json
from vadum.soil.contract.times import exact
from vadum.soil.methods.compaction.advise import effort_words
from vadum.soil.methods.compaction.schools import CompactionSchool
from vadum.soil.methods.hydrometer.suspension import stem_field
from vadum.soil.methods.hydrometer.timing import timetable
from vadum.soil.soil_card.card import Card
from vadum.tape import signatures
from vadum.tape.entries import Taped
from vadum.tape.runs import Read
from vadum.tape.shown import said
from vadum.tape.tables import Person
from vadum.web.views.call_panel import calling


class FieldView(NamedTuple):
    """One place to enter a reading."""

    path: str
    label: str
    row: str
    unit: str
    kind: Kind
    options: tuple[str, ...]
    value: str
    entry_id: str
    hint: str


class StepView(NamedTuple):
    """A step as the column shows it."""

    step: Step
    state: Literal["done", "now", "ahead", "skipped"]
    note: str
    by: str


class Slip(NamedTuple):
    """One piece of the strip: a reading as it landed."""

    entry: Taped
    label: str
    value: str
    struck: bool
    reason: str


HINTS = {
    "moment": "Enter = now, or 14:05",
    "tin": "number brings its tare",
    "device": "brings its inspection",
    "balance": "number brings its step",
    "mould": "number brings mass and volume",
    "ring": "number brings its size",
    "pycnometer": "brings its masses",
    "hydrometer": "number brings its kind",
    "proving_ring": "brings its calibration",
    "gauge": "brings its division",
    "plunger": "brings its diameter",
    "surcharge": "number brings its mass",
    "ring_table": "0 0; 100 1.26; 200 2.55",
}


def row_words(path: str, rows: Mapping[str, str]) -> str:
    """The row a path names, as it is said.

    >>> row_words("trials[2].blows", {"trials": "trial"})
    'trial 3'
    """
    name, bracket, rest = path.partition("[")
    return f"{rows.get(name, name)} {int(rest.partition(']')[0]) + 1}" if bracket else ""


def said_of_row(read: Read, path: str) -> str:
    """The row a path names: by its aperture where it is a sieve, else by its number."""
    name, bracket, rest = path.partition("[")
    if not bracket:
        return ""
    index = int(rest.partition("]")[0])
    found = getattr(read.folded.record, name)
    aperture = getattr(found[index], "aperture_mm", None) if index < len(found) else None
    if aperture is not None and not path.endswith("aperture_mm"):
        return f"{aperture:g} mm"
    return row_words(path, read.method.rows)


def leave_out_rows(read: Read) -> tuple[str, str]:
    """The list whose rows may be left out, and what one of them is called."""
    for name, word in read.method.rows.items():
        field = read.method.Record.model_fields[name]
        if "excluded_because" in get_args(field.annotation)[0].model_fields:
            return name, word
    return "", ""


def _slots(read: Read, now: datetime) -> dict[str, Any]:
    record: Any = read.folded.record
    school: Any = read.school
    return {
        "exact": exact,
        "slots": [(s, slot_words(s)) for s in timetable(record, school, now)],
        "stem": stem_field(record),
    }


# What a board shows beside record and outcome, for the methods that need the moment too.
BOARDS: dict[str, Callable[[Read, datetime], dict[str, Any]]] = {
    "hydrometer": _slots,
    "compaction": lambda read, now: {"effort": effort_words(cast(CompactionSchool, read.school))},
    "cbr": lambda read, now: {"calling": calling(read)},
    "field_cbr": lambda read, now: {"calling": calling(read)},
}


def board_values(read: Read, now: datetime) -> dict[str, Any]:
    """A method's own additions to its board."""
    make = BOARDS.get(read.method.name)
    return make(read, now) if make else {}


def shown_value(read: Read, path: str, value: Any, now: datetime) -> str:
    """A taped value as the person reads it."""

    def moment_words(at: datetime) -> str:
        local = at.astimezone(now.tzinfo)
        if local.date() == now.date():
            return f"{local:%H:%M}"
        return f"{local:%d %b %H:%M}" if abs((local.date() - now.date()).days) < 300 else f"{local:%d %b %Y}"

    return said(read.method.Record, path, value, moment_words, lambda day: day.isoformat())


def field_view(read: Read, path: str, now: datetime) -> FieldView | None:
    """The field to enter at a path."""
    field = field_of(read.method.Record, path)
    if field is None:
        return None
    kind, options = kind_of(field)
    entry = read.folded.came_from.get(path)
    value = ""
    if entry:
        raw = entry.value.get(path.rpartition(".")[2]) if isinstance(entry.value, dict) else entry.value
        value = shown_value(read, path, raw, now)
    last = path.rpartition(".")[2]
    hint = HINTS.get(kind) or HINTS.get(last, "")
    return FieldView(
        path,
        field.title or path,
        said_of_row(read, path),
        unit_of(last),
        kind,
        options,
        value,
        entry.id if entry else "",
        hint,
    )


def fields(read: Read, paths: tuple[str, ...], now: datetime) -> list[FieldView]:
    """The fields at these paths that exist."""
    return [view for path in paths if (view := field_view(read, path, now))]


def step_paths(read: Read, step: Step) -> tuple[str, ...]:
    """Every path a step fills: `[]` for each row there is, and the next."""
    paths: list[str] = []
    for pattern in step.fields:
        name, bracket, rest = pattern.partition("[]")
        if not bracket:
            paths.append(pattern)
            continue
        rows = len(getattr(read.folded.record, name))
        row_fields = get_args(read.method.Record.model_fields[name].annotation)[0].model_fields
        # Rows that may be left out are led by the advice; to the others the next can always be added here.
        following = 0 if "excluded_because" in row_fields and rows else 1
        paths += [f"{name}[{i}]{rest}" for i in range(rows + following)]
    return tuple(sorted(paths, key=lambda p: (p.partition("].")[0] if "[" in p else "", 0)))


def steps(read: Read, wants: tuple[str, ...] = ()) -> list[StepView]:
    """The column of steps. Now is the step that the wanted reading belongs to, else the first not yet done."""
    record = read.folded.record
    noted = {e.value["key"]: e for e in read.folded.events if e.path == "@step"}
    views = []
    wanted = re.sub(r"\[\d+\]", "[]", wants[0]) if wants else ""
    asked = next((s.key for s in read.method.steps if wanted in s.fields), "")
    current_found = False
    for step in read.method.steps:
        note = noted.get(step.key)
        state: Literal["done", "now", "ahead", "skipped"] = "ahead"
        if step.key == asked:
            state, current_found = "now", True
        elif step.done(record) or (note and note.value["state"] == "done"):
            state = "done"
        elif note and note.value["state"] == "skipped":
            state = "skipped"
        elif not asked and not current_found:
            state, current_found = "now", True
        by = note.by if note else _by(read, step)
        text = step.note(record)
        if note and note.reason:
            text = f"{text} · {note.reason}" if text else note.reason
        views.append(StepView(step, state, text, by))
    return views


def _by(read: Read, step: Step) -> str:
    def matches(path: str) -> bool:
        return any(
            path == f
            or (("[]" in f) and path.startswith(f.partition("[]")[0] + "[") and path.endswith(f.partition("]")[2]))
            for f in step.fields
        )

    names = dict.fromkeys(e.by for path, e in read.folded.came_from.items() if matches(path))
    return ", ".join(names)


def cautions_unread(read: Read, current: StepView | None) -> tuple[str, ...]:
    """Cautions of the current step that nobody has ticked yet."""
    if current is None:
        return ()
    ticked = {e.value["key"] for e in read.folded.events if e.path == "@caution"}
    return () if current.step.key in ticked else current.step.cautions


def strip(read: Read, now: datetime, most: int = 8) -> list[Slip]:
    """The newest readings, oldest of them first."""
    slips = []
    for entry in read.entries:
        if entry.path.startswith("@") or entry.value is None:
            continue
        field = field_of(read.method.Record, entry.path)
        label = " ".join(w for w in (said_of_row(read, entry.path), (field.title or "") if field else "") if w)
        unit = unit_of(entry.path.rpartition(".")[2])
        value = f"{shown_value(read, entry.path, entry.value, now)} {unit}".strip()
        by = read.folded.struck.get(entry.id)
        slips.append(Slip(entry, label, value, by is not None, by.reason if by else ""))
    return slips[-most:]


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


def chart_tables(method: Method, outcome: Outcome, columns: dict[str, Any]) -> list[tuple[list[str], list[list[str]]]]:
    """The data behind the picture, for those who do not see it."""
    tables = []
    for series, heads in columns.items():
        rows = [[_cell(row.get(key)) for key, _ in heads] for row in outcome.series.get(series, ())]
        tables.append(([title for _, title in heads], rows))
    return tables


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
