"""Jobs, spots and samples: made, found, listed."""

from datetime import date, datetime, timedelta
from typing import Annotated, Any, Literal, NamedTuple, Self

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, model_validator
from sqlalchemy import select
from sqlmodel import Session, col

from vadum.soil.contract.errors import FieldError
from vadum.soil.contract.fields import NearMoment, PlainNumber
from vadum.tape.codes import code, looks_like, plain_text, refuse_alike
from vadum.tape.dialect import lock_named
from vadum.tape.tables import Job, Sample, Spot

PRACTICE_JOB = "PRACTICE"  # made by the program, shown nowhere on the ground
SPOT_KINDS = ("test pit", "borehole", "chainage", "stockpile")
SAMPLE_KINDS = ("bag", "tub", "ring", "tube", "block")


# Between what each quantity of the ground can lie on earth, in the unit of its name: a grid of a country or a UTM zone,
# the deepest mine to the highest summit, the deepest borehole, a lorry-load.
BOUNDS: dict[str, tuple[float, float]] = {
    "easting_m": (-1e7, 1e7),
    "northing_m": (-1e7, 2e7),
    "level_m": (-5000.0, 9000.0),
    "depth_m": (0.0, 13_000.0),
    "depth_top_m": (0.0, 13_000.0),
    "depth_bottom_m": (0.0, 13_000.0),
    "mass_g": (0.0, 5e7),
    "largest_grain_mm": (0.0, 5000.0),
}


def refuse_impossible(part: Any) -> None:
    """Raise FieldError for a quantity of a location or sample that cannot be, typed or brought in by a file."""
    for name, (low, high) in BOUNDS.items():
        value = getattr(part, name, None)
        if value is not None and not low <= value <= high:
            unit = name.rpartition("_")[2]
            raise FieldError(name, f"{value:g} {unit} is not possible: between {low:g} and {high:g} {unit}")


class _New(BaseModel):
    model_config = ConfigDict(extra="forbid", str_strip_whitespace=True)

    @model_validator(mode="after")
    def _can_be(self) -> Self:
        """Every quantity lies where it can on earth."""
        refuse_impossible(self)
        return self


class NewJob(_New):
    """A job as it is entered."""

    code: Annotated[str, Field(min_length=1, max_length=20), AfterValidator(code)]
    title: Annotated[str, Field(min_length=1, max_length=120), AfterValidator(plain_text)]
    note: str = Field("", max_length=2000)
    client: Annotated[str, Field(max_length=120), AfterValidator(plain_text)] = ""
    contract: Annotated[str, Field(max_length=60), AfterValidator(plain_text)] = ""
    engineer: Annotated[str, Field(max_length=120), AfterValidator(plain_text)] = ""
    contractor: Annotated[str, Field(max_length=120), AfterValidator(plain_text)] = ""


class NewSpot(_New):
    """A spot as it is entered; coordinates in metres on the job's grid."""

    code: Annotated[str, Field(min_length=1, max_length=20), AfterValidator(code)]
    kind: Literal["test pit", "borehole", "chainage", "stockpile"] = "test pit"
    easting_m: PlainNumber | None = None
    northing_m: PlainNumber | None = None
    level_m: PlainNumber | None = None
    depth_m: PlainNumber | None = None
    note: str = Field("", max_length=2000)


class NewSample(_New):
    """A sample as it is entered; depths in metres below ground."""

    code: Annotated[str, Field(min_length=1, max_length=20), AfterValidator(code)]
    kind: Literal["bag", "tub", "ring", "tube", "block"] = "bag"
    depth_top_m: PlainNumber | None = None
    depth_bottom_m: PlainNumber | None = None
    description: str = Field("", max_length=2000)
    sampled_at: NearMoment | None = None
    received_on: date | None = None
    quality: Annotated[str, Field(max_length=20), AfterValidator(plain_text)] = ""
    mass_g: PlainNumber | None = None
    container: Annotated[str, Field(max_length=60), AfterValidator(plain_text)] = ""
    largest_grain_mm: PlainNumber | None = None
    condition: Annotated[str, Field(max_length=200), AfterValidator(plain_text)] = ""
    note: str = Field("", max_length=2000)

    @model_validator(mode="after")
    def _holds_together(self) -> "NewSample":
        """Depths in their order, sizes above nothing, no receipt before the sampling."""
        top, bottom = self.depth_top_m, self.depth_bottom_m
        if top is not None and bottom is not None and bottom < top:
            raise FieldError("depth_bottom_m", "lies above the sample's top")
        for name in ("mass_g", "largest_grain_mm"):
            size = getattr(self, name)
            if size is not None and size <= 0:
                raise FieldError(name, "is above 0")
        if self.received_on and self.sampled_at and self.received_on < self.sampled_at.date() - timedelta(days=1):
            raise FieldError("received_on", "lies before the day it was sampled")
        return self


