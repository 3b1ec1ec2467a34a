"""A job's file that came from elsewhere, opened and read through before a lock is held: every file that the manifest
names, no other, each with its hash; every tape with its chain whole, computed once; every picture drawn once."""

import base64
import hashlib
import io
import json
import re
import zipfile
import zlib
from collections.abc import Callable
from datetime import date, datetime
from typing import Any, NamedTuple, TypeVar

from pydantic import TypeAdapter
from sqlalchemy import Date, DateTime
from sqlmodel import SQLModel

from vadum.soil.contract.errors import FieldError, VadumError
from vadum.soil.register import METHODS
from vadum.tape import instrument_log, photographs, pictures
from vadum.tape.audit import faults_of
from vadum.tape.entries import Taped, broken_link
from vadum.tape.put_right import ASIDE
from vadum.tape.runs import STATES, compute
from vadum.tape.tables import ImportedRun, Photograph, Run, SpecimenPhotograph, Trace

FORMAT = "vadum job 1"
MANIFEST = "manifest.json"
TRAVELLING = (*STATES, ASIDE)
MOST_FILES, MOST_RATIO = 20_000, 300
MOST_BYTES, MOST_FILE_BYTES = 200_000_000, 60_000_000  # unfolded: of all files, of one
# Nothing is ever unpacked to a disk; a name of another shape is still none that this program writes.
_NAMES = re.compile(
    r"manifest\.json|kit\.json|(tapes|raw)/\d+\.jsonl|(photographs|specimens)/\d+/[0-9a-f]{64}\.jpg|papers/[0-9a-f]{64}"
)
_INFLATING = (zlib.error, MemoryError)  # what damage within a packed file raises
_ENTRY: Any = TypeAdapter(Taped)
Made = TypeVar("Made")


class ArchiveError(VadumError):
    """The file is no job, or does not hold together; nothing of it was brought in."""


class Carried(NamedTuple):
    """A run as its file tells it: the rows that will be kept of it, not yet of any database, and its tape.

    `listens` names the instrument that it listened to where it was exported, or is empty.
    """

    told: dict[str, Any]
    run: Run
    tape: list[Taped]
    origin: ImportedRun
    photographs: list[Photograph]
    traces: list[Trace]
    listens: str


class JobFile(NamedTuple):
    """A file that was read through: its manifest, its runs, and the photographs of its specimens."""

    manifest: dict[str, Any]
    runs: list[Carried]
    specimen_photographs: list[tuple[dict[str, Any], SpecimenPhotograph]]


def opened(content: bytes) -> JobFile:
    """Read a job's file through. The slow part of an import: it needs no database.

    Raises: ArchiveError.
    """
    archive = _Archive(content)
    return held_together(lambda: _read_through(archive))


def held_together(read: Callable[[], Made]) -> Made:
    """Whatever is missing, or is of another kind than it must be, is a fault of the file; raises ArchiveError."""
    try:
        return read()
    except FieldError as error:
        raise ArchiveError(f"The file does not hold together: {error}. Nothing was brought in.") from None
    except (KeyError, TypeError, ValueError, AttributeError, LookupError, ArithmeticError, RecursionError) as error:
        fault = type(error).__name__
        raise ArchiveError(f"The file does not hold together ({fault}): nothing was brought in.") from None


def row_of(model: type[SQLModel], told: dict[str, Any], **change: Any) -> Any:
    """A row made of what a file tells, with its moments and days; what is no column is an error."""
    columns = model.__table__.c  # type: ignore[attr-defined]
    values: dict[str, Any] = {}
    for name, value in (told | change).items():
        if name not in columns:
            raise ArchiveError(f"The file tells of {name[:40]!r}, which this program does not know.")
        kind = columns[name].type
        if value is not None and isinstance(getattr(kind, "impl", kind), DateTime) and isinstance(value, str):
            value = datetime.fromisoformat(value)
        elif value is not None and isinstance(kind, Date) and isinstance(value, str):
            value = date.fromisoformat(value)
        values[name] = value
    checked = model.model_validate(values)
    return model(**{name: getattr(checked, name) for name in values})


