"""One run as open data: JSON with its whole tape, CSV as rows, tidy tables, and all of it with its photographs."""

import csv
import io
import zipfile
from collections.abc import Mapping

from vadum.paper.letterhead import Days
from vadum.paper.sheet import Sheet, place_words, tables_of
from vadum.paper.spreadsheet import spreadsheet_cell
from vadum.soil.contract import paths
from vadum.soil.contract.fields import unit_of
from vadum.soil.contract.plain_json import as_json as json_text
from vadum.tape.fold import value_in
from vadum.tape.practice_runs import told
from vadum.tape.runs import Read


def as_json(read: Read, sheet: Sheet) -> str:
    """The run as open data: record, outcome and the whole tape."""
    tape = [e.model_dump(mode="json", exclude={"run_id"}) for e in told(read.run, read.entries)]
    return json_text(
        {
            "run": sheet.code,
            "method": read.method.name,
            "method_version": read.method.version,
            "school": read.school.model_dump(mode="json"),
            "state": sheet.state,
            "job": sheet.job,
            "spot": sheet.spot,
            "sample": sheet.sample,
            "record": read.folded.record.model_dump(mode="json", exclude_defaults=True),
            "outcome": read.outcome.model_dump(mode="json"),
            "shown": {
                "values": [v.model_dump(mode="json") for v in sheet.values],
                "verdicts": [v.model_dump(mode="json") for v in sheet.verdicts],
            },
            "tape": tape,
        },
        indent=1,
    )


def as_csv(read: Read, sheet: Sheet) -> str:
    """The run as rows: readings as typed, then values, then verdicts."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(["run", "part", "place", "value", "unit", "by", "at", "source", "note", "what"])

    def row(*cells: str) -> None:
        writer.writerow([spreadsheet_cell(c) for c in (sheet.code, *cells)])

    for path, entry in read.folded.came_from.items():
        value = value_in(entry, path)
        at, words = entry.at.isoformat(), place_words(read, path)
        row("reading", path, str(value), unit_of(path), entry.by, at, entry.source, "", words)
    for blocks in read.folded.came_from.blocks.values():
        for laid in blocks:
            for name, column in laid.entry.value["columns"].items():
                for i, cell in enumerate(column):
                    path = paths.at(paths.parse(laid.entry.path).rows[-1][0], laid.first + i, name)
                    by, at, source = laid.entry.by, laid.entry.at.isoformat(), laid.entry.source
                    row("reading", path, "" if cell is None else str(cell), unit_of(name), by, at, source, "")
    for v in sheet.values:
        row("value", v.key, v.reported, v.unit, "", "", "", v.qualified)
    for verdict in sheet.verdicts:
        row("verdict", verdict.rule, verdict.found, "", "", "", verdict.source, f"{verdict.level}: {verdict.limit}")
    return out.getvalue()


def tidy_tables(read: Read, sheet: Sheet) -> dict[str, str]:
    """The run as tidy tables, by file name: one for each list of rows with a column per reading, its unit in the head
    and what each row came to beside; one for the values, one for the rules. Every row of a list, not the printed ones.
    """
    zone = Days()
    files = {}
    for table in tables_of(read, zone, most=None):
        name = "".join(c if c.isalnum() else "_" for c in table.list_path.casefold()).strip("_")
        files[f"{name}.csv"] = _csv([list(table.head), *map(list, table.rows)])
    values = [["value", "symbol", "reported", "unit", "note"]]
    values += [[v.name, v.symbol, v.reported, v.unit, v.qualified] for v in sheet.values]
    files["values.csv"] = _csv(values)
    rules = [["level", "rule", "found", "limit", "source", "what to do"]]
    rules += [[v.level, v.rule, v.found, v.limit, v.source, v.remedy] for v in sheet.verdicts]
    files["rules.csv"] = _csv(rules)
    return files


def _csv(rows: list[list[str]]) -> str:
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerows([[spreadsheet_cell(c) for c in row] for row in rows])
    return out.getvalue()


def as_zip(read: Read, sheet: Sheet, pictures: Mapping[str, bytes]) -> bytes:
    """The tidy tables, the tape's own rows and the photographs in one archive."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, text in {**tidy_tables(read, sheet), "tape.csv": as_csv(read, sheet)}.items():
            archive.writestr(f"{sheet.code}/{name}", text.encode("utf-8-sig"))
        for one in sheet.photographs:
            if one.hash in pictures:
                archive.writestr(f"{sheet.code}/photograph-{one.number}.jpg", pictures[one.hash])
    return out.getvalue()
