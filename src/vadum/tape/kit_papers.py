"""What stands behind a calibration: its day, the certificate and its file; a balance's check against its masses."""

import base64
import hashlib
import re
from datetime import date, datetime, time
from typing import Annotated, Any, NamedTuple

from pydantic import AfterValidator, BaseModel, ConfigDict, Field
from sqlalchemy import select
from sqlmodel import Session, col

from vadum.soil.contract.errors import FieldError
from vadum.soil.contract.fields import PlainNumber, plain_number
from vadum.tape import kit
from vadum.tape.codes import plain_text
from vadum.tape.kit import PAPER
from vadum.tape.tables import KitEvent, KitFile, KitItem

MOST_BYTES = 2_000_000
KNOWN = {b"%PDF-": "application/pdf", b"\x89PNG": "image/png", b"\xff\xd8\xff": "image/jpeg"}


class Certificate(BaseModel):
    """When something was measured, and what says so. `file` as base64."""

    model_config = ConfigDict(extra="forbid", str_strip_whitespace=True)
    done_on: date | None = None
    certificate: Annotated[str, Field(max_length=60), AfterValidator(plain_text)] = ""
    file: str = Field("", max_length=2_800_000)
    file_name: Annotated[str, Field(max_length=120), AfterValidator(plain_text)] = ""


class BalanceCheck(Certificate):
    """A balance's check: `masses` are pairs of a nominal mass and what it read, a pair to a line, all in g."""

    masses: str = Field("", max_length=2000)
    mass_g: PlainNumber | None = None
    tolerance_g: PlainNumber | None = None


def moment_of(done_on: date | None, now: datetime) -> datetime:
    """When a calibration counts from: noon of its own day, else now; raises FieldError for a day ahead."""
    if done_on is None or done_on == now.date():
        return now
    if done_on > now.date():
        raise FieldError("done_on", "lies ahead")
    if done_on.year < 1950:
        raise FieldError("done_on", "is no day of ours")
    return datetime.combine(done_on, time(12), tzinfo=now.tzinfo)


def paper_of(session: Session, item: KitItem, told: Certificate) -> dict[str, Any]:
    """What is kept of a certificate beside the measurement; its file is taken in. Raises FieldError."""
    found: dict[str, Any] = {}
    if told.certificate:
        found["certificate"] = told.certificate
    if told.file:
        found["file"] = {"name": told.file_name or "certificate", "hash": _take(session, item, told)}
    return found


def _take(session: Session, item: KitItem, told: Certificate) -> str:
    try:
        content = base64.b64decode(told.file, validate=True)
    except ValueError:
        raise FieldError("file", "is not base64") from None
    if len(content) > MOST_BYTES:
        raise FieldError("file", f"is larger than {MOST_BYTES // 1_000_000} MB")
    media = next((kind for head, kind in KNOWN.items() if content.startswith(head)), "")
    if not media:
        raise FieldError("file", "is no PDF, PNG or JPEG")
    digest = hashlib.sha256(content).hexdigest()
    held = select(KitFile).where(col(KitFile.item_id) == item.id, col(KitFile.hash) == digest)
    if session.execute(held).first() is None:
        data = base64.b64encode(content).decode()
        name = re.sub(r"[^\w.() -]", "_", told.file_name or "certificate")[:120]
        session.add(KitFile(item_id=item.id or 0, hash=digest, name=name, media_type=media, data=data))
        session.flush()
    return digest


def file_of(session: Session, item: KitItem, digest: str) -> KitFile | None:
    """A paper of a piece of kit."""
    query = select(KitFile).where(col(KitFile.item_id) == item.id, col(KitFile.hash) == digest)
    return session.execute(query).scalar_one_or_none()


def content_of(paper: KitFile) -> bytes:
    """The file as it came in."""
    return base64.b64decode(paper.data)


class Check(NamedTuple):
    """One mass of a balance's check, g, and whether it read within the tolerance (None: none is set)."""

    nominal_g: float
    read_g: float
    within: bool | None


def checks_of(data: dict[str, Any]) -> list[Check]:
    """The masses of a check as it is kept."""
    tolerance = data.get("tolerance_g")
    return [
        Check(n, r, None if tolerance is None else abs(r - n) <= tolerance * (1 + 1e-9) + 1e-12)
        for n, r in data.get("masses", ())
    ]


def add_check(session: Session, item: KitItem, told: BalanceCheck, by: str, now: datetime) -> KitEvent:
    """A balance's check; it passes when every mass reads within the tolerance. Raises FieldError."""
    pairs = _pairs(told.masses)
    if not pairs and told.mass_g is None:
        raise FieldError("masses", "give a nominal mass and what it read, a pair to a line: 200 200.01")
    if pairs and told.tolerance_g is None:
        raise FieldError("tolerance_g", "say within how many g a mass must read: without it the check could not fail")
    if told.tolerance_g is not None and told.tolerance_g <= 0:
        raise FieldError("tolerance_g", "is above 0")
    data: dict[str, Any] = {"mass_g": told.mass_g if told.mass_g is not None else pairs[0][1]}
    if pairs:
        data |= {"masses": pairs, "tolerance_g": told.tolerance_g}
    passed = all(check.within is not False for check in checks_of(data))
    paper = paper_of(session, item, told)
    at = moment_of(told.done_on, now)
    return kit.add_event(session, item, "calibration", data | ({PAPER: paper} if paper else {}), by, at, passed)


def _pairs(text: str) -> list[tuple[float, float]]:
    found = []
    for line, row in enumerate((r for r in text.splitlines() if r.strip()), 1):
        cells = [c for c in re.split(r"[;:\t ]+", row.strip().removesuffix("g").strip()) if c not in ("", "g")]
        if len(cells) != 2:
            raise FieldError("masses", f"line {line}: two figures, nominal and read, such as 200 200.01")
        try:
            nominal, read = (plain_number(c) for c in cells)
        except ValueError as error:
            raise FieldError("masses", f"line {line}: {error}") from None
        if nominal <= 0:
            raise FieldError("masses", f"line {line}: a nominal mass is above 0")
        found.append((nominal, read))
    return found
