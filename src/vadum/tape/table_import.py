"""A pasted or imported table of readings: taken apart, matched to a run's fields, tried whole, brought in whole."""

import csv
import hashlib
import io
import json
import re
from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any, NamedTuple, get_args

from pydantic import BaseModel, ConfigDict, Field
from sqlalchemy import select
from sqlmodel import Session, col

from vadum.soil.contract.errors import FieldError, VadumError
from vadum.soil.contract.fields import RecordPart, number, unit_of
from vadum.soil.contract.method import Method
from vadum.tape.entries import NewEntry, parse, read_tape
from vadum.tape.runs import Read, compute, post
from vadum.tape.tables import ColumnMatch, Person, Run

MOST_ROWS = 500
MOST_COLUMNS = 40
MOST_LINE = 4000
LEAVE = ""
SEPARATORS = ("\t", ";", "|", ",")
# What heads of tables are called, for the fields whose own names they seldom bear.
SYNONYMS: dict[str, tuple[str, ...]] = {
    "aperture_mm": ("sieve", "size", "opening", "mesh", "aperture", "mm"),
    "mass_retained_g": ("retained", "mass", "weight", "g"),
    "least_percent": ("lower", "min", "least", "from"),
    "most_percent": ("upper", "max", "most", "to"),
    "elapsed_min": ("time", "elapsed", "min"),
    "temperature_c": ("temperature", "temp", "°c", "c"),
    "reading_g_l": ("reading", "hydrometer", "r", "g l"),
    "reading_sg": ("sg", "density"),
    "mass_wet_g": ("wet", "moist"),
    "mass_dry_g": ("dry",),
    "mass_tin_g": ("tare", "tin mass", "empty"),
    "tin": ("tin", "container", "can", "no"),
}
PAN = ("pan", "receiver", "bottom", "0", "<")


class Cells(NamedTuple):
    """A table as it was typed: its heads (made up when it had none), and its rows with their line numbers."""

    heads: tuple[str, ...]
    rows: tuple[tuple[int, tuple[str, ...]], ...]
    signature: str


class Wrong(NamedTuple):
    """A cell that cannot be brought in: its line and column as the person counts them, and why."""

    line: int
    column: str
    problem: str


class TableError(VadumError):
    """The table as a whole cannot be read."""

    def __init__(self, field: str, problem: str) -> None:
        self.field, self.problem = field, problem
        super().__init__(f"{field}: {problem}")


class Asked(BaseModel):
    """A table to look at or to bring in: its text, the list it goes into, and which field each column is."""

    model_config = ConfigDict(extra="forbid")
    rows: str = Field(max_length=40)
    text: str = Field(min_length=1, max_length=200_000)
    columns: tuple[str, ...] | None = Field(None, max_length=40)
    source: str = Field("pasted", max_length=50)
    insist: bool = False


class Preview(NamedTuple):
    """What would be brought in: the columns with their fields, the entries, and what is wrong."""

    cells: Cells
    fields: tuple[str, ...]
    entries: tuple[tuple[int, NewEntry], ...]
    wrong: tuple[Wrong, ...]


def row_model(its: Method, rows: str) -> type[RecordPart]:
    """The model of one row of a list; raises FieldError for a list that the method does not have."""
    if rows not in its.rows:
        raise FieldError("rows", f"is one of {', '.join(its.rows) or 'none: this method has no table'}")
    model: type[RecordPart] = get_args(its.Record.model_fields[rows].annotation)[0]
    return model


def _separator(lines: Sequence[str]) -> str | None:
    """The sign between cells; None for spaces. A comma is a decimal sign where another separator does the work."""
    for sign in SEPARATORS:
        counts = [line.count(sign) for line in lines]
        if min(counts) >= 1 and (sign != "," or max(counts) == min(counts)):
            return sign
    return None


def _numeric(cell: str) -> bool:
    try:
        number(cell)
    except ValueError:
        return False
    return True


