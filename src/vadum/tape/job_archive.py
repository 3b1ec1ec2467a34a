"""A whole job in one file: its ground, its tapes entry by entry, pictures, raw samples, the kit as it was, and a
manifest with the hash of each; brought into another laboratory's program with every chain intact, or not at all."""

import base64
import hashlib
import io
import json
import zipfile
from collections.abc import Iterator, Mapping, Sequence
from datetime import UTC, date, datetime
from typing import Any, NamedTuple

from pydantic import TypeAdapter
from sqlalchemy import Date, DateTime, Table, func, insert, select
from sqlmodel import Session, SQLModel, col

from vadum.soil.contract.errors import FieldError, VadumError
from vadum.soil.register import METHODS
from vadum.tape import identity, instrument_log, ledger, photographs
from vadum.tape.audit import faults_of
from vadum.tape.codes import code as sound_code
from vadum.tape.codes import refuse_alike
from vadum.tape.dialect import lock_named
from vadum.tape.entries import NewEntry, Taped, append, broken_link, read_tape
from vadum.tape.ground import not_for_practice, refuse_impossible
from vadum.tape.put_right import ASIDE
from vadum.tape.runs import STATES, compute
from vadum.tape.signatures import BROUGHT_IN, ours
from vadum.tape.tables import (
    Entry,
    ImportedRun,
    Job,
    JobSchool,
    KitEvent,
    KitFile,
    KitItem,
    Owed,
    Person,
    Photograph,
    Run,
    Sample,
    Specimen,
    SpecimenPhotograph,
    SpecimenUse,
    Spot,
    Trace,
)
from vadum.tape.vessels_elsewhere import kit_named

FORMAT = "vadum job 1"
MANIFEST = "manifest.json"
TRAVELLING = (*STATES, ASIDE)
MOST_FILES, MOST_BYTES, MOST_RATIO = 20_000, 400_000_000, 300
_E: Table = Entry.__table__  # type: ignore[attr-defined]


class ArchiveError(VadumError):
    """The file is no job, or does not hold together; nothing of it was brought in."""


def _plain(row: SQLModel, *without: str) -> dict[str, Any]:
    """A row as JSON holds it."""
    found = {}
    for column in row.__table__.c:  # type: ignore[attr-defined]
        value = getattr(row, column.name)
        if column.name in without:
            continue
        if isinstance(value, datetime):
            value = value.astimezone(UTC).isoformat(timespec="microseconds")
        found[column.name] = value.isoformat() if isinstance(value, date) else value
    return found


def _all(session: Session, model: type[SQLModel], column: Any, ids: list[int]) -> list[Any]:
    key = col(model.id)  # type: ignore[attr-defined]
    return list(session.execute(select(model).where(col(column).in_(ids)).order_by(key)).scalars())


def _lines(rows: Iterator[dict[str, Any]] | list[dict[str, Any]]) -> bytes:
    return "".join(json.dumps(row, ensure_ascii=False, sort_keys=True) + "\n" for row in rows).encode()


def _told(entry: Taped) -> dict[str, Any]:
    """An entry as a line of its tape: everything its hash is over, and the hash."""
    told = {name: value for name, value in entry.__dict__.items() if name != "run_id"}
    for name in ("at", "arrived_at"):
        told[name] = None if told[name] is None else told[name].astimezone(UTC).isoformat(timespec="microseconds")
    return told | {"strikes": list(entry.strikes)}


class _Packing:
    """The files of an archive as they are gathered, each with its hash."""

    def __init__(self) -> None:
        self.out = io.BytesIO()
        self.zip = zipfile.ZipFile(self.out, "w", zipfile.ZIP_DEFLATED)
        self.hashes: dict[str, str] = {}

    def put(self, name: str, content: bytes) -> None:
        """Add one; its name is made of codes whose signs a file's name can hold."""
        self.hashes[name] = hashlib.sha256(content).hexdigest()
        self.zip.writestr(name, content)

    def __enter__(self) -> "_Packing":
        return self

    def __exit__(self, *_: object) -> None:
        self.zip.close()


def export(session: Session, job: Job, now: datetime) -> bytes:
    """The whole job as a zip. Nothing of practice is in it; what is hidden there stays hidden."""
    with _Packing() as packing:
        _pack(session, job, now, packing)
    return packing.out.getvalue()


