"""A pasted or imported table of readings: taken apart, matched to a run's fields, tried whole, brought in whole."""

import json
import re
import uuid
from collections.abc import Mapping
from datetime import datetime
from typing import Annotated, Any, NamedTuple

from pydantic import BaseModel, ConfigDict, Field
from sqlalchemy import select
from sqlmodel import Session, col

from vadum.soil.contract import paths
from vadum.soil.contract.block import MOST_BLOCK_ROWS, block_of, is_block
from vadum.soil.contract.compare import alike
from vadum.soil.contract.errors import FieldError
from vadum.soil.contract.fields import RecordPart, number, unit_of
from vadum.soil.contract.head_units import Conversion, conversion
from vadum.soil.contract.method import Method
from vadum.tape.entries import NewEntry, append, read_tape
from vadum.tape.posting import post
from vadum.tape.runs import NotAllowed, Read, compute
from vadum.tape.tables import ColumnMatch, Person, Run
from vadum.tape.typed_table import MOST_ROWS, Cells, TableError, take_apart
from vadum.tape.typed_values import parse

MOST_BY_HAND = 100  # of a list that takes blocks: so many rows are still looked at one by one
MOST_TEXT = 1_500_000
LEAVE = ""


class Wrong(NamedTuple):
    """A cell that cannot be brought in: its line and column as the person counts them, and why."""

    line: int
    column: str
    problem: str


class Asked(BaseModel):
    """A table to look at or to bring in: its text, the list it goes into, and which field each column is."""

    model_config = ConfigDict(extra="forbid")
    rows: str = Field(max_length=40)
    text: str = Field(min_length=1, max_length=MOST_TEXT)
    columns: tuple[str, ...] | None = Field(None, max_length=40)
    source: str = Field("pasted", max_length=50)
    insist: bool = False
    # The unit of each column, where its head names none or one that is not known; empty: by the head.
    units: tuple[Annotated[str, Field(max_length=20)], ...] | None = Field(None, max_length=40)


class Preview(NamedTuple):
    """What would be brought in: the columns with their fields and units, the entries, and what is wrong. `cells` are in
    the fields' units already; `typed` are as they came."""

    cells: Cells
    fields: tuple[str, ...]
    entries: tuple[tuple[int, NewEntry], ...]
    wrong: tuple[Wrong, ...]
    conversions: tuple[Conversion, ...]
    typed: Cells


def row_model(its: Method, rows: str) -> type[RecordPart]:
    """The model of one row of a list; raises FieldError for a list that the method does not have."""
    model = paths.rows_model(its.Record, rows) if paths.pattern_of(rows) in its.rows else None
    if model is None:
        raise FieldError("rows", f"is one of {', '.join(its.rows) or 'none: this method has no table'}")
    return model


def table_lists(its: Method) -> tuple[str, ...]:
    """The lists of a method that a table can be brought into."""
    return tuple(its.rows)


def lists_in(its: Method, record: RecordPart) -> tuple[str, ...]:
    """The lists of a record that a table can be brought into: of rows in rows one for each outer row that there is, the
    newest first."""
    found: list[str] = []
    for pattern in table_lists(its):
        found += reversed(paths.expanded(record, pattern)) if "[" in pattern else [pattern]
    return tuple(found)


def _plain(words: str) -> str:
    return re.sub(r"[^a-z0-9%°]+", " ", words.lower()).strip()


def guessed(cells: Cells, model: type[RecordPart], synonyms: Mapping[str, tuple[str, ...]]) -> tuple[str, ...]:
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
            scored = [(len(parts & set(" ".join(synonyms[f]).split())), f) for f in left if f in synonyms]
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
        col(ColumnMatch.rows) == paths.pattern_of(rows),
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
        found = ColumnMatch(method=its.name, rows=paths.pattern_of(rows), signature=cells.signature, fields="[]")
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


