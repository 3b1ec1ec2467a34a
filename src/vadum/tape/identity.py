"""Who the laboratory is on its paper, how it shows figures and days, where its clocks stand, and by which schools it
works when nobody says another."""

import base64
import hashlib
import io
import re
from typing import Annotated, Any, Literal, NamedTuple, get_args
from xml.etree import ElementTree
from zoneinfo import ZoneInfo

from PIL import Image
from pydantic import AfterValidator, BaseModel, ConfigDict, Field
from sqlalchemy import select
from sqlmodel import Session, col

from vadum.soil.contract.errors import FieldError
from vadum.soil.contract.shown_units import Dates, Stress, Style, System
from vadum.soil.register import METHODS, method
from vadum.tape.clock import zone_named
from vadum.tape.codes import plain_text
from vadum.tape.tables import Job, JobSchool, LaboratoryMark, LaboratorySetting, Person, PersonSetting

PREFIX = "laboratory."
MARKS = {"mark": "the laboratory's own mark", "accreditation": "the mark of its accreditation"}
MOST_BYTES = 300_000
LIKED = {"units": get_args(System), "stress": get_args(Stress), "decimal": (".", ","), "dates": get_args(Dates)}
SCHOOL, ACCREDITED = "school.", "accredited."


class NewIdentity(BaseModel):
    """Who the laboratory is, as it is entered."""

    model_config = ConfigDict(extra="forbid", str_strip_whitespace=True)
    name: Annotated[str, Field(max_length=120), AfterValidator(plain_text)] = ""
    address: str = Field("", max_length=200)
    contact: Annotated[str, Field(max_length=120), AfterValidator(plain_text)] = ""
    accreditation: Annotated[str, Field(max_length=200), AfterValidator(plain_text)] = ""
    zone: str = Field("", max_length=60)
    units: System = "SI"
    stress: Stress = "psf"
    decimal: Literal[".", ","] = "."
    dates: Dates = "12 May 2026"


class Mark(NamedTuple):
    """A picture on the laboratory's paper."""

    media_type: str
    hash: str
    data: bytes

    @property
    def suffix(self) -> str:
        """The end of its file's name."""
        return "svg" if "svg" in self.media_type else "png"


class Identity(NamedTuple):
    """Who the laboratory is; every text may be empty."""

    name: str
    address: str
    contact: str
    accreditation: str
    zone: str
    style: Style
    accredited: frozenset[str]
    marks: dict[str, Mark]

    @property
    def lines(self) -> tuple[str, ...]:
        """Address and contact, a line each."""
        return tuple(line.strip() for line in (*self.address.splitlines(), self.contact) if line.strip())

    def is_accredited(self, method_name: str) -> bool:
        """Whether a method is within the accreditation, so that its sheets carry the mark."""
        return method_name in self.accredited


def _settings(session: Session) -> dict[str, str]:
    return {row.key: row.value for row in session.execute(select(LaboratorySetting)).scalars()}


def _style(held: dict[str, str], base: Style) -> Style:
    """A style with what is said changed; what an older program wrote and this one does not know is left out."""
    known: dict[str, Any] = {key: held[key] for key, may_be in LIKED.items() if held.get(key) in may_be}
    return base._replace(**known)


def identity(session: Session) -> Identity:
    """Who the laboratory is now."""
    held = _settings(session)
    own = {key.removeprefix(PREFIX): value for key, value in held.items() if key.startswith(PREFIX)}
    texts = {name: own.get(name, "") for name in ("name", "address", "contact", "accreditation", "zone")}
    accredited = frozenset(
        k.removeprefix(ACCREDITED) for k, v in held.items() if k.startswith(ACCREDITED) and v == "yes"
    )
    marks = {
        row.key: Mark(row.media_type, row.hash, base64.b64decode(row.data))
        for row in session.execute(select(LaboratoryMark)).scalars()
    }
    return Identity(**texts, style=_style(own, Style()), accredited=accredited, marks=marks)


