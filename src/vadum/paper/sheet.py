"""One run as one sheet: everything that goes on paper, as data, for the page, the PDF and the exports."""

from datetime import UTC, datetime
from typing import Any

from vadum.figures.register import figure
from vadum.paper.letterhead import (
    Days,
    Letterhead,
    client_of,
    depths_of,
    facts_of_sample,
    in_decimals_throughout,
    letterhead_of,
    replaces,
    sheet_number,
    units_of,
)
from vadum.paper.mathematics import as_mathml, as_typst, name_in_mathml, name_in_typst
from vadum.soil.contract import paths
from vadum.soil.contract.called import Called
from vadum.soil.contract.fields import RecordPart, unit_of
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Frozen, Line, Missing
from vadum.soil.contract.shown import ShownValue, ShownVerdict, shown_values, shown_verdicts
from vadum.soil.contract.shown_units import SI, Style
from vadum.soil.contract.working import greek, pretty, with_numbers
from vadum.soil.shared.specimen import FIELDS as HEAD
from vadum.tape.ground import Place
from vadum.tape.identity import Identity
from vadum.tape.ledger import Head
from vadum.tape.photographs import place_words as place_of_picture
from vadum.tape.photographs import taken
from vadum.tape.runs import PRACTICE_STATES, Read
from vadum.tape.shown import said
from vadum.tape.signatures import holds_simulated, standing
from vadum.tape.tables import Person

MOST_ROWS = 120  # of one list on paper
SAME_DAY_S = 12 * 3600  # within it a reading's time stands without its day
ALWAYS = (
    "Results are for a competent person to interpret. Site rules, local codes and licensed practice come before "
    "anything on this sheet."
)


class ReadingTable(Frozen):
    """A list of rows as printed: the digits as typed, the last `derived` columns as they were worked out."""

    title: str
    head: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    derived: int = 0
    list_path: str = ""


class Correction(Frozen):
    """A struck reading, its place in words."""

    place: str
    was: str
    by: str
    reason: str


class Worked(Frozen):
    """A line of working as printed."""

    symbol: str
    formula: str
    mathml: str
    typst: str
    numbers: str
    result: str
    source: str
    note: str


class PrintedPhotograph(Frozen):
    """A photograph as printed: its number, hash, what it is of, and its caption."""

    number: int
    hash: str
    of: str
    caption: str


class Sheet(Frozen):
    """Everything on the sheet."""

    code: str
    number: str
    letterhead: Letterhead
    client: tuple[tuple[str, str], ...]
    replaces: str
    units: str
    title: str
    state: str
    mark: str
    specimen: tuple[tuple[str, str], ...]
    asks: tuple[ShownVerdict, ...]
    held: tuple[ShownVerdict, ...]
    assumed: tuple[str, ...]
    job: str
    spot: str
    sample: str
    school: str
    standard: str
    started: str
    printed: str
    facts: tuple[tuple[str, str], ...]
    tables: tuple[ReadingTable, ...]
    values: tuple[ShownValue, ...]
    missing: tuple[Missing, ...]
    verdicts: tuple[ShownVerdict, ...]
    working: tuple[Worked, ...]
    corrections: tuple[Correction, ...]
    people: tuple[tuple[str, str], ...]
    remarks: str
    limits_of_use: str
    always: str
    tape: str
    ledger: str
    chart_title: str
    photographs: tuple[PrintedPhotograph, ...]
    style: Style


def _typed(record: type[RecordPart], path: str, value: Any, zone: Days) -> str:
    return said(record, path, value, lambda at: _moment(at, zone), lambda day: day.strftime(zone.style.day_format))


def _moment(at: datetime, zone: Days) -> str:
    """A moment with the offset of its own day. A reading by the clock is printed to its second; what was noted by the
    minute stays by the minute."""
    here = at.astimezone(UTC).astimezone(zone.zone)
    time = f"{here:%H:%M:%S}" if here.second else f"{here:%H:%M}"
    return f"{here.strftime(zone.style.day_format)} {time}"


