"""Specimens: pieces between a sample and its runs, shared by several tests; what is left of them is known."""

import base64
import math
from collections import defaultdict
from typing import Annotated, Any, Literal, NamedTuple

from pydantic import AfterValidator, BaseModel, BeforeValidator, ConfigDict, Field
from sqlmodel import Session, col, select

from vadum.soil.contract.errors import FieldError
from vadum.soil.contract.fields import PlainNumber
from vadum.soil.contract.numerics import plain
from vadum.tape.codes import code, plain_text, refuse_alike
from vadum.tape.dialect import lock_named
from vadum.tape.entries import NewEntry, append
from vadum.tape.photographs import MOST_CAPTION
from vadum.tape.pictures import Marked
from vadum.tape.runs import NotAllowed
from vadum.tape.tables import Person, Run, Sample, Specimen, SpecimenPhotograph, SpecimenUse

MOST_G, MOST_DEPTH_M = 1e6, 100.0
MOST_PICTURES = 20
Orientation = Literal["", "vertical", "horizontal", "inclined"]


Maybe = Annotated[PlainNumber | None, BeforeValidator(lambda typed: None if typed == "" else typed)]


class NewSpecimen(BaseModel):
    """A specimen to be cut: its number, from which piece (empty: the sample), where it lay below the sample's top."""

    model_config = ConfigDict(extra="forbid", str_strip_whitespace=True)
    code: Annotated[str, Field(min_length=1, max_length=20), AfterValidator(code)]
    cut_from: str = Field("", max_length=20)
    depth_m: Maybe = None
    orientation: Orientation = ""
    size: Annotated[str, AfterValidator(plain_text)] = Field("", max_length=60)
    mass_g: Maybe = None
    note: Annotated[str, AfterValidator(plain_text)] = Field("", max_length=400)


class SpecimenChange(BaseModel):
    """What was noted wrong of a specimen: its number and what it was cut from stay."""

    model_config = ConfigDict(extra="forbid", str_strip_whitespace=True)
    depth_m: Maybe = None
    orientation: Orientation = ""
    size: Annotated[str, AfterValidator(plain_text)] = Field("", max_length=60)
    mass_g: Maybe = None
    note: Annotated[str, AfterValidator(plain_text)] = Field("", max_length=400)


class Pictured(NamedTuple):
    """A picture of a specimen: its hash, caption, and who took it."""

    hash: str
    caption: str
    by: str


class Held(NamedTuple):
    """A specimen with the runs on it, the pieces cut from it, and what is left of its mass in g (None: not known)."""

    specimen: Specimen
    runs: tuple[str, ...]
    pieces: tuple[str, ...]
    left_g: float | None
    photographs: tuple[Pictured, ...] = ()

    @property
    def left_words(self) -> str:
        """What is left, as it is said."""
        return "" if self.left_g is None else f"{plain(self.left_g, 4)} g left"


def _possible(mass_g: float | None, depth_m: float | None) -> None:
    for field, value, most in (("mass_g", mass_g, MOST_G), ("depth_m", depth_m, MOST_DEPTH_M)):
        if value is not None and not (math.isfinite(value) and 0 <= value <= most):
            raise FieldError(field, f"is between 0 and {most:g}")


def add(session: Session, sample: Sample, new: NewSpecimen) -> Specimen:
    """Cut a specimen from a sample, or from another piece of it; raises FieldError."""
    lock_named(session.connection(), f"specimens of {sample.id}")
    standing = of_sample(session, sample.id or 0)
    refuse_alike(new.code, [s.code for s in standing], "another specimen of this sample")
    _possible(new.mass_g, new.depth_m)
    if new.cut_from:
        source = next((s for s in standing if s.code == new.cut_from), None)
        if source is None:
            raise FieldError("cut_from", f"there is no specimen {new.cut_from!r}")
        _refuse_more(session, source, new.mass_g, "mass_g")
    made = Specimen(sample_id=sample.id or 0, **new.model_dump())
    session.add(made)
    session.flush()
    return made


def of_sample(session: Session, sample_id: int) -> list[Specimen]:
    """The specimens of a sample, in the order they were cut."""
    query = select(Specimen).where(col(Specimen.sample_id) == sample_id).order_by(col(Specimen.id))
    return list(session.execute(query).scalars())


def held(session: Session, sample_id: int) -> list[Held]:
    """Every specimen of a sample with what was made of it and what is left."""
    pieces = of_sample(session, sample_id)
    uses = select(SpecimenUse, col(Run.code)).join(Run, col(Run.id) == col(SpecimenUse.run_id))
    query = uses.where(col(SpecimenUse.specimen_id).in_([p.id for p in pieces])).order_by(col(SpecimenUse.id))
    by_piece: dict[int, list[tuple[str, float | None]]] = defaultdict(list)
    for its, run_code in session.execute(query):
        by_piece[its.specimen_id].append((run_code, its.mass_g))
    taken = select(SpecimenPhotograph).where(col(SpecimenPhotograph.specimen_id).in_([p.id for p in pieces]))
    shown: dict[int, list[SpecimenPhotograph]] = defaultdict(list)
    for one in session.execute(taken.order_by(col(SpecimenPhotograph.id))).scalars():
        shown[one.specimen_id].append(one)
    found = []
    for piece in pieces:
        cut = [p for p in pieces if p.cut_from == piece.code]
        used = by_piece[piece.id or 0]
        left = piece.mass_g
        if left is not None:
            left -= sum(p.mass_g or 0.0 for p in cut) + sum(m or 0.0 for _, m in used)
        pictures = tuple(Pictured(p.hash, p.caption, p.by) for p in shown[piece.id or 0])
        found.append(Held(piece, tuple(c for c, _ in used), tuple(p.code for p in cut), left, pictures))
    return found