class _Archive:
    """The zip itself: within bounds, and with every file that its manifest names, each with its hash."""

    def __init__(self, content: bytes) -> None:
        try:
            self.zip = zipfile.ZipFile(io.BytesIO(content))
            infos = self.zip.infolist()
            sizes = [i.file_size for i in infos]
            if len(infos) > MOST_FILES or sum(sizes) > MOST_BYTES or max(sizes, default=0) > MOST_FILE_BYTES:
                raise ArchiveError("The file holds more than a job can.")
            if sum(sizes) > MOST_RATIO * max(len(content), 1):
                raise ArchiveError("The file unfolds to far more than it is: that is no job.")
            raw = self.zip.read(MANIFEST)
            self.manifest = json.loads(raw)
        except KeyError:
            raise ArchiveError("The file has no manifest: it is no job of this program.") from None
        except (zipfile.BadZipFile, ValueError, EOFError, OSError, NotImplementedError, RuntimeError, *_INFLATING):
            raise ArchiveError("The file cannot be read as the zip of a job.") from None
        if not isinstance(self.manifest, dict) or self.manifest.get("format") != FORMAT:
            raise ArchiveError("The file is no job of this program, or of a newer one.")
        self.hash = hashlib.sha256(raw).hexdigest()
        files = self.manifest.get("files")
        names = [i.filename for i in infos]
        if not isinstance(files, dict) or sorted(names) != sorted([*files, MANIFEST]):
            raise ArchiveError("The manifest does not name the files that are there.")
        strange = next((name for name in names if not _NAMES.fullmatch(name)), None)
        if strange is not None:
            raise ArchiveError(f"The file holds {strange[:60]!r}, which is no part of a job.")
        for name, digest in files.items():
            if hashlib.sha256(self.read(name)).hexdigest() != digest:
                raise ArchiveError(f"{name[:60]} is another than the manifest says: it was changed on its way.")

    def read(self, name: str) -> bytes:
        """One file."""
        try:
            return self.zip.read(name)
        except (zipfile.BadZipFile, KeyError, EOFError, OSError, NotImplementedError, RuntimeError, *_INFLATING):
            raise ArchiveError(f"{name[:60]} cannot be read: the file is damaged.") from None

    def has(self, name: str) -> bool:
        """Whether there is such a file."""
        return name in self.manifest["files"]

    def lines(self, name: str) -> list[dict[str, Any]]:
        """The lines of one file."""
        return [json.loads(line) for line in self.read(name).decode().splitlines() if line]


def _read_through(archive: _Archive) -> JobFile:
    told = archive.manifest
    people = {str(who): str(name) for who, name in told["people"].items()}
    runs = [_carried(archive, one, people) for one in told["runs"]]
    found = []
    for one in told["pictures"]:
        jpeg = archive.read(f"specimens/{one['specimen_id']}/{one['hash']}.jpg")
        if hashlib.sha256(jpeg).hexdigest() != one["hash"]:
            raise ArchiveError("A specimen's photograph is not the one that was taken")
        width, height = pictures.size_of_kept(jpeg)
        change = {"width": width, "height": height, "data": base64.b64encode(jpeg).decode()}
        found.append((one, row_of(SpecimenPhotograph, one, **change)))
    return JobFile(told, runs, found)


def _carried(archive: _Archive, told: dict[str, Any], people: dict[str, str]) -> Carried:
    if told["method"] not in METHODS:
        raise ArchiveError(f"{told['code']} is a test that this program does not know: {told['method'][:40]}")
    if told["state"] not in TRAVELLING:
        raise ArchiveError(f"{told['code']} is {told['state'][:20]}: such a run does not travel")
    tape = [_ENTRY.validate_python(line | {"run_id": 0}) for line in archive.lines(f"tapes/{told['id']}.jsonl")]
    wrong = broken_link(tape) or ("its tape is not as long as it was" if len(tape) != told["entries"] else "")
    if wrong or not tape or tape[-1].hash != told["head"]:
        raise ArchiveError(f"{told['code']}: {wrong or 'its tape does not end as it did'}")
    plain = {k: told[k] for k in ("code", "number", "method", "school", "state", "started_at")}
    run: Run = row_of(Run, plain, sample_id=0, last_seq=len(tape))
    bound = {"code": told.get("bound_code", told["code"]), "sample_id": told.get("bound_sample", told["sample_id"])}
    writers = {e.by for e in tape}
    its_people = {who: name for who, name in people.items() if who in writers}
    laboratory = str(archive.manifest["laboratory"])[:120] or "another laboratory"
    origin: ImportedRun = row_of(
        ImportedRun, bound, run_id=0, laboratory=laboratory, people=json.dumps(its_people), manifest=archive.hash
    )
    read = compute(run, tape)  # a tape that cannot be read here is refused before it is kept
    faults = list(faults_of(run, tape, origin))
    if faults:
        raise ArchiveError(f"{told['code']} does not hold together: {faults[0]}")
    traces = archive.lines(f"raw/{told['id']}.jsonl") if archive.has(f"raw/{told['id']}.jsonl") else []
    listened = instrument_log.listens_to(read) if run.in_hand else None
    return Carried(
        told,
        run,
        tape,
        origin,
        list(_photographs(archive, told, tape)),
        [row_of(Trace, line, run_id=0) for line in traces],
        listened[0] if listened else "",
    )


def _photographs(archive: _Archive, told: dict[str, Any], tape: list[Taped]) -> Any:
    for one in photographs.taken(tape, with_left_out=True):
        name = f"photographs/{told['id']}/{one.hash}.jpg"
        if not archive.has(name):
            continue
        jpeg = archive.read(name)
        if hashlib.sha256(jpeg).hexdigest() != one.hash:
            raise ArchiveError(f"{told['code']}: photograph {one.number} is not the one that was taken")
        width, height = pictures.size_of_kept(jpeg)
        data = base64.b64encode(jpeg).decode()
        yield Photograph(run_id=0, hash=one.hash, width=width, height=height, data=data)