def _facts(read: Read, zone: Days) -> list[tuple[str, str]]:
    facts = []
    for name, field in read.method.Record.model_fields.items():
        entry = read.folded.came_from.get(name)
        if entry is None or name == "remarks" or name in HEAD or field.default == ():
            continue
        unit = unit_of(name)
        source = f" ({entry.source.replace('_', ' ')})" if entry.source.startswith(("run", "kit")) else ""
        words = _typed(read.method.Record, name, read.folded.typed(name), zone)
        facts.append((field.title or name, f"{words}{' ' + unit if unit else ''}{source}"))
    return facts


def tables_of(read: Read, zone: Days, most: int | None = MOST_ROWS) -> list[ReadingTable]:
    """Every list of rows as printed. Rows in rows stand under the row they belong to."""
    tables = []
    called = {c.key: c for c in read.method.called(read.facts, read.school) if c.by in ("travel", "depth", "load")}
    for pattern, columns in read.method.columns.items():
        at = _lists_at(read, pattern)
        made = [t for path in at if (t := _table(read, path, columns, called.get(path), zone, most)) is not None]
        short = len(made) > 1 and all(len(t.rows) <= FEW_ROWS and not t.derived for t in made)
        tables += [_together(read, pattern, made)] if short else made
    return tables


def _together(read: Read, pattern: str, made: list[ReadingTable]) -> ReadingTable:
    """Short lists of rows in rows as one table, whose first column says which row each belongs to."""
    outer = pattern.rpartition(".")[0].removesuffix("[]")
    noun = read.method.rows.get(outer, outer)
    heads = list(dict.fromkeys(head for t in made for head in t.head))
    rows = []
    for t in made:
        parent = str((paths.parse(t.list_path).steps[0].row or 0) + 1)
        for row in t.rows:
            cells = dict(zip(t.head, row, strict=True))
            rows.append((parent, *(cells.get(head, "") for head in heads)))
    title = f"{made[0].title}, {noun} by {noun}"
    return ReadingTable(title=title, head=(noun, *heads), rows=tuple(rows), list_path=pattern.replace("[]", ""))


def _lists_at(read: Read, pattern: str) -> list[str]:
    """The lists that a pattern means in this record."""
    outer, dot, name = pattern.rpartition(".")
    if not dot:
        return [pattern]
    return [paths.of(row, name) for row in paths.expanded(read.folded.record, outer)]


def _table(
    read: Read,
    list_path: str,
    columns: tuple[str, ...],
    called: Called | None,
    zone: Days,
    most: int | None,
) -> ReadingTable | None:
    rows_read = paths.reading_at(read.folded.record, list_path) or ()
    found = paths.holder_of(read.method.Record, list_path)
    if not rows_read or found is None:
        return None
    model = paths.rows_model(*found[:1], found[1].name)
    assert model is not None
    shown = {one.row: one for one in called.taken} if called else {}
    every = thinned(len(rows_read), most or len(rows_read))
    derived = read.method.derived.get(paths.pattern_of(list_path))
    if derived and derived.orders:
        order = {row.get(derived.row): i for i, row in enumerate(read.outcome.series.get(derived.series, ()))}
        every.sort(key=lambda index: order.get(index + derived.first, index))
    rows = []
    for index in every:
        cells = [_cell(read, paths.at(list_path, index, c), rows_read[index], c, zone) for c in columns]
        if called is not None:
            one = shown.get(index)
            at = called.at[index] if index < len(called.at) else None
            place = one.at if one and one.at is not None else at
            cells = ["" if place is None else f"{place:.2f}", *cells, one.shows if one else ""]
        if any(cells):
            rows.append((str(index + 1), *cells, *_derived_cells(read, list_path, index)))
    heads = [f"{model.model_fields[c].title}{', ' + unit_of(c) if unit_of(c) else ''}" for c in columns]
    if called is not None:
        heads = [f"{'depth' if called.by == 'depth' else 'called at'}, {called.unit}", *heads, called.shows]
    heads = ["no.", *heads, *(head for _, head, _ in derived.columns)] if derived else ["no.", *heads]
    used = [0, *(i for i in range(1, len(heads)) if any(r[i] for r in rows))]
    if not rows:
        return None
    title = (found[0].model_fields[found[1].name].title or list_path) + (f", {called.words}" if called else "")
    if len(every) < len(rows_read):
        title += f" ({len(every)} of {len(rows_read)} rows; all of them are in the exports)"
    return ReadingTable(
        title=title,
        head=tuple(heads[i] for i in used),
        rows=tuple(tuple(r[i] for i in used) for r in rows),
        derived=sum(i >= len(heads) - len(derived.columns) for i in used) if derived else int(called is not None),
        list_path=list_path,
    )


