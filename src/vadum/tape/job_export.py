"""A whole job as one file: its ground, its tapes entry by entry, pictures, raw samples, the kit as it was, and a
manifest with the hash of each."""

import base64
import hashlib
import io
import json
import zipfile
from collections.abc import Iterator
from datetime import UTC, date, datetime
from typing import Any

from sqlalchemy import select
from sqlmodel import Session, SQLModel, col

from vadum.tape import identity, instrument_log, ledger, photographs
from vadum.tape.entries import Taped, read_tape
from vadum.tape.job_file import FORMAT, MANIFEST, TRAVELLING
from vadum.tape.tables import (
    ImportedRun,
    Job,
    JobSchool,
    KitEvent,
    KitFile,
    KitItem,
    Owed,
    Person,
    Run,
    Sample,
    Specimen,
    SpecimenPhotograph,
    SpecimenUse,
    Spot,
)
from vadum.tape.vessels_elsewhere import kit_named


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