def _pack(session: Session, job: Job, now: datetime, packing: _Packing) -> None:
    spots = _all(session, Spot, Spot.job_id, [job.id or 0])
    samples = _all(session, Sample, Sample.spot_id, [s.id for s in spots])
    ids = [s.id for s in samples]
    runs = [r for r in _all(session, Run, Run.sample_id, ids) if r.state in TRAVELLING]
    imported = {i.run_id: i for i in _all(session, ImportedRun, ImportedRun.run_id, [r.id for r in runs])}
    specimens = _all(session, Specimen, Specimen.sample_id, ids)
    named: set[tuple[str, str]] = set()
    initials: set[str] = set()
    told_runs = []
    for run in runs:
        tape = read_tape(session, run.id or 0)
        initials |= {e.by for e in tape}
        named |= {(kind, number) for e in tape for _, kind, number in kit_named(e)}
        packing.put(f"tapes/{run.id}.jsonl", _lines([_told(e) for e in tape]))
        for one in photographs.taken(tape, with_left_out=True):
            jpeg = photographs.jpeg_of(session, run.id or 0, one.hash)
            if jpeg is not None:
                packing.put(f"photographs/{run.id}/{one.hash}.jpg", jpeg)
        traces = instrument_log.traces(session, run.id or 0)
        if traces:
            packing.put(f"raw/{run.id}.jsonl", _lines([_plain(t, "id", "run_id") for t in traces]))
        end = {"entries": len(tape), "head": tape[-1].hash if tape else ""}
        told_runs.append(_plain(run) | end | _origin(run, imported))
    for picture in _all(session, SpecimenPhotograph, SpecimenPhotograph.specimen_id, [s.id for s in specimens]):
        packing.put(f"specimens/{picture.specimen_id}/{picture.hash}.jpg", base64.b64decode(picture.data))
    packing.put("kit.json", _kit(session, packing, named))
    everyone = {p.initials: p.name for p in session.execute(select(Person)).scalars()}
    for one in imported.values():
        everyone |= json.loads(one.people)
    pieces = [s.id for s in specimens]
    pictures = _all(session, SpecimenPhotograph, SpecimenPhotograph.specimen_id, pieces)
    manifest = {
        "format": FORMAT,
        "made_at": now.astimezone(UTC).isoformat(timespec="seconds"),
        "laboratory": identity.identity(session).name,
        "ledger": ledger.head(session.connection()).words,
        "job": _plain(job),
        "schools": [_plain(s, "id", "job_id") for s in _all(session, JobSchool, JobSchool.job_id, [job.id or 0])],
        "spots": [_plain(s) for s in spots],
        "samples": [_plain(s) for s in samples],
        "owed": [_plain(o, "id") for o in _all(session, Owed, Owed.sample_id, ids)],
        "specimens": [_plain(s) for s in specimens],
        "uses": [_plain(u, "id") for u in _all(session, SpecimenUse, SpecimenUse.specimen_id, pieces)],
        "pictures": [_plain(p, "id", "data") for p in pictures],
        "people": {who: everyone.get(who, who) for who in sorted(initials)},
        "runs": told_runs,
        "files": dict(sorted(packing.hashes.items())),
    }
    packing.zip.writestr(MANIFEST, json.dumps(manifest, ensure_ascii=False, indent=1, sort_keys=True))


def _origin(run: Run, imported: dict[int, ImportedRun]) -> dict[str, Any]:
    """What a run's tape is bound to, where it had come from elsewhere already."""
    one = imported.get(run.id or 0)
    return {} if one is None else {"bound_code": one.code, "bound_sample": one.sample_id}


def _kit(session: Session, packing: _Packing, named: set[tuple[str, str]]) -> bytes:
    """The register's pages of the kit that was used: a record, never taken into another laboratory's register."""
    found = []
    for item in session.execute(select(KitItem).order_by(col(KitItem.id))).scalars():
        if (item.kind, item.code) not in named:
            continue
        events = session.execute(select(KitEvent).where(col(KitEvent.item_id) == item.id).order_by(col(KitEvent.at)))
        history = [_plain(e, "id", "item_id") | {"data": json.loads(e.data)} for e in events.scalars()]
        for paper in session.execute(select(KitFile).where(col(KitFile.item_id) == item.id)).scalars():
            packing.put(f"papers/{paper.hash}", base64.b64decode(paper.data))
        found.append(_plain(item, "id") | {"history": history})
    return json.dumps(found, ensure_ascii=False, indent=1, sort_keys=True).encode()