def _derived_cells(read: Read, list_path: str, index: int) -> list[str]:
    """What one row came to, as the method declares it."""
    derived = read.method.derived.get(paths.pattern_of(list_path))
    if derived is None:
        return []
    rows = read.outcome.series.get(derived.series, ())
    found = next((r for r in rows if r.get(derived.row) == index + derived.first), {})
    cells = []
    for name, _, digits in derived.columns:
        value = found.get(name)
        cells.append(plain(value, digits) if isinstance(value, int | float) else str(value or ""))
    return cells


def place_words(read: Read, path: str) -> str:
    """A place of the record as a person calls it: the row, and what is read there."""
    return read.method.place_words(path, read.folded.record)


def _assumed(read: Read) -> tuple[str, ...]:
    """What was taken and not measured, each with the sign that marks it."""
    notes = [line.note for line in read.outcome.working if line.note.startswith("#")]
    found = [f"# {v.rule}: {v.found}" for v in read.outcome.verdicts if "(#)" in v.found or "(#)" in v.limit]
    return tuple(dict.fromkeys((*notes, *(words.replace(" (#)", "") for words in found))))


def _specimen(read: Read) -> tuple[tuple[str, str], ...]:
    """Preparation, looks, deviations and the room: what a report says of the specimen."""
    record, found = read.folded.record, []
    for name in HEAD:
        value = getattr(record, name, None)
        field = read.method.Record.model_fields.get(name)
        if value is not None and field is not None:
            unit = unit_of(name)
            words = f"{value:g}" if isinstance(value, float) else str(value)
            found.append((field.title or name, f"{words} {unit}".rstrip()))
    return tuple(found)


def _cell(read: Read, path: str, row: RecordPart, column: str, zone: Days) -> str:
    value = read.folded.typed(path)
    if value is None:
        value = getattr(row, column)
    if isinstance(value, datetime) and abs((value - read.run.started_at).total_seconds()) < SAME_DAY_S:
        return f"{value.astimezone(zone.zone):%H:%M:%S}"
    return _typed(read.method.Record, path, value, zone)


def thinned(many: int, most: int) -> list[int]:
    """At most so many of the numbers from 0, evenly, first and last among them.

    >>> thinned(3, 5), thinned(101, 3)
    ([0, 1, 2], [0, 50, 100])
    """
    if many <= most:
        return list(range(many))
    return sorted({round(i * (many - 1) / (most - 1)) for i in range(most)})


def _worked(line: Line) -> Worked:
    # A figure that only goes by another name is no formula: its note says where it comes from.
    named = line.formula.isidentifier()
    mathml, typst = name_in_mathml(line.symbol), name_in_typst(line.symbol)
    return Worked(
        symbol=greek(line.symbol),
        formula=pretty(line.formula),
        mathml=mathml if named else f"{mathml}<mo>=</mo>{as_mathml(line.formula)}",
        typst=typst if named else f"{typst} = {as_typst(line.formula)}",
        numbers="" if named else with_numbers(line),
        result=f"{plain(line.value, 5)} {line.unit}".strip(),
        source=line.source,
        note="; ".join(words for words in (line.note, _last_digits(line)) if words),
    )


def _last_digits(line: Line) -> str:
    if not line.last_digits:
        return ""
    return f"the readings' last digits alone: {line.last_digits:.2g} {line.unit}".rstrip()


def _people(read: Read, people: dict[str, Person], zone: Days) -> list[tuple[str, str]]:
    def name(initials: str) -> str:
        return f"{people[initials].name} ({initials})" if initials in people else initials

    readers = dict.fromkeys(e.by for e in read.entries if not e.path.startswith("@"))
    lines = [("read by", ", ".join(name(r) for r in readers) or "nobody yet")]
    for path, word in (("@signed", "signed"), ("@checked", "checked")):
        event = read.folded.last_event(path)
        reopened = read.folded.last_event("@reopened")
        if event and not (reopened and reopened.seq > event.seq):
            reason = f": {event.reason}" if event.reason else ""
            lines.append((word, f"{name(event.by)}, {_moment(event.at, zone)}{reason}"))
        else:
            lines.append((word, "not yet"))
    for event in read.folded.events:
        if event.path == "@reopened":
            lines.append(("reopened", f"{name(event.by)}, {_moment(event.at, zone)}: {event.reason}"))
    return lines


