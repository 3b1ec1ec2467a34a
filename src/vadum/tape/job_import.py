"""A job that another laboratory's program exported, brought into this one with every chain intact, or not at all."""

import json
from collections.abc import Mapping, Sequence
from datetime import date, datetime
from typing import Any, NamedTuple

from sqlalchemy import Table, func, insert, select
from sqlmodel import Session, SQLModel, col

from vadum.soil.contract.errors import FieldError
from vadum.soil.register import METHODS
from vadum.tape import instrument_log, ledger
from vadum.tape.codes import code as sound_code
from vadum.tape.codes import refuse_alike
from vadum.tape.dialect import lock_named
from vadum.tape.entries import NewEntry, Taped, append
from vadum.tape.ground import not_for_practice, refuse_impossible
from vadum.tape.job_file import ArchiveError, Carried, JobFile, held_together, row_of
from vadum.tape.signatures import BROUGHT_IN, ours
from vadum.tape.tables import (
    Entry,
    ImportedRun,
    Job,
    JobSchool,
    Owed,
    Person,
    Run,
    Sample,
    Specimen,
    SpecimenUse,
    Spot,
)

_E: Table = Entry.__table__  # type: ignore[attr-defined]


class Brought(NamedTuple):
    """What came in: the job's code here, and how many runs; codes that had to change, old and new."""

    code: str
    runs: int
    renamed: tuple[tuple[str, str], ...]


def bring_in(session: Session, file: JobFile, by: Person, now: datetime, code: str = "") -> Brought:
    """Bring an opened job in, under another code where one is given; all of it, or nothing: the caller's transaction
    decides.

    Raises ArchiveError, FieldError (a code that is taken).
    """
    job = _new_job(session, file.manifest["job"], code)
    return held_together(lambda: _brought(session, file, job, by, now))


def _brought(session: Session, file: JobFile, job: Job, by: Person, now: datetime) -> Brought:
    told = file.manifest
    for one in told["schools"]:
        _known_test(one)
        session.add(row_of(JobSchool, one, job_id=job.id))
    spots = {s["id"]: _added(session, Spot, s, job_id=job.id) for s in told["spots"]}
    samples = {s["id"]: _added(session, Sample, s, spot_id=spots[s["spot_id"]].id) for s in told["samples"]}
    for one in told["owed"]:
        _known_test(one)
        session.add(row_of(Owed, one, sample_id=samples[one["sample_id"]].id))
    pieces = {s["id"]: _added(session, Specimen, s, sample_id=samples[s["sample_id"]].id) for s in told["specimens"]}
    for one, photograph in file.specimen_photographs:
        photograph.specimen_id = pieces[one["specimen_id"]].id
        session.add(photograph)
    runs: dict[int, Run] = {}
    renamed = []
    for carried in file.runs:
        one = carried.told
        run = runs[one["id"]] = _laid(session, carried, samples[one["sample_id"]], by, now)
        if run.code != one["code"]:
            renamed.append((str(one["code"]), run.code))
    for one in told["uses"]:
        if one["run_id"] in runs:
            ids = {"specimen_id": pieces[one["specimen_id"]].id, "run_id": runs[one["run_id"]].id}
            session.add(row_of(SpecimenUse, one, **ids))
    session.flush()
    return Brought(job.code, len(runs), tuple(renamed))


def _new_job(session: Session, told: dict[str, Any], code: str) -> Job:
    lock_named(session.connection(), "jobs")
    wanted = sound_code(code) if code else held_together(lambda: sound_code(str(told["code"])))
    not_for_practice(wanted)
    refuse_alike(wanted, session.execute(select(col(Job.code))).scalars(), "another job here: give it another code")
    made: Job = held_together(lambda: _added(session, Job, told, code=wanted))
    return made


def _added(session: Session, model: type[SQLModel], told: dict[str, Any], **change: Any) -> Any:
    row = row_of(model, {name: value for name, value in told.items() if name != "id"}, **change)
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


def _laid(session: Session, carried: Carried, sample: Sample, by: Person, now: datetime) -> Run:
    """One run with its tape as it was: its code and number where they are free here, else the next."""
    run, tape, told = carried.run, carried.tape, carried.told
    known = session.execute(select(col(Entry.id)).where(col(Entry.id) == tape[0].id)).first()
    if known is not None:
        raise ArchiveError(f"{told['code']} is here already: a job is brought in once.")
    its = METHODS[run.method]
    run.number, run.code = _free_number(session, its.name, its.code, run.number, run.code)
    run.sample_id = sample.id or 0
    session.add(run)
    session.flush()
    _lay_tape(session, run, tape, by.initials)
    for row in (carried.origin, *carried.photographs, *carried.traces):
        row.run_id = run.id or 0
        session.add(row)
    session.flush()
    origin = carried.origin
    value = {"laboratory": origin.laboratory, "code": origin.code, "entries": len(tape)}
    append(session, run, NewEntry(path=BROUGHT_IN, value=value), by.initials, now)
    if carried.listens:  # elsewhere; here it listens to nothing: an instrument of that name may be registered here too
        instrument_log.note_instrument(session, run, carried.listens, "left", by, now, "brought in from elsewhere")
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