def named(session: Session, sample_id: int, code_: str) -> Specimen:
    """A specimen of a sample by its number; raises FieldError."""
    found = next((s for s in of_sample(session, sample_id) if s.code == code_), None)
    if found is None:
        raise FieldError("specimen", f"there is no specimen {code_[:20]!r}")
    return found


def delete_unused(session: Session, specimen: Specimen) -> None:
    """Delete a specimen registered by mistake; raises NotAllowed where a run, a picture or a piece rests on it."""
    rests: tuple[tuple[Any, Any, str], ...] = (
        (SpecimenUse, SpecimenUse.specimen_id == specimen.id, "a run"),
        (SpecimenPhotograph, SpecimenPhotograph.specimen_id == specimen.id, "a photograph"),
        (Specimen, (Specimen.cut_from == specimen.code) & (Specimen.sample_id == specimen.sample_id), "a piece of it"),
    )
    for table, where, word in rests:
        if session.execute(select(table).where(where)).first() is not None:
            raise NotAllowed(f"{specimen.code} is used by {word} and cannot be deleted")
    session.delete(specimen)
    session.flush()


def correct(session: Session, sample_id: int, code_: str, change: SpecimenChange) -> Specimen:
    """What was noted wrong of a specimen put right; the ledger keeps that it was changed, and by whom.

    Raises: FieldError where its mass would be less than what was taken of it.
    """
    lock_named(session.connection(), f"specimens of {sample_id}")
    piece = named(session, sample_id, code_)
    _possible(change.mass_g, change.depth_m)
    its = next(h for h in held(session, sample_id) if h.specimen.id == piece.id)
    taken = (piece.mass_g or 0.0) - (its.left_g if its.left_g is not None else piece.mass_g or 0.0)
    if change.mass_g is not None and change.mass_g + 1e-9 < taken:
        raise FieldError("mass_g", f"{plain(taken)} g were taken of it already")
    for field, value in change.model_dump().items():
        setattr(piece, field, value)
    session.add(piece)
    session.flush()
    return piece


def mark_of(session: Session, piece: Specimen, caption: str) -> str:
    """What is drawn below the next photograph of a specimen."""
    many = len(_pictures_of(session, piece))
    return f"{piece.code} · {many + 1}" + (f" · {caption}" if caption else "")


def _pictures_of(session: Session, piece: Specimen) -> list[int]:
    query = select(col(SpecimenPhotograph.id)).where(col(SpecimenPhotograph.specimen_id) == piece.id)
    return [i or 0 for i in session.execute(query).scalars()]


def picture(session: Session, piece: Specimen, marked: Marked, by: Person, caption: str) -> str:
    """Keep a picture of a specimen, its mark drawn; its hash.

    Raises: FieldError.
    """
    if len(caption) > MOST_CAPTION:
        raise FieldError("caption", f"is longer than {MOST_CAPTION} characters")
    if len(_pictures_of(session, piece)) >= MOST_PICTURES:
        raise FieldError("photograph", f"a specimen keeps {MOST_PICTURES} at the most")
    made = marked.made(mark_of(session, piece, caption))
    session.add(
        SpecimenPhotograph(
            specimen_id=piece.id or 0,
            caption=caption,
            by=by.initials,
            hash=made.hash,
            width=made.width,
            height=made.height,
            data=made.text,
        )
    )
    session.flush()
    return made.hash


def jpeg_of(session: Session, piece: Specimen, hash_: str) -> bytes | None:
    """A specimen's photograph; None for one that it has not."""
    query = select(SpecimenPhotograph).where(
        col(SpecimenPhotograph.specimen_id) == piece.id, col(SpecimenPhotograph.hash) == hash_
    )
    found = session.execute(query).scalar_one_or_none()
    return None if found is None else base64.b64decode(found.data)


def _refuse_more(session: Session, piece: Specimen, wanted_g: float | None, field: str) -> None:
    left = next((h.left_g for h in held(session, piece.sample_id) if h.specimen.id == piece.id), None)
    if wanted_g is not None and left is not None and wanted_g > left + 1e-9:
        raise FieldError(field, f"{plain(wanted_g)} g are more than the {plain(left)} g that are left of {piece.code}")


def begin_on(session: Session, run: Run, code: str, mass_g: float | None, by: Person) -> None:
    """Begin a run on a specimen: its number and depth go to the run's tape, the mass that it takes is kept."""
    piece = next((s for s in of_sample(session, run.sample_id) if s.code == code), None)
    if piece is None:
        raise FieldError("specimen", f"there is no specimen {code[:20]!r} of this sample")
    if mass_g is not None and not (math.isfinite(mass_g) and mass_g > 0):
        raise FieldError("specimen_g", "is above 0 g")
    _refuse_more(session, piece, mass_g, "specimen_g")
    session.add(SpecimenUse(specimen_id=piece.id or 0, run_id=run.id or 0, mass_g=mass_g))
    told = [("specimen", piece.code)]
    if piece.depth_m is not None:
        told.append(("specimen_depth_m", plain(piece.depth_m, 6)))
    for path, value in told:
        append(session, run, NewEntry(path=path, value=value, source="specimen"), by.initials, run.started_at)