def sheet_of(
    read: Read,
    place: Place,
    people: dict[str, Person],
    now: datetime,
    head: Head | None = None,
    who: Identity | None = None,
    origin: str = "",
) -> Sheet:
    """The sheet of a run as it stands now, in the laboratory's own units and signs; `head` is where its ledger stands,
    `who` the laboratory, `origin` from where the run was brought in."""
    style = who.style if who else SI
    made = _sheet_of(read, place, people, now, head, who)
    if origin:
        made = made.model_copy(update={"people": (*made.people, ("brought in", origin))})
    written: Sheet = in_decimals_throughout(made, style.decimal) if style.decimal != "." else made
    return written


def _sheet_of(
    read: Read, place: Place, people: dict[str, Person], now: datetime, head: Head | None, who: Identity | None
) -> Sheet:
    zone = Days(now.tzinfo, who.style if who else SI)
    style = zone.style
    run = read.run
    marks = {
        "open": "Not signed: values may still change.",
        "signed": "Signed, not yet checked.",
        "checked": "",
        "practice": "PRACTICE on a virtual soil: not a result.",
        "revealed": "PRACTICE on a virtual soil: not a result.",
    }
    simulated = run.state not in PRACTICE_STATES and holds_simulated(read)
    stands = standing(read)
    if stands.laboratory:
        marks[run.state] = f"{stands.words[0].upper()}{stands.words[1:]}. Not signed or checked by this laboratory."
    corrections = [
        Correction(
            place=place_words(read, entry.path),
            was=_typed(read.method.Record, entry.path, entry.value, zone),
            by=read.folded.struck[entry.id].by,
            reason=read.folded.struck[entry.id].reason,
        )
        for entry in read.entries
        if entry.id in read.folded.struck
    ]
    remarks = getattr(read.folded.record, "remarks", None)
    return Sheet(
        code=run.code,
        number=sheet_number(read),
        replaces=replaces(read),
        letterhead=letterhead_of(read, who) if who else Letterhead(),
        client=client_of(place),
        units=units_of(style),
        style=style,
        title=read.method.title,
        state=run.state,
        specimen=(*facts_of_sample(place, style), *_specimen(read)),
        asks=tuple(v for v in shown_verdicts(read.outcome) if v.asks),
        held=tuple(v for v in shown_verdicts(read.outcome) if not v.asks),
        assumed=_assumed(read),
        mark="Holds readings of a simulated instrument: not a result." if simulated else marks[run.state],
        job=f"{place.job.code} · {place.job.title}",
        spot=f"{place.spot.code}, {place.spot.kind}{depths_of(place, style)}",
        sample=f"{place.sample.code}, {place.sample.kind}"
        + (f": {place.sample.description}" if place.sample.description else ""),
        school=read.school.title,
        standard=read.school.standard,
        started=_moment(run.started_at.replace(second=0), zone),
        printed=_moment(now.replace(second=0), zone),
        facts=tuple(_facts(read, zone)),
        tables=tuple(tables_of(read, zone)),
        # An uncertainty is printed where its budget is complete, from calibration to operator: none is yet.
        values=tuple(
            v.model_copy(update={"scatter": ""}) for v in shown_values(read.outcome, read.method.leads, style)
        ),
        missing=read.outcome.missing,
        verdicts=shown_verdicts(read.outcome),
        working=tuple(_worked(line) for line in read.outcome.working),
        corrections=tuple(corrections),
        people=tuple(_people(read, people, zone)),
        remarks=remarks or "",
        limits_of_use=read.method.limits_of_use,
        always=ALWAYS,
        tape=read.entries[-1].hash,
        ledger=head.words if head else "",
        chart_title=figure(read.method.name).title,
        photographs=tuple(
            PrintedPhotograph(number=p.number, hash=p.hash, of=place_of_picture(read.run, p.place), caption=p.caption)
            for p in taken(read.entries)
        ),
    )


FEW_ROWS = 40  # of each of several lists in rows: printed as one table