def style_of(session: Session, person: Person | None) -> Style:
    """How a person likes figures shown: the laboratory's way, and what they have chosen of their own."""
    held = _settings(session)
    style = _style({k.removeprefix(PREFIX): v for k, v in held.items() if k.startswith(PREFIX)}, Style())
    if person is None:
        return style
    query = select(PersonSetting).where(col(PersonSetting.person_id) == person.id)
    return _style({row.key: row.value for row in session.execute(query).scalars()}, style)


def liked(session: Session, person: Person) -> dict[str, str]:
    """What a person has chosen of their own."""
    query = select(PersonSetting).where(col(PersonSetting.person_id) == person.id)
    return {row.key: row.value for row in session.execute(query).scalars()}


def like(session: Session, person: Person, key: str, value: str) -> None:
    """Choose how figures are shown to a person; an empty value is the laboratory's way. Raises FieldError."""
    if key not in LIKED:
        raise FieldError("key", f"is one of {', '.join(LIKED)}")
    if value and value not in LIKED[key]:
        raise FieldError(key, f"is one of {', '.join(LIKED[key])}")
    query = select(PersonSetting).where(col(PersonSetting.person_id) == person.id, col(PersonSetting.key) == key)
    row = session.execute(query).scalar_one_or_none()
    if not value:
        if row is not None:
            session.delete(row)
    elif row is None:
        session.add(PersonSetting(person_id=person.id or 0, key=key, value=value))
    else:
        row.value = value
        session.add(row)
    session.flush()


def _set(session: Session, key: str, value: str) -> None:
    row = session.get(LaboratorySetting, key)
    if value == "":
        if row is not None:
            session.delete(row)
        return
    row = row or LaboratorySetting(key=key, value=value)
    row.value = value
    session.add(row)


def be(session: Session, new: NewIdentity) -> None:
    """Say who the laboratory is; raises FieldError for a zone that is none."""
    if new.zone:
        zone_named(new.zone)
    for key, value in new.model_dump().items():
        _set(session, PREFIX + key, value)
    session.flush()


def zone_of(session: Session) -> ZoneInfo | None:
    """The laboratory's time zone, where it has said one."""
    row = session.get(LaboratorySetting, PREFIX + "zone")
    return zone_named(row.value) if row is not None else None


class SoundMark(NamedTuple):
    """A picture for the paper in which nothing reaches out of itself: its media type and its bytes."""

    media_type: str
    content: bytes

    @property
    def suffix(self) -> str:
        """Of its file's name."""
        return "png" if self.media_type == "image/png" else "svg"


def sound_mark(content: bytes) -> SoundMark:
    """A picture for the paper, SVG or PNG; raises FieldError."""
    if len(content) > MOST_BYTES:
        raise FieldError("file", f"is larger than {MOST_BYTES // 1000} kB")
    if content.startswith(b"\x89PNG"):
        return SoundMark("image/png", _sound_png(content))
    return SoundMark("image/svg+xml", _sound_svg(content))


def set_mark(session: Session, key: str, mark: SoundMark | None) -> None:
    """Keep a mark, or take it away; raises FieldError for a key that is none."""
    if key not in MARKS:
        raise FieldError("key", f"is one of {', '.join(MARKS)}")
    row = session.get(LaboratoryMark, key)
    if mark is None:
        if row is not None:
            session.delete(row)
            session.flush()
        return
    values = {
        "media_type": mark.media_type,
        "hash": hashlib.sha256(mark.content).hexdigest(),
        "data": base64.b64encode(mark.content).decode(),
    }
    row = row or LaboratoryMark(key=key, **values)
    for name, value in values.items():
        setattr(row, name, value)
    session.add(row)
    session.flush()


def _sound_png(content: bytes) -> bytes:
    """The picture alone, without what else the file held."""
    try:
        with Image.open(io.BytesIO(content), formats=["PNG"]) as picture:
            if picture.width * picture.height > 4_000_000:
                raise FieldError("file", "has more than four million points: make it smaller")
            out = io.BytesIO()
            picture.convert("RGBA").save(out, "PNG")
    except (OSError, SyntaxError, ValueError, MemoryError, Image.DecompressionBombError):
        raise FieldError("file", "is no PNG that can be read") from None
    return out.getvalue()


