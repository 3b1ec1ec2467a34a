"""The tables. Rows are made from parsed models only: SQLModel's table classes do not validate."""

from datetime import date, datetime

from sqlalchemy import BigInteger, Column, Index, Text, UniqueConstraint
from sqlmodel import Field, SQLModel

from vadum.tape.columns import UTCDateTime

IN_HAND = ("open", "practice")


class Person(SQLModel, table=True):
    """Someone who may sign in."""

    id: int | None = Field(default=None, primary_key=True)
    login: str = Field(unique=True, max_length=40)
    name: str = Field(max_length=120)
    initials: str = Field(max_length=4)
    role: str = Field(max_length=20)
    passphrase_hash: str
    active: bool = True


class SignIn(SQLModel, table=True):
    """A session; only the hash of its token is stored."""

    token_hash: str = Field(primary_key=True)
    person_id: int = Field(foreign_key="person.id", index=True)
    expires_at: datetime = Field(sa_type=UTCDateTime)
    resets: bool = False  # begun by a reset link: the pass-phrase may be set without the former one


class OneTimeLink(SQLModel, table=True):
    """A link that signs a person in once."""

    token_hash: str = Field(primary_key=True)
    person_id: int = Field(foreign_key="person.id")
    expires_at: datetime = Field(sa_type=UTCDateTime)
    resets: bool = False


class KnownBrowser(SQLModel, table=True):
    """A browser that a person has signed in from: strangers who try that person's name do not slow it down."""

    token_hash: str = Field(primary_key=True)
    person_id: int = Field(foreign_key="person.id", index=True)
    seen_at: datetime = Field(sa_type=UTCDateTime)


class Attempt(SQLModel, table=True):
    """A failed sign-in, kept for throttling."""

    id: int | None = Field(default=None, primary_key=True)
    login: str = Field(index=True)
    address: str = Field(index=True)
    at: datetime = Field(sa_type=UTCDateTime, index=True)


class Job(SQLModel, table=True):
    """A site."""

    id: int | None = Field(default=None, primary_key=True)
    code: str = Field(unique=True, max_length=20)
    title: str = Field(max_length=120)
    note: str = ""
    created_at: datetime = Field(sa_type=UTCDateTime, index=True)
    client: str = Field(default="", max_length=120)
    contract: str = Field(default="", max_length=60)
    engineer: str = Field(default="", max_length=120)
    contractor: str = Field(default="", max_length=120)
    closed_at: datetime | None = Field(default=None, sa_type=UTCDateTime)


class JobSchool(SQLModel, table=True):
    """The school that a job asks for, of one method; where none is asked for, the laboratory's stands."""

    __table_args__ = (UniqueConstraint("job_id", "method"),)
    id: int | None = Field(default=None, primary_key=True)
    job_id: int = Field(foreign_key="job.id", index=True)
    method: str = Field(max_length=40)
    school: str = Field(max_length=60)


class Spot(SQLModel, table=True):
    """A test pit, borehole or chainage of a job, with its place on the plan."""

    __table_args__ = (UniqueConstraint("job_id", "code"),)
    id: int | None = Field(default=None, primary_key=True)
    job_id: int = Field(foreign_key="job.id", index=True)
    code: str = Field(max_length=20)
    kind: str = Field(max_length=30)
    easting_m: float | None = None
    northing_m: float | None = None
    level_m: float | None = None
    depth_m: float | None = None
    note: str = ""
    closed_at: datetime | None = Field(default=None, sa_type=UTCDateTime)


class Sample(SQLModel, table=True):
    """A bag, ring, tube or block from a spot."""

    __table_args__ = (UniqueConstraint("spot_id", "code"),)
    id: int | None = Field(default=None, primary_key=True)
    spot_id: int = Field(foreign_key="spot.id", index=True)
    code: str = Field(max_length=20, index=True)
    kind: str = Field(max_length=30)
    depth_top_m: float | None = None
    depth_bottom_m: float | None = None
    description: str = ""
    sampled_at: datetime | None = Field(default=None, sa_type=UTCDateTime)
    quality: str = Field(default="", max_length=20)
    mass_g: float | None = None
    container: str = Field(default="", max_length=60)
    largest_grain_mm: float | None = None
    condition: str = Field(default="", max_length=200)
    received_on: date | None = None
    note: str = ""
    closed_at: datetime | None = Field(default=None, sa_type=UTCDateTime)