def place_words(spot: str, depth_top_m: float | None, sample: str) -> str:
    """A sample's place in a few words.

    >>> place_words("TP2", 1.1, "B4")
    'TP2 1.1 m · B4'
    """
    depth = "" if depth_top_m is None else f" {depth_top_m:.1f} m"
    return f"{spot}{depth} · {sample}"


class Place(NamedTuple):
    """A sample with where it comes from."""

    sample: Sample
    spot: Spot
    job: Job

    @property
    def words(self) -> str:
        """As it is said: spot, depth, sample."""
        return place_words(self.spot.code, self.sample.depth_top_m, self.sample.code)


def not_for_practice(code: str) -> None:
    """Raises FieldError for a code that would look like the one under which practice is kept."""
    if looks_like(code) == looks_like(PRACTICE_JOB):
        raise FieldError("code", f"{code!r} is kept for practice")


def add_job(session: Session, new: NewJob, now: datetime) -> Job:
    """Make a job; raises FieldError when its code is taken."""
    lock_named(session.connection(), "jobs")
    refuse_alike(new.code, session.execute(select(col(Job.code))).scalars(), "another job")
    not_for_practice(new.code)
    job = Job(**new.model_dump(), created_at=now)
    session.add(job)
    session.flush()
    return job


def add_spot(session: Session, job: Job, new: NewSpot) -> Spot:
    """Make a spot of a job."""
    lock_named(session.connection(), f"spots of {job.id}")
    taken = session.execute(select(col(Spot.code)).where(col(Spot.job_id) == job.id)).scalars()
    refuse_alike(new.code, taken, "another spot of this job")
    spot = Spot(job_id=job.id or 0, **new.model_dump())
    session.add(spot)
    session.flush()
    return spot


def add_sample(session: Session, spot: Spot, new: NewSample) -> Sample:
    """Make a sample of a spot; raises FieldError on a taken code or depths upside down."""
    lock_named(session.connection(), f"samples of {spot.id}")
    taken = session.execute(select(col(Sample.code)).where(col(Sample.spot_id) == spot.id)).scalars()
    refuse_alike(new.code, taken, f"another sample of {spot.code}")
    sample = Sample(spot_id=spot.id or 0, **new.model_dump())
    session.add(sample)
    session.flush()
    return sample


def practice_place(session: Session, now: datetime) -> Place:
    """The sample that nobody dug: every run of practice stands on it."""
    lock_named(session.connection(), "practice")
    row = session.execute(_places().where(col(Job.code) == PRACTICE_JOB)).first()
    if row:
        return Place(*row)
    job = Job(code=PRACTICE_JOB, title="Practice", created_at=now)
    session.add(job)
    session.flush()
    spot = add_spot(session, job, NewSpot(code="practice"))
    return Place(add_sample(session, spot, NewSample(code="virtual soil", kind="tub")), spot, job)


def _places() -> Any:
    return (
        select(Sample, Spot, Job)
        .join(Spot, col(Sample.spot_id) == col(Spot.id))
        .join(Job, col(Spot.job_id) == col(Job.id))
    )


def place(session: Session, sample_id: int) -> Place | None:
    """The sample of that id, placed."""
    row = session.execute(_places().where(col(Sample.id) == sample_id)).first()
    return Place(*row) if row else None


def spots_of(session: Session, job: Job) -> list[Spot]:
    """The spots of a job, by their code."""
    query = select(Spot).where(col(Spot.job_id) == job.id).order_by(col(Spot.code))
    return list(session.execute(query).scalars())


def places(session: Session, job_id: int) -> list[Place]:
    """All samples of a job, by spot and depth."""
    query = _places().where(col(Job.id) == job_id).order_by(col(Spot.code), col(Sample.depth_top_m), col(Sample.code))
    return [Place(*row) for row in session.execute(query)]


def places_of(session: Session, sample_ids: set[int]) -> dict[int, Place]:
    """These samples with where they come from, by their id."""
    rows = session.execute(_places().where(col(Sample.id).in_(sample_ids)))
    return {row[0].id: Place(*row) for row in rows}


def newest_places(session: Session, most: int = 30) -> list[Place]:
    """The samples last made, of what is not closed."""
    real = _places().where(
        col(Job.code) != PRACTICE_JOB,
        col(Job.closed_at).is_(None),
        col(Spot.closed_at).is_(None),
        col(Sample.closed_at).is_(None),
    )
    return [Place(*row) for row in session.execute(real.order_by(col(Sample.id).desc()).limit(most))]


def jobs(session: Session, page: int = 1, size: int = 50) -> list[Job]:
    """Jobs, newest first, a page at a time."""
    query = (
        select(Job)
        .where(col(Job.code) != PRACTICE_JOB)
        .order_by(col(Job.created_at).desc())
        .offset((page - 1) * size)
        .limit(size)
    )
    return list(session.execute(query).scalars())