def take_apart(text: str) -> Cells:
    """The table's cells; raises TableError when there is none to see.

    Tab, semicolon, bar, comma or spaces separate; both decimal signs are read later. The first line is a head when
    none of its cells is a number.

    >>> take_apart("mm;g\\n4,75;12,3\\n").heads
    ('mm', 'g')
    """
    text = text.replace("\ufeff", "").replace("\r\n", "\n").replace("\r", "\n")
    numbered = [(i, line) for i, line in enumerate(text.split("\n"), 1) if line.strip()]
    if not numbered:
        raise TableError("text", "there is no row in it")
    if len(numbered) > MOST_ROWS + 1:
        raise TableError("text", f"has {len(numbered)} lines; at most {MOST_ROWS} rows are taken at once")
    for number_, line in numbered:
        if len(line) > MOST_LINE:
            raise TableError("text", f"line {number_} is longer than {MOST_LINE} characters")
    sign = _separator([line for _, line in numbered])
    for number_, line in numbered:
        if line.count(sign or " ") >= MOST_COLUMNS:
            raise TableError("text", f"line {number_} has more than {MOST_COLUMNS} columns")

    def cells(line: str) -> tuple[str, ...]:
        if sign is None:
            return tuple(re.split(r"\s+", line.strip()))
        try:
            found = next(csv.reader(io.StringIO(line), delimiter=sign, skipinitialspace=True))
        except csv.Error:
            raise TableError("text", "a cell of it cannot be read: look at its quotes") from None
        return tuple(cell.strip() for cell in found)

    table = [(i, cells(line)) for i, line in numbered]
    width = max(len(row) for _, row in table)
    first = table[0][1]
    headed = not any(_numeric(cell) for cell in first if cell)
    heads = tuple((first[i] if headed and i < len(first) else "") or f"column {i + 1}" for i in range(width))
    rows = tuple(table[1:] if headed else table)
    digest = hashlib.sha256("\n".join([str(headed), *heads]).lower().encode()).hexdigest()[:32]
    return Cells(heads, rows, digest)


def _plain(words: str) -> str:
    return re.sub(r"[^a-z0-9%°]+", " ", words.lower()).strip()


def guessed(cells: Cells, model: type[RecordPart]) -> tuple[str, ...]:
    """The field each column most likely is: by its name, its title, its words or its unit; none twice."""
    left = [f for f in model.model_fields if f != "excluded_because"]
    found = []
    for head in cells.heads:
        words = _plain(head)
        choice = LEAVE
        for field in left:
            title = _plain(str(model.model_fields[field].title or ""))
            if words in (_plain(field), title, f"{title} {_plain(unit_of(field))}".strip()):
                choice = field
                break
        if not choice:
            parts = set(words.split())
            scored = [(len(parts & set(" ".join(SYNONYMS.get(f, ())).split())), f) for f in left if f in SYNONYMS]
            best = max(scored, default=(0, LEAVE), key=lambda pair: pair[0])
            choice = best[1] if best[0] else LEAVE
        if choice:
            left.remove(choice)
        found.append(choice)
    if not any(found):
        # No heads to go by: the model's own order.
        order = [f for f in model.model_fields if unit_of(f) or f == "tin"]
        found = [order[i] if i < len(order) else LEAVE for i in range(len(cells.heads))]
    return tuple(found)


def _match(session: Session, its: Method, rows: str, cells: Cells) -> ColumnMatch | None:
    """What is kept for tables with these heads."""
    query = select(ColumnMatch).where(
        col(ColumnMatch.method) == its.name,
        col(ColumnMatch.rows) == rows,
        col(ColumnMatch.signature) == cells.signature,
    )
    found: ColumnMatch | None = session.execute(query).scalar_one_or_none()
    return found


def remembered(session: Session, its: Method, rows: str, cells: Cells) -> tuple[str, ...] | None:
    """The match that a table with these heads was brought in by last time."""
    found = _match(session, its, rows, cells)
    if found is None:
        return None
    fields = tuple(json.loads(found.fields))
    return fields if len(fields) == len(cells.heads) else None


def remember(session: Session, its: Method, rows: str, cells: Cells, fields: tuple[str, ...]) -> None:
    """Keep the match for the next table with these heads."""
    found = _match(session, its, rows, cells)
    if found is None:
        found = ColumnMatch(method=its.name, rows=rows, signature=cells.signature, fields="[]")
    found.fields = json.dumps(fields)
    session.add(found)
    session.flush()


def _column_fault(fields: tuple[str, ...], cells: Cells, model: type[RecordPart]) -> None:
    if len(fields) != len(cells.heads):
        raise TableError("columns", f"{len(fields)} fields for {len(cells.heads)} columns")
    used = [f for f in fields if f]
    unknown = [f for f in used if f not in model.model_fields]
    if unknown:
        raise TableError("columns", f"there is no field {unknown[0]!r}")
    twice = sorted({f for f in used if used.count(f) > 1})
    if twice:
        raise TableError("columns", f"two columns are {model.model_fields[twice[0]].title}")
    if not used:
        raise TableError("columns", "say of at least one column which field it is")