class Specimen(SQLModel, table=True):
    """A piece cut from a sample, or from another specimen of it: where it lay, how it stood, its size and mass."""

    __table_args__ = (UniqueConstraint("sample_id", "code"),)
    id: int | None = Field(default=None, primary_key=True)
    sample_id: int = Field(foreign_key="sample.id", index=True)
    code: str = Field(max_length=20)
    cut_from: str = Field(default="", max_length=20)
    depth_m: float | None = None
    orientation: str = Field(default="", max_length=20)
    size: str = Field(default="", max_length=60)
    mass_g: float | None = None
    note: str = ""


class SpecimenUse(SQLModel, table=True):
    """A run on a specimen, and how much of it the run took."""

    id: int | None = Field(default=None, primary_key=True)
    specimen_id: int = Field(foreign_key="specimen.id", index=True)
    run_id: int = Field(foreign_key="run.id", unique=True)
    mass_g: float | None = None


class SpecimenPhotograph(SQLModel, table=True):
    """A picture of a specimen itself, as it is kept: JPEG in base64, bounded, without metadata. The ledger binds it."""

    __table_args__ = (UniqueConstraint("specimen_id", "hash"),)
    id: int | None = Field(default=None, primary_key=True)
    specimen_id: int = Field(foreign_key="specimen.id", index=True)
    hash: str = Field(max_length=64)
    caption: str = Field(default="", max_length=200)
    by: str = Field(max_length=10)
    width: int
    height: int
    data: str = Field(sa_column=Column(Text, nullable=False))


class Owed(SQLModel, table=True):
    """A test the job's schedule asks for on a sample."""

    id: int | None = Field(default=None, primary_key=True)
    sample_id: int = Field(foreign_key="sample.id", index=True)
    method: str = Field(max_length=40)
    due_on: date
    wanted_g: float | None = None
    withdrawn_because: str = Field(default="", max_length=200)
    withdrawn_by: str = Field(default="", max_length=10)


class Run(SQLModel, table=True):
    """One test by one school. `state`, `method` and `last_seq` index what the tape says; the tape decides."""

    __table_args__ = (
        UniqueConstraint("method", "number"),
        Index("ix_run_state_started", "state", "started_at"),
        Index("ix_run_started_at", "started_at"),
    )
    id: int | None = Field(default=None, primary_key=True)
    code: str = Field(unique=True, max_length=20)
    method: str = Field(max_length=40)
    number: int
    school: str = Field(max_length=60)
    sample_id: int = Field(foreign_key="sample.id", index=True)
    state: str = Field(max_length=12)
    started_at: datetime = Field(sa_type=UTCDateTime)
    last_seq: int = 0

    @property
    def in_hand(self) -> bool:
        """Whether readings may be entered: an open run, or one of practice whose soil is still hidden."""
        return self.state in IN_HAND


class Entry(SQLModel, table=True):
    """One thing read or done. Never updated, never deleted: triggers refuse it."""

    __table_args__ = (UniqueConstraint("run_id", "seq"),)
    id: str = Field(primary_key=True, max_length=36)
    run_id: int = Field(foreign_key="run.id")
    seq: int
    at: datetime = Field(sa_type=UTCDateTime)  # when it was read, as its sender claims
    arrived_at: datetime | None = Field(default=None, sa_type=UTCDateTime)  # by the program's own clock
    by: str = Field(max_length=40)
    source: str = Field(max_length=60)
    path: str = Field(max_length=120)
    value: str = Field(sa_column=Column(Text, nullable=False))
    strikes: str = Field(default="[]", sa_column=Column(Text, nullable=False))
    reason: str = Field(default="", sa_column=Column(Text, nullable=False))
    previous_hash: str = Field(max_length=64)
    hash: str = Field(max_length=64)


class Trace(SQLModel, table=True):
    """About a second of an instrument's raw samples, as CSV rows: number, its time in s, channels. Never changed."""

    id: int | None = Field(default=None, primary_key=True)
    run_id: int = Field(foreign_key="run.id", index=True)
    instrument: str = Field(max_length=40)
    channels: str = Field(max_length=200)
    samples: int
    data: str = Field(sa_column=Column(Text, nullable=False))


class Photograph(SQLModel, table=True):
    """A picture of a run, a step or a specimen, as it is kept: JPEG in base64, bounded, without metadata. Its hash is
    on the tape. Never changed."""

    __table_args__ = (UniqueConstraint("run_id", "hash"),)
    id: int | None = Field(default=None, primary_key=True)
    run_id: int = Field(foreign_key="run.id", index=True)
    hash: str = Field(max_length=64)
    width: int
    height: int
    data: str = Field(sa_column=Column(Text, nullable=False))


