"""Specimens: pieces between a sample and its runs, shared by several tests; what is left of them is known."""

import math
from collections import defaultdict
from typing import Annotated, Literal, NamedTuple

from pydantic import AfterValidator, BaseModel, BeforeValidator, ConfigDict, Field
from sqlmodel import Session, col, select

from vadum.soil.contract.errors import FieldError
from vadum.soil.contract.fields import PlainNumber
from vadum.soil.contract.numerics import plain
from vadum.tape.codes import code, plain_text, refuse_alike
from vadum.tape.dialect import lock_named
from vadum.tape.entries import NewEntry, append
from vadum.tape.tables import Person, Run, Sample, Specimen, SpecimenUse

MOST_G, MOST_DEPTH_M = 1e6, 100.0
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


class Held(NamedTuple):
    """A specimen with the runs on it, the pieces cut from it, and what is left of its mass in g (None: not known)."""

    specimen: Specimen
    runs: tuple[str, ...]
    pieces: tuple[str, ...]
    left_g: float | None

    @property
    def left_words(self) -> str:
        """What is left, as it is said."""
        return "" if self.left_g is None else f"{plain(self.left_g, 4)} g left"


def add(session: Session, sample: Sample, new: NewSpecimen) -> Specimen:
    """Cut a specimen from a sample, or from another piece of it; raises FieldError."""
    lock_named(session.connection(), f"specimens of {sample.id}")
    standing = of_sample(session, sample.id or 0)
    refuse_alike(new.code, [s.code for s in standing], "another specimen of this sample")
    for field, value, most in (("mass_g", new.mass_g, MOST_G), ("depth_m", new.depth_m, MOST_DEPTH_M)):
        if value is not None and not (math.isfinite(value) and 0 <= value <= most):
            raise FieldError(field, f"is between 0 and {most:g}")
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
    found = []
    for piece in pieces:
        cut = [p for p in pieces if p.cut_from == piece.code]
        used = by_piece[piece.id or 0]
        left = piece.mass_g
        if left is not None:
            left -= sum(p.mass_g or 0.0 for p in cut) + sum(m or 0.0 for _, m in used)
        found.append(Held(piece, tuple(c for c, _ in used), tuple(p.code for p in cut), left))
    return found


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