class Brought(NamedTuple):
    """What came in: the job's code here, and how many runs; codes that had to change, old and new."""

    code: str
    runs: int
    renamed: tuple[tuple[str, str], ...]


class _Archive:
    """An archive that was opened and found whole: every file that the manifest names, no other, each with its hash."""

    def __init__(self, content: bytes) -> None:
        try:
            self.zip = zipfile.ZipFile(io.BytesIO(content))
            infos = self.zip.infolist()
            if len(infos) > MOST_FILES or sum(i.file_size for i in infos) > MOST_BYTES:
                raise ArchiveError("The file holds more than a job can.")
            if sum(i.file_size for i in infos) > MOST_RATIO * max(len(content), 1):
                raise ArchiveError("The file unfolds to far more than it is: that is no job.")
            raw = self.zip.read(MANIFEST)
            self.manifest = json.loads(raw)
        except KeyError:
            raise ArchiveError("The file has no manifest: it is no job of this program.") from None
        except (zipfile.BadZipFile, ValueError, EOFError, OSError, NotImplementedError, RuntimeError):
            raise ArchiveError("The file cannot be read as the zip of a job.") from None
        if not isinstance(self.manifest, dict) or self.manifest.get("format") != FORMAT:
            raise ArchiveError("The file is no job of this program, or of a newer one.")
        self.hash = hashlib.sha256(raw).hexdigest()
        names = {i.filename for i in infos}
        files = self.manifest.get("files")
        if not isinstance(files, dict) or names != {*files, MANIFEST}:
            raise ArchiveError("The manifest does not name the files that are there.")
        for name, digest in files.items():
            if hashlib.sha256(self.read(name)).hexdigest() != digest:
                raise ArchiveError(f"{name} is another than the manifest says: it was changed on its way.")

    def read(self, name: str) -> bytes:
        """One file."""
        try:
            return self.zip.read(name)
        except (zipfile.BadZipFile, KeyError, EOFError, OSError):
            raise ArchiveError(f"{name[:60]} cannot be read: the file is damaged.") from None

    def has(self, name: str) -> bool:
        """Whether there is such a file."""
        return name in self.manifest["files"]

    def lines(self, name: str) -> list[dict[str, Any]]:
        """The lines of one file."""
        return [json.loads(line) for line in self.read(name).decode().splitlines() if line]


def _row(model: type[SQLModel], told: dict[str, Any], **change: Any) -> Any:
    """A row made of what an archive tells, with its moments and days; what is no column is an error."""
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


_ENTRY: Any = TypeAdapter(Taped)


def bring_in(session: Session, content: bytes, by: Person, now: datetime, code: str = "") -> Brought:
    """Bring a job in, under another code where one is given; all of it, or nothing: the caller's transaction decides.

    Raises ArchiveError, FieldError (a code that is taken).
    """
    archive = _Archive(content)
    try:
        return _brought(session, archive, by, now, code)
    except (KeyError, TypeError, ValueError, AttributeError, LookupError) as error:
        fault = type(error).__name__
        raise ArchiveError(f"The file does not hold together ({fault}): nothing was brought in.") from None