_DRAWN = "svg g path rect circle ellipse line polyline polygon text tspan title desc defs use linearGradient stop style"
ALLOWED = frozenset((*_DRAWN.split(), "radialGradient", "clipPath", "mask", "symbol"))


def _sound_svg(content: bytes) -> bytes:
    """The drawing alone: no script, no handler, no address beyond itself, no entities."""
    text = content.decode("utf-8", "replace")
    if "<!" in re.sub(r"<!--.*?-->", "", text, flags=re.S):
        raise FieldError("file", "holds a document type: save it as plain SVG")
    try:
        root = ElementTree.fromstring(text)
    except ElementTree.ParseError:
        raise FieldError("file", "is no SVG or PNG that can be read") from None
    if root.tag.rpartition("}")[2] != "svg":
        raise FieldError("file", "is no SVG or PNG")
    for element in root.iter():
        name = str(element.tag).rpartition("}")[2]
        if name not in ALLOWED:
            raise FieldError("file", f"holds <{name[:20]}>: a mark is shapes and words only")
        for key, value in element.attrib.items():
            at = key.rpartition("}")[2].lower()
            if at.startswith("on") or (at == "href" and not value.strip().startswith("#")) or _reaches_out(value):
                raise FieldError("file", f"reaches out of itself ({at})")
        if name == "style" and _reaches_out(element.text or ""):
            raise FieldError("file", "reaches out of itself (style)")
    return content


def _reaches_out(text: str) -> bool:
    addresses = re.findall(r"url\(\s*['\"]?([^'\")]*)", text, flags=re.I)
    return any(not a.startswith("#") for a in addresses) or "@import" in text.lower() or "javascript:" in text.lower()


def set_school(session: Session, method_name: str, school_name: str) -> None:
    """The laboratory's school of a method when nobody says another; empty: the method's first. Raises UnknownName."""
    its = method(method_name)
    _set(session, SCHOOL + method_name, its.school(school_name).name if school_name else "")
    session.flush()


def set_accredited(session: Session, method_name: str, yes: bool) -> None:
    """Whether a method is within the accreditation."""
    _set(session, ACCREDITED + method(method_name).name, "yes" if yes else "")
    session.flush()


def set_job_school(session: Session, job: Job, method_name: str, school_name: str) -> None:
    """The school that a job asks for; empty: the laboratory's. Raises UnknownName."""
    its = method(method_name)
    query = select(JobSchool).where(col(JobSchool.job_id) == job.id, col(JobSchool.method) == its.name)
    row = session.execute(query).scalar_one_or_none()
    if not school_name:
        if row is not None:
            session.delete(row)
    else:
        row = row or JobSchool(job_id=job.id or 0, method=its.name, school="")
        row.school = its.school(school_name).name
        session.add(row)
    session.flush()


def schools_of(session: Session, job: Job | None) -> dict[str, str]:
    """Of each method the school that is offered first: the job's, else the laboratory's, else the method's first."""
    held = _settings(session)
    found = {name: next(iter(its.schools)) for name, its in METHODS.items()}
    for name, its in METHODS.items():
        chosen = held.get(SCHOOL + name)
        if chosen in its.schools:
            found[name] = str(chosen)
    if job is not None:
        for row in session.execute(select(JobSchool).where(col(JobSchool.job_id) == job.id)).scalars():
            if row.method in METHODS and row.school in METHODS[row.method].schools:
                found[row.method] = row.school
    return found


def job_schools(session: Session, job: Job) -> dict[str, str]:
    """The schools that a job itself asks for, by method."""
    rows = session.execute(select(JobSchool).where(col(JobSchool.job_id) == job.id)).scalars()
    return {row.method: row.school for row in rows}
