"""The find box: every thing with the words it is known by, in one table that the database searches by whole words.

The table follows what is written, whoever writes it, and can be made anew at any time; nothing rests on it.
"""

import re
import unicodedata
from collections.abc import Mapping, Sequence
from functools import lru_cache
from typing import Any, NamedTuple

from sqlalchemy import Connection, Table, delete, event, insert, select, update
from sqlalchemy.orm import Session as PlainSession
from sqlmodel import Session, col

from vadum.soil.register import METHODS
from vadum.tape.dialect import found_words
from vadum.tape.ground import PRACTICE_JOB
from vadum.tape.kit import one_of
from vadum.tape.tables import Findable, Job, KitItem, Person, Run, Sample, Spot

_F: Table = Findable.__table__  # type: ignore[attr-defined]
KINDS = ("kit", "job", "spot", "sample", "person", "run")  # the most likely first: a tin before a run's number
MOST_WORDS = 8
OF_ITSELF = ("kit", "person")  # whose words are all in their own row
A_BATCH = 2000


class Hit(NamedTuple):
    """Something found: what kind of thing, its row, and whether its code is exactly what was asked for."""

    kind: str
    subject: int
    exact: bool


@lru_cache(maxsize=20_000)
def plain_words(text: str) -> str:
    """A text as it is searched: small letters without accents, and figures, with a space where anything else stood.

    >>> plain_words("TP4 1.6 m · B1, sablé")
    'tp4 1 6 m b1 sable'
    """
    bare = "".join(c for c in unicodedata.normalize("NFKD", text) if not unicodedata.combining(c))
    return " ".join(re.findall(r"[^\W_]+", bare.lower()))


def _depth(top: float | None) -> str:
    return "" if top is None else f"{top:g} {top:.1f}"


_SAMPLES: Any = (
    select(
        col(Sample.id),
        col(Sample.code),
        col(Sample.kind),
        col(Sample.depth_top_m),
        col(Sample.description),
        col(Spot.code).label("spot"),
        col(Job.code).label("job"),
    )
    .join(Spot, col(Sample.spot_id) == col(Spot.id))
    .join(Job, col(Spot.job_id) == col(Job.id))
    .where(col(Job.code) != PRACTICE_JOB)
)
_SPOTS: Any = (
    select(col(Spot.id), col(Spot.code), col(Spot.kind), col(Spot.note), col(Job.code).label("job"))
    .join(Job, col(Spot.job_id) == col(Job.id))
    .where(col(Job.code) != PRACTICE_JOB)
)
_RUNS: Any = (
    select(
        col(Run.id),
        col(Run.code),
        col(Run.method),
        col(Sample.code).label("sample"),
        col(Sample.depth_top_m),
        col(Spot.code).label("spot"),
    )
    .join(Sample, col(Run.sample_id) == col(Sample.id))
    .join(Spot, col(Sample.spot_id) == col(Spot.id))
    .where(col(Run.number) > 0)  # practice counts downward, and is found nowhere
)
_JOBS: Any = select(
    col(Job.id), col(Job.code), col(Job.title), col(Job.note), col(Job.client), col(Job.contract)
).where(col(Job.code) != PRACTICE_JOB)
_KIT: Any = select(col(KitItem.id), col(KitItem.kind), col(KitItem.code), col(KitItem.title))
_PEOPLE: Any = select(col(Person.id), col(Person.name), col(Person.initials), col(Person.login))


def _rows(connection: Connection, kind: str, query: Any) -> list[dict[str, Any]]:
    """What stands in the table for each row of a query."""
    return [_row(kind, r) for r in connection.execute(query).mappings()]


def _row(kind: str, r: Any) -> dict[str, Any]:
    code, words = _told(kind, r)
    return {"kind": kind, "subject": r["id"], "code": plain_words(code)[:80], "words": plain_words(words)}


def _told(kind: str, r: Any) -> tuple[str, str]:
    """A thing's own code, and all the words it is known by."""
    if kind == "kit":
        return r["code"], f"{one_of(r['kind'])} {r['kind']} {r['code']} {r['title']}"
    if kind == "job":
        return r["code"], f"{r['code']} {r['title']} {r['client']} {r['contract']} {r['note']}"
    if kind == "spot":
        return r["code"], f"{r['job']} {r['code']} {r['kind']} {r['note']}"
    if kind == "sample":
        place = f"{r['spot']} {_depth(r['depth_top_m'])}"
        return f"{r['spot']} {r['code']}", f"{r['job']} {place} {r['code']} {r['kind']} {r['description']}"
    if kind == "person":
        return r["initials"], f"{r['name']} {r['initials']} {r['login']}"
    title = METHODS[r["method"]].title if r["method"] in METHODS else r["method"]
    return r["code"], f"{r['code']} {title} {r['spot']} {_depth(r['depth_top_m'])} {r['sample']}"