class ColumnMatch(SQLModel, table=True):
    """Which field each column of a table with these heads was, the last time it was brought in."""

    __table_args__ = (UniqueConstraint("method", "rows", "signature"),)
    id: int | None = Field(default=None, primary_key=True)
    method: str = Field(max_length=40)
    rows: str = Field(max_length=40)
    signature: str = Field(max_length=32)
    fields: str = Field(sa_column=Column(Text, nullable=False))


class KitItem(SQLModel, table=True):
    """A tin, balance or device."""

    __table_args__ = (UniqueConstraint("kind", "code"),)
    id: int | None = Field(default=None, primary_key=True)
    kind: str = Field(max_length=30)
    code: str = Field(max_length=40)
    title: str = Field(max_length=120)
    interval_days: int | None = None
    readability_g: float | None = None
    retired_at: datetime | None = Field(default=None, sa_type=UTCDateTime)


class KitFile(SQLModel, table=True):
    """A paper that belongs to a calibration, as it came in: base64, bounded. Its hash is in the calibration."""

    __table_args__ = (UniqueConstraint("item_id", "hash"),)
    id: int | None = Field(default=None, primary_key=True)
    item_id: int = Field(foreign_key="kititem.id", index=True)
    hash: str = Field(max_length=64)
    name: str = Field(max_length=120)
    media_type: str = Field(max_length=60)
    data: str = Field(sa_column=Column(Text, nullable=False))


class KitEvent(SQLModel, table=True):
    """A tare, calibration or inspection of an item: a history, added to and never changed."""

    __table_args__ = (Index("ix_kitevent_item_at", "item_id", "at"),)
    id: int | None = Field(default=None, primary_key=True)
    item_id: int = Field(foreign_key="kititem.id")
    at: datetime = Field(sa_type=UTCDateTime)
    by: str = Field(max_length=40)
    kind: str = Field(max_length=20)
    data: str = Field(sa_column=Column(Text, nullable=False))
    passed: bool = True


class LaboratorySetting(SQLModel, table=True):
    """A choice of the laboratory that no rule book makes."""

    key: str = Field(primary_key=True, max_length=40)
    value: str = Field(max_length=200)


class LaboratoryMark(SQLModel, table=True):
    """A picture that stands on the laboratory's paper: its own mark, or that of its accreditation. Base64, bounded."""

    key: str = Field(primary_key=True, max_length=40)
    media_type: str = Field(max_length=40)
    hash: str = Field(max_length=64)
    data: str = Field(sa_column=Column(Text, nullable=False))


class PersonSetting(SQLModel, table=True):
    """How one person likes figures and dates shown; the laboratory's way where nothing is said."""

    __table_args__ = (UniqueConstraint("person_id", "key"),)
    id: int | None = Field(default=None, primary_key=True)
    person_id: int = Field(foreign_key="person.id", index=True)
    key: str = Field(max_length=40)
    value: str = Field(max_length=40)


class ImportedRun(SQLModel, table=True):
    """A run that another laboratory's program began: what its tape is bound to there, and who its initials were."""

    id: int | None = Field(default=None, primary_key=True)
    run_id: int = Field(foreign_key="run.id", unique=True)
    laboratory: str = Field(max_length=120)
    code: str = Field(max_length=20)
    sample_id: int
    people: str = Field(sa_column=Column(Text, nullable=False))
    manifest: str = Field(max_length=64)


class Findable(SQLModel, table=True):
    """What the find box searches: each thing with the words it is known by. An index made anew at any time."""

    __table_args__ = (UniqueConstraint("kind", "subject"),)
    id: int | None = Field(default=None, primary_key=True)
    kind: str = Field(max_length=20)
    subject: int
    code: str = Field(max_length=80, index=True)
    words: str = Field(sa_column=Column(Text, nullable=False))


class LedgerLine(SQLModel, table=True):
    """One line of the ledger over the whole database: what was added or changed, chained. Never changed."""

    __tablename__ = "ledger"
    seq: int = Field(sa_column=Column(BigInteger, primary_key=True, autoincrement=False))
    at: datetime = Field(sa_type=UTCDateTime)
    by: str = Field(max_length=40)
    kind: str = Field(max_length=20)
    subject: str = Field(max_length=60)
    digest: str = Field(max_length=64)
    words: str = Field(default="", max_length=200)
    previous_hash: str = Field(max_length=64)
    hash: str = Field(max_length=64)