class _Rows:
    """A table going into a list: an entry per row, or per open field of a row that stands there already."""

    def __init__(self, read: Read, asked: Asked, cells: Cells, fields: tuple[str, ...], model: type[RecordPart]):
        self.read, self.cells, self.fields, self.model = read, cells, fields, model
        self.rows = asked.rows
        self.source = f"import: {asked.source}"[:60]
        self.converted = ""
        pattern = paths.pattern_of(asked.rows)
        # The field that names a row (a sieve's aperture) finds the row that stands already; it stands once.
        self.key = read.method.row_named_by.get(pattern, "")
        # A row of another kind at the table's end (the pan) fills a single field of the record.
        self.last_field, self.last_words = read.method.last_rows.get(pattern, ("", ()))
        self.standing = list(paths.reading_at(read.folded.record, asked.rows) or ())
        self.following = len(self.standing)
        self.taken: set[str] = set()
        self.entries: list[tuple[int, NewEntry]] = []
        self.wrong: list[Wrong] = []

    def fault(self, line: int, field: str, problem: str) -> None:
        """Note what is wrong with a cell."""
        at = self.fields.index(field) if field in self.fields else 0
        self.wrong.append(Wrong(line, self.cells.heads[at], problem))

    def keep(self, line: int, path: str, value: Any) -> None:
        """Note an entry."""
        self.entries.append((line, NewEntry(path=path, value=value, source=self.source, reason=self.converted)))

    def values_of(self, line: int, row: tuple[str, ...]) -> dict[str, str] | None:
        """The cells of a row by field; None when one of them cannot be read, which is noted."""
        values: dict[str, str] = {}
        good = True
        for index, field in enumerate(self.fields):
            cell = row[index] if index < len(row) else ""
            if not field or not cell:
                continue
            try:
                parse(self.read.method.Record, f"{self.rows}[0].{field}", cell)
            except FieldError as error:
                self.fault(line, field, error.problem)
                good = False
            values[field] = cell
        return values if good else None

    def is_last(self, row: tuple[str, ...]) -> bool:
        """Whether the row is the one at the end that fills a single field."""
        if not self.last_field or self.key not in self.fields:
            return False
        index = self.fields.index(self.key)
        return index < len(row) and row[index].lower() in self.last_words

    def last(self, line: int, row: tuple[str, ...]) -> None:
        """The row at the end: its first figure is the field's."""
        word = row[self.fields.index(self.key)].lower()
        values = self.values_of(line, tuple("" if cell.lower() == word else cell for cell in row))
        if values is None:
            return
        if self.last_field in self.taken:
            self.fault(line, self.key, f"the {word} stands twice in this table")
        elif paths.reading_at(self.read.folded.record, self.last_field) is not None:
            self.fault(line, self.key, f"the {word} has its reading already; strike it first")
        elif not values:
            self.fault(line, self.key, f"the {word} has no reading")
        else:
            self.taken.add(self.last_field)
            self.keep(line, self.last_field, next(iter(values.values())))

    def one(self, line: int, row: tuple[str, ...]) -> None:
        """A row of the list."""
        values = self.values_of(line, row)
        if values is None:
            return
        if not values:
            self.fault(line, "", "the row is empty")
            return
        named = f"{number(values[self.key]):g} {unit_of(self.key)}" if self.key in values else ""
        if named and named in self.taken:
            self.fault(line, self.key, f"{named} stands twice in this table")
            return
        self.taken.add(named)
        place = self.place_of(values)
        if place is None:
            self.keep(line, f"{self.rows}[{self.following}]", dict(values))
            self.following += 1
            return
        for field, cell in values.items():
            if getattr(self.standing[place], field) is None:
                self.keep(line, f"{self.rows}[{place}].{field}", cell)
            elif field != self.key:
                title = str(self.model.model_fields[field].title)
                self.wrong.append(Wrong(line, title, f"{named} has {title} already; strike it first"))

    def place_of(self, values: Mapping[str, str]) -> int | None:
        """The row that stands already under the name of a table's row."""
        if self.key not in values:
            return None
        named = number(values[self.key])
        for i, row in enumerate(self.standing):
            stands = getattr(row, self.key, None)
            if stands is not None and alike(stands, named):
                return i
        return None

    def block(self) -> None:
        """The whole table as one block; where it cannot be read, every cell that is at fault."""
        columns: dict[str, list[str | int | float | None]] = {
            field: [(row[i] if i < len(row) else "") or None for _, row in self.cells.rows]
            for i, field in enumerate(self.fields)
            if field
        }
        value = block_of(columns)
        try:
            parse(self.read.method.Record, f"{self.rows}[]", value)
        except FieldError as error:
            for line, row in self.cells.rows:
                self.values_of(line, row)
            if not self.wrong:
                self.wrong.append(Wrong(self.cells.rows[0][0], self.cells.heads[0], error.problem))
            return
        self.keep(self.cells.rows[0][0], f"{self.rows}[]", value)

    def laid(self) -> tuple[list[tuple[int, NewEntry]], list[Wrong]]:
        """The entries, and every cell that cannot be read."""
        if paths.pattern_of(self.rows) in self.read.method.blocks and len(self.cells.rows) > MOST_BY_HAND:
            self.block()
            return self.entries, self.wrong
        if len(self.cells.rows) > MOST_ROWS:
            raise TableError("text", f"has {len(self.cells.rows)} rows; at most {MOST_ROWS} are taken at once")
        for line, row in self.cells.rows:
            if self.is_last(row):
                self.last(line, row)
            else:
                self.one(line, row)
        return self.entries, self.wrong