def _brought(session: Session, archive: _Archive, by: Person, now: datetime, code: str) -> Brought:
    told = archive.manifest
    job = _new_job(session, told["job"], code)
    for one in told["schools"]:
        _known_test(one)
        session.add(_row(JobSchool, one, job_id=job.id))
    spots = {s["id"]: _added(session, Spot, s, job_id=job.id) for s in told["spots"]}
    samples = {s["id"]: _added(session, Sample, s, spot_id=spots[s["spot_id"]].id) for s in told["samples"]}
    for one in told["owed"]:
        _known_test(one)
        session.add(_row(Owed, one, sample_id=samples[one["sample_id"]].id))
    pieces = {s["id"]: _added(session, Specimen, s, sample_id=samples[s["sample_id"]].id) for s in told["specimens"]}
    for one in told["pictures"]:
        jpeg = archive.read(f"specimens/{one['specimen_id']}/{one['hash']}.jpg")
        data = base64.b64encode(jpeg).decode()
        session.add(_row(SpecimenPhotograph, one, specimen_id=pieces[one["specimen_id"]].id, data=data))
    runs: dict[int, Run] = {}
    renamed = []
    for one in told["runs"]:
        run = runs[one["id"]] = _run(session, archive, one, samples[one["sample_id"]], by, now)
        if run.code != one["code"]:
            renamed.append((str(one["code"]), run.code))
    for one in told["uses"]:
        if one["run_id"] in runs:
            ids = {"specimen_id": pieces[one["specimen_id"]].id, "run_id": runs[one["run_id"]].id}
            session.add(_row(SpecimenUse, one, **ids))
    session.flush()
    return Brought(job.code, len(runs), tuple(renamed))


def _added(session: Session, model: type[SQLModel], told: dict[str, Any], **change: Any) -> Any:
    row = _row(model, {name: value for name, value in told.items() if name != "id"}, **change)
    sound_code(row.code)
    _as_typed(row, str(row.code))
    session.add(row)
    session.flush()
    return row


def _as_typed(row: Any, words: str) -> None:
    """What comes by a file passes the door of what is typed; raises ArchiveError that names the place."""
    try:
        refuse_impossible(row)
    except FieldError as error:
        raise ArchiveError(f"{words[:30]}: {error.field} {error.problem}") from None


def _known_test(told: dict[str, Any]) -> None:
    """Refuse a test, a school or a day that nobody could have asked for here."""
    its = METHODS.get(str(told["method"]))
    if its is None:
        raise ArchiveError(f"The file asks for a test that this program does not know: {str(told['method'])[:40]}")
    if "school" in told and str(told["school"]) not in its.schools:
        raise ArchiveError(f"The file asks for a procedure that this laboratory does not have: {told['school'][:60]}")
    if "due_on" in told and not 1950 <= date.fromisoformat(told["due_on"]).year <= 2150:
        raise ArchiveError(f"A test of the file is due on {told['due_on']}, which is not a plausible date")


def _new_job(session: Session, told: dict[str, Any], code: str) -> Job:
    lock_named(session.connection(), "jobs")
    wanted = sound_code(code or str(told["code"]))
    not_for_practice(wanted)
    refuse_alike(wanted, session.execute(select(col(Job.code))).scalars(), "another job here: give it another code")
    made: Job = _added(session, Job, told, code=wanted)
    return made


def _run(session: Session, archive: _Archive, told: dict[str, Any], sample: Sample, by: Person, now: datetime) -> Run:
    """One run with its tape as it was: its code and number where they are free here, else the next."""
    its = METHODS.get(told["method"])
    if its is None:
        raise ArchiveError(f"{told['code']} is a test that this program does not know: {told['method'][:40]}")
    if told["state"] not in TRAVELLING:
        raise ArchiveError(f"{told['code']} is {told['state'][:20]}: such a run does not travel")
    tape = [_ENTRY.validate_python(line | {"run_id": 0}) for line in archive.lines(f"tapes/{told['id']}.jsonl")]
    wrong = broken_link(tape) or ("its tape is not as long as it was" if len(tape) != told["entries"] else "")
    if wrong or not tape or tape[-1].hash != told["head"]:
        raise ArchiveError(f"{told['code']}: {wrong or 'its tape does not end as it did'}")
    known = session.execute(select(col(Entry.id)).where(col(Entry.id) == tape[0].id)).first()
    if known is not None:
        raise ArchiveError(f"{told['code']} is here already: a job is brought in once.")
    number, code = _free_number(session, its.name, its.code, int(told["number"]), str(told["code"]))
    plain = {k: told[k] for k in ("method", "school", "state", "started_at")}
    run: Run = _row(Run, plain, code=code, number=number, sample_id=sample.id, last_seq=len(tape))
    session.add(run)
    session.flush()
    _lay_tape(session, run, tape, by.initials)
    people = {who: name for who, name in archive.manifest["people"].items() if who in {e.by for e in tape}}
    bound = {"code": told.get("bound_code", told["code"]), "sample_id": told.get("bound_sample", told["sample_id"])}
    origin = str(archive.manifest["laboratory"])[:120] or "another laboratory"
    came = ImportedRun(run_id=run.id or 0, laboratory=origin, people=json.dumps(people), manifest=archive.hash, **bound)
    session.add(came)
    _pictures_and_samples(session, archive, told, run, tape)
    session.flush()
    compute(run, tape)  # a tape that cannot be read here is refused before it is kept
    faults = list(faults_of(run, tape, came))
    if faults:
        raise ArchiveError(f"{told['code']} does not hold together: {faults[0]}")
    value = {"laboratory": origin, "code": str(bound["code"]), "entries": len(tape)}
    append(session, run, NewEntry(path=BROUGHT_IN, value=value), by.initials, now)
    _leave_instrument(session, run, by, now)
    return run