QUERIES = {"kit": _KIT, "job": _JOBS, "spot": _SPOTS, "sample": _SAMPLES, "person": _PEOPLE, "run": _RUNS}
_OF: dict[type[Any], str] = {
    KitItem: "kit",
    Job: "job",
    Spot: "spot",
    Sample: "sample",
    Person: "person",
    Run: "run",
}
_IDS = {"kit": KitItem.id, "job": Job.id, "spot": Spot.id, "sample": Sample.id, "person": Person.id, "run": Run.id}
# What a thing's words are part of: a spot's new code is in the words of its samples and of their runs.
_WITHIN: dict[str, tuple[tuple[str, Any], ...]] = {
    "job": (("spot", Spot.job_id), ("sample", Spot.job_id)),
    "spot": (("sample", Sample.spot_id), ("run", Sample.spot_id)),
    "sample": (("run", Run.sample_id),),
}


def rebuild(connection: Connection) -> None:
    """Make the whole table anew."""
    connection.execute(delete(_F))
    for kind in reversed(KINDS):
        rows = _rows(connection, kind, QUERIES[kind].order_by(col(_IDS[kind])))
        for start in range(0, len(rows), A_BATCH):
            connection.execute(insert(_F), rows[start : start + A_BATCH])


def _put(connection: Connection, kind: str, where: Any, *, new: bool) -> None:
    rows = _rows(connection, kind, QUERIES[kind].where(where))
    if new and rows:
        connection.execute(insert(_F), rows)
    for row in () if new else rows:
        at = (_F.c.kind == row["kind"], _F.c.subject == row["subject"])
        connection.execute(update(_F).where(*at).values(code=row["code"], words=row["words"]))


def follow_made(connection: Connection, model: type[Any], rows: Sequence[Mapping[str, Any]]) -> None:
    """New rows of a table are found from now on, where they are of those that are searched for."""
    kind = _OF.get(model)
    if kind in OF_ITSELF:
        connection.execute(insert(_F), [_row(kind, row) for row in rows])
    elif kind is not None:
        for start in range(0, len(rows), A_BATCH):
            ids = [row["id"] for row in rows[start : start + A_BATCH]]
            _put(connection, kind, col(_IDS[kind]).in_(ids), new=True)


@event.listens_for(Session, "after_flush")
def _follow(session: PlainSession, _context: Any) -> None:
    """Whatever a session writes is found from then on: no door has to remember it."""
    connection = session.connection()
    for row in session.deleted:
        kind = _OF.get(type(row))
        if kind:
            connection.execute(delete(_F).where(_F.c.kind == kind, _F.c.subject == row.id))
    made: dict[type[Any], list[dict[str, Any]]] = {}
    for row in session.new:
        if type(row) in _OF:
            made.setdefault(type(row), []).append({c.name: getattr(row, c.name) for c in row.__table__.c})
    for model, rows in made.items():
        follow_made(connection, model, rows)
    for row in session.dirty:
        kind = _OF.get(type(row))
        if kind is None or not _renamed(row):
            continue
        _put(connection, kind, col(_IDS[kind]) == row.id, new=False)
        for inner, column in _WITHIN.get(kind, ()):
            _put(connection, inner, col(column) == row.id, new=False)


_NAMES = ("code", "title", "kind", "note", "client", "contract", "description", "depth_top_m", "name", "initials")


def _renamed(row: Any) -> bool:
    """Whether a word of it was changed: a run's state or a person's role is none."""
    from sqlalchemy import inspect

    attributes = inspect(row).attrs
    return any(name in attributes and attributes[name].history.has_changes() for name in _NAMES)


def look(session: Session, text: str, most: int = 12) -> list[Hit]:
    """What a text finds: first what is called exactly so, then what begins with all its words, the likeliest first."""
    asked = plain_words(text)
    if not asked:
        return []
    rank = {kind: i for i, kind in enumerate(KINDS)}
    exact = session.execute(select(_F.c.kind, _F.c.subject).where(_F.c.code == asked[:80]).limit(4 * most)).all()
    hits = [Hit(kind, subject, True) for kind, subject in sorted(exact, key=lambda r: rank.get(r[0], 9))]
    words = [plain_words(word).split() for word in text.split()[:MOST_WORDS]]
    words = [pieces for pieces in words if pieces]
    for kind in KINDS:
        if len(hits) >= most:
            break
        ids = found_words(session.connection(), kind, words, most)
        named = session.execute(select(_F.c.id, _F.c.subject).where(_F.c.id.in_(ids))).all()
        subjects = {row[0]: row[1] for row in named}
        hits += [
            Hit(kind, subjects[i], False) for i in ids if i in subjects and Hit(kind, subjects[i], True) not in hits
        ]
    return hits[:most]