def _entries(
    read: Read, asked: Asked, cells: Cells, fields: tuple[str, ...], model: type[RecordPart]
) -> tuple[list[tuple[int, NewEntry]], list[Wrong]]:
    """An entry per row (or per open field of a row that is there already), and every cell that cannot be read."""
    entries: list[tuple[int, NewEntry]] = []
    wrong: list[Wrong] = []
    standing = list(getattr(read.folded.record, asked.rows))
    following = len(standing)
    source = f"import: {asked.source}"[:60]
    record = read.method.Record
    has_pan = asked.rows == "sieves"
    taken: set[str] = set()
    for line, row in cells.rows:
        values: dict[str, str] = {}
        bad = is_pan = False
        for index, field in enumerate(fields):
            cell = row[index] if index < len(row) else ""
            if not field or not cell:
                continue
            if field == "aperture_mm" and has_pan and cell.lower() in PAN:
                is_pan = True
                continue
            try:
                parse(record, f"{asked.rows}[0].{field}", cell)
            except FieldError as error:
                wrong.append(Wrong(line, cells.heads[index], error.problem))
                bad = True
            values[field] = cell
        if bad:
            continue
        if is_pan:
            fault = "" if "mass_retained_g" in values else "the pan has no mass"
            if getattr(read.folded.record, "mass_pan_g", None) is not None:
                fault = "the pan has its mass already; strike it first"
            if fault or "mass_pan_g" in taken:
                wrong.append(Wrong(line, cells.heads[0], fault or "the pan stands twice in this table"))
                continue
            taken.add("mass_pan_g")
            entries.append((line, NewEntry(path="mass_pan_g", value=values["mass_retained_g"], source=source)))
            continue
        if not values:
            wrong.append(Wrong(line, cells.heads[0], "the row is empty"))
            continue
        aperture = f"{number(values['aperture_mm']):g} mm" if "aperture_mm" in values else ""
        if aperture and aperture in taken:
            wrong.append(
                Wrong(line, cells.heads[fields.index("aperture_mm")], f"{aperture} stands twice in this table")
            )
            continue
        taken.add(aperture)
        place = _standing(standing, values)
        if place is None:
            value: Any = dict(values)
            entries.append((line, NewEntry(path=f"{asked.rows}[{following}]", value=value, source=source)))
            following += 1
            continue
        for field, cell in values.items():
            if getattr(standing[place], field) is None:
                path = f"{asked.rows}[{place}].{field}"
                entries.append((line, NewEntry(path=path, value=cell, source=source)))
            elif field != "aperture_mm":
                title = str(model.model_fields[field].title)
                wrong.append(Wrong(line, title, f"{aperture} has {title} already; strike it first"))
    return entries, wrong


def _standing(rows: Sequence[RecordPart], values: Mapping[str, str]) -> int | None:
    """The row that a table's row belongs to: the sieve of that aperture, where it stands already."""
    if "aperture_mm" not in values:
        return None
    aperture = number(values["aperture_mm"])
    for i, row in enumerate(rows):
        stands = getattr(row, "aperture_mm", None)
        if stands is not None and abs(stands - aperture) < 1e-9:
            return i
    return None


def preview(session: Session, read: Read, asked: Asked) -> Preview:
    """The table tried against the run: nothing is kept."""
    model = row_model(read.method, asked.rows)
    cells = take_apart(asked.text)
    fields = asked.columns or remembered(session, read.method, asked.rows, cells) or guessed(cells, model)
    _column_fault(fields, cells, model)
    entries, wrong = _entries(read, asked, cells, fields, model)
    if not entries and not wrong:
        raise TableError("text", "there is no row in it")
    return Preview(cells, fields, tuple(entries), tuple(wrong))


def bring_in(session: Session, run: Run, asked: Asked, by: Person, at: datetime) -> tuple[Preview, tuple[Wrong, ...]]:
    """Put the whole table on the tape, or nothing: raises nothing for wrong cells, which are given back.

    The caller's transaction must be undone when anything is wrong.
    """
    entries = read_tape(session, run.id or 0)
    before = compute(run, entries)
    found = preview(session, before, asked)
    if found.wrong:
        return found, found.wrong
    lines = {}
    for line, entry in found.entries:
        kept, _ = post(session, run, entry, by, at, insist=True, entries=entries)
        lines[kept.path] = line
    after = compute(run, entries)
    slips = () if asked.insist else _slips(before, after, lines)
    if not slips:
        remember(session, before.method, asked.rows, found.cells, found.fields)
    return found, slips


def _slips(before: Read, after: Read, lines: Mapping[str, int]) -> tuple[Wrong, ...]:
    """New stop verdicts that point at what was brought in, by line."""
    stood = {(v.rule, v.found) for v in before.outcome.verdicts if v.level == "stop"}
    found = []
    for verdict in after.outcome.verdicts:
        if verdict.level != "stop" or (verdict.rule, verdict.found) in stood:
            continue
        hit = [line for path, line in lines.items() if any(a == path or a.startswith(f"{path}.") for a in verdict.at)]
        if hit:
            found.append(Wrong(hit[0], verdict.rule, verdict.found))
    return tuple(found)