def _free_number(session: Session, method: str, letters: str, number: int, code: str) -> tuple[int, str]:
    lock_named(session.connection(), f"number of {method}")
    same_number = (col(Run.method) == method) & (col(Run.number) == number)
    taken = session.execute(select(col(Run.id)).where((col(Run.code) == code) | same_number)).first()
    if taken is None and number > 0 and code == f"{letters}-{number:02d}":
        return number, code
    reached = session.execute(select(func.max(Run.number)).where(col(Run.method) == method)).scalar_one() or 0
    number = max(reached, 0) + 1
    return number, f"{letters}-{number:02d}"


def _lay_tape(session: Session, run: Run, tape: list[Taped], by: str) -> None:
    """The tape as it was; in the ledger it is the act of whoever brought it in: its initials are those of strangers."""
    connection = session.connection()
    for entry in tape:
        texts = {"value": json.dumps(entry.value), "strikes": json.dumps(entry.strikes)}
        connection.execute(insert(_E), {**entry.__dict__, "run_id": run.id, **texts})
        ledger.note(connection, "entry", f"{run.id}/{entry.seq}", entry.hash, by, "brought in with its job")


def _pictures_and_samples(
    session: Session, archive: _Archive, told: dict[str, Any], run: Run, tape: list[Taped]
) -> None:
    for one in photographs.taken(tape, with_left_out=True):
        name = f"photographs/{told['id']}/{one.hash}.jpg"
        if archive.has(name):
            jpeg = archive.read(name)
            if hashlib.sha256(jpeg).hexdigest() != one.hash:
                raise ArchiveError(f"{told['code']}: photograph {one.number} is not the one that was taken")
            width, height = photographs.size_of(jpeg)
            data = base64.b64encode(jpeg).decode()
            session.add(Photograph(run_id=run.id or 0, hash=one.hash, width=width, height=height, data=data))
    if archive.has(f"raw/{told['id']}.jsonl"):
        for line in archive.lines(f"raw/{told['id']}.jsonl"):
            session.add(_row(Trace, line, run_id=run.id))


def _leave_instrument(session: Session, run: Run, by: Person, now: datetime) -> None:
    """An open run that listened elsewhere listens to nothing here: an instrument of that name may stand here too."""
    if not run.in_hand:
        return
    read = compute(run, read_tape(session, run.id or 0))
    listened = instrument_log.listens_to(read)
    if listened is not None:
        instrument_log.note_instrument(session, run, listened[0], "left", by, now, "brought in from elsewhere")


def origin_of(session: Session, run: Run) -> ImportedRun | None:
    """Where a run was brought in from; None for one that was begun here."""
    return session.execute(select(ImportedRun).where(col(ImportedRun.run_id) == run.id)).scalar_one_or_none()


def people_of(origin: ImportedRun, here: Mapping[str, Person], tape: Sequence[Taped]) -> dict[str, Person]:
    """Who the initials on the tape are: people of the other laboratory, nobody who may sign in here. Initials that
    somebody of this laboratory wrote under too are said to be two people."""
    told = json.loads(origin.people)
    found = {}
    for who in {e.by for e in tape[: len(tape) - len(ours(tape))]} | set(told):
        name = f"{told.get(who, who)}, {origin.laboratory}"
        if who in here and any(e.by == who and e.path != BROUGHT_IN for e in ours(tape)):
            name = f"{here[who].name}, here, and {name}, before"
        found[who] = Person(login="", name=name, initials=who, role="", passphrase_hash="", active=False)
    return found