def preview(session: Session, read: Read, asked: Asked) -> Preview:
    """The table tried against the run: nothing is kept."""
    model = row_model(read.method, asked.rows)
    takes_blocks = paths.pattern_of(asked.rows) in read.method.blocks
    cells = take_apart(asked.text, MOST_BLOCK_ROWS if takes_blocks else MOST_ROWS)
    known = remembered(session, read.method, asked.rows, cells)
    fields = asked.columns or known or guessed(cells, model, read.method.synonyms)
    _column_fault(fields, cells, model)
    conversions = _conversions(cells, fields, asked.units)
    converted = _converted(cells, conversions)
    rows = _Rows(read, asked, converted, fields, model)
    rows.converted = conversion_words(fields, conversions)
    entries, wrong = rows.laid()
    if not entries and not wrong:
        raise TableError("text", "there is no row in it")
    # A unit that cannot be what the field measures is no matter of asking: nothing of it can be brought in.
    first = cells.rows[0][0]
    wrong += [Wrong(first, cells.heads[i], c.asks) for i, c in enumerate(conversions) if c.unit and c.asks]
    return Preview(converted, fields, tuple(entries), tuple(wrong), conversions, cells)


def _conversions(cells: Cells, fields: tuple[str, ...], units: tuple[str, ...] | None) -> tuple[Conversion, ...]:
    """How each column becomes its field's unit: by what a person said of it, else by its head."""
    found = []
    for i, field in enumerate(fields):
        said = units[i] if units and i < len(units) else ""
        found.append(conversion(f"({said})" if said else cells.heads[i], unit_of(field) if field else ""))
    return tuple(found)


def _converted(cells: Cells, conversions: tuple[Conversion, ...]) -> Cells:
    if not any(c.changes for c in conversions):
        return cells
    rows = tuple(
        (line, tuple(conversions[i].of(cell) if i < len(conversions) else cell for i, cell in enumerate(row)))
        for line, row in cells.rows
    )
    return cells._replace(rows=rows)


def conversion_words(fields: tuple[str, ...], conversions: tuple[Conversion, ...]) -> str:
    """What was converted, for the tape."""
    said = [
        f"{paths.field_name(field)} from {c.unit}"
        for field, c in zip(fields, conversions, strict=True)
        if field and c.changes
    ]
    return f"converted: {', '.join(said)}"[:400] if said else ""


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
        if not is_block(entry.value):
            lines[kept.path] = line
            continue
        rows = paths.parse(kept.path).rows[-1]
        lines |= {f"{rows[0]}[{rows[1] + i}]": at for i, (at, _) in enumerate(found.cells.rows)}
    after = compute(run, entries)
    slips = () if asked.insist else _slips(before, after, lines)
    if not slips:
        remember(session, before.method, asked.rows, found.cells, found.fields)
    return found, slips


MOST_STRIKES = 50  # of one entry
UNDONE = "import undone"


def take_back(session: Session, run: Run, first: int, last: int, by: Person, at: datetime) -> int:
    """Strike out the entries of an import, with what the kit brought with them; how many.

    Raises NotAllowed where one of them is not an import's own.
    """
    if not run.in_hand:
        raise NotAllowed(f"{run.code} is {run.state}: reopen it first")
    entries = read_tape(session, run.id or 0)
    struck = {target for entry in entries for target in entry.strikes}
    mine = [e for e in entries if first <= e.seq <= last and e.value is not None and e.id not in struck]
    foreign = next((e for e in mine if not e.source.startswith(("import", "kit"))), None)
    if foreign is not None:
        raise NotAllowed(f"reading {foreign.seq} is not part of this import: strike it out by itself")
    for begin in range(0, len(mine), MOST_STRIKES):
        some = mine[begin : begin + MOST_STRIKES]
        ids = tuple(uuid.UUID(e.id) for e in some)
        append(session, run, NewEntry(path=some[0].path, strikes=ids, reason=UNDONE), by.initials, at, entries)
    return len(mine)


def _slips(before: Read, after: Read, lines: Mapping[str, int]) -> tuple[Wrong, ...]:
    """New stop verdicts that point at what was brought in, by line."""
    stood = {(v.rule, v.found) for v in before.outcome.verdicts if v.level == "stop"}
    found = []
    for verdict in after.outcome.verdicts:
        if verdict.level != "stop" or (verdict.rule, verdict.found) in stood:
            continue
        hit = [place for a in verdict.at for place in (a, a.rpartition(".")[0]) if place in lines]
        if hit:
            found.append(Wrong(lines[hit[0]], verdict.rule, verdict.found))
    return tuple(found)
