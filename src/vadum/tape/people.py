"""People: accounts, pass-phrases, sessions, one-time links, throttled attempts."""

import hashlib
import secrets
from datetime import datetime, timedelta
from functools import cache
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field
from sqlalchemy import delete, func, or_, select
from sqlmodel import Session, col

from vadum.soil.errors import FieldError, VadumError
from vadum.tape.hashing import hasher
from vadum.tape.tables import Attempt, OneTimeLink, Person, SignIn

ROLES = ("technician", "checker", "manager")
SESSION_LENGTH = timedelta(hours=14)  # a long working day; a tablet left behind does not stay signed in
LINK_LENGTH = timedelta(hours=12)
THROTTLE_WINDOW = timedelta(minutes=15)
THROTTLE_AFTER = 5
LEAST_PASSPHRASE = 10


class SignInError(VadumError):
    """Name and pass-phrase do not match, or too many have not matched."""


class NewPerson(BaseModel):
    """An account as it is made."""

    model_config = ConfigDict(extra="forbid", str_strip_whitespace=True)
    login: str = Field(min_length=2, max_length=40, pattern=r"^[a-z0-9._-]+$")
    name: str = Field(min_length=1, max_length=120)
    initials: str = Field(min_length=1, max_length=4)
    role: Literal["technician", "checker", "manager"]
    passphrase: str = Field(min_length=LEAST_PASSPHRASE, max_length=400)


@cache
def _dummy_hash() -> str:
    return hasher().hash(secrets.token_hex(8))


def _digest(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def hashed(passphrase: str) -> str:
    """The pass-phrase as it is stored; slow on purpose."""
    return hasher().hash(passphrase)


def add(session: Session, new: NewPerson, stored: str | None = None) -> Person:
    """Make an account; raises FieldError when the name is taken. `stored` may bring the pass-phrase hashed already."""
    taken = session.execute(
        select(Person).where(or_(col(Person.login) == new.login, col(Person.initials) == new.initials))
    ).scalars()
    for person in taken:
        field = "login" if person.login == new.login else "initials"
        raise FieldError(field, f"{getattr(new, field)!r} is taken by {person.name}")
    person = Person(
        login=new.login,
        name=new.name,
        initials=new.initials,
        role=new.role,
        passphrase_hash=stored or hashed(new.passphrase),
    )
    session.add(person)
    session.flush()
    return person


def by_initials(session: Session) -> dict[str, Person]:
    """Everyone, by the initials the tape carries."""
    return {p.initials: p for p in session.execute(select(Person)).scalars()}


def has_manager(session: Session) -> bool:
    """Whether anyone can manage accounts."""
    query = select(func.count()).select_from(Person).where(col(Person.role) == "manager", col(Person.active))
    return bool(session.execute(query).scalar_one())


def _failures(session: Session, login: str, address: str, now: datetime) -> int:
    since = now - THROTTLE_WINDOW
    by_name = select(func.count()).select_from(Attempt).where(col(Attempt.login) == login, col(Attempt.at) > since)
    by_place = select(func.count()).select_from(Attempt).where(col(Attempt.address) == address, col(Attempt.at) > since)
    # A whole laboratory may share one address, so a place is given more tries than a name.
    return max(int(session.execute(by_name).scalar_one()), int(session.execute(by_place).scalar_one()) // 4)


def authenticate(session: Session, login: str, passphrase: str, address: str, now: datetime) -> Person:
    """The person of that name and pass-phrase; raises SignInError, and counts the attempt."""
    login = login.strip().lower()[:40]
    if _failures(session, login, address, now) >= THROTTLE_AFTER:
        raise SignInError("Too many attempts. Wait a quarter of an hour, or ask a manager.")
    person: Person | None = session.execute(select(Person).where(col(Person.login) == login)).scalar_one_or_none()
    # An unknown name costs the same time as a wrong pass-phrase.
    stored = person.passphrase_hash if person else _dummy_hash()
    right = hasher().verify(passphrase[:400], stored)
    if not (person and right and person.active):
        session.add(Attempt(login=login, address=address, at=now))
        session.commit()
        raise SignInError("Name and pass-phrase do not match.")
    session.execute(delete(Attempt).where(col(Attempt.login) == login))
    return person


def open_session(session: Session, person: Person, now: datetime) -> str:
    """A fresh session's token."""
    assert person.id is not None
    token = secrets.token_urlsafe(32)
    session.execute(delete(SignIn).where(col(SignIn.expires_at) < now))
    session.add(SignIn(token_hash=_digest(token), person_id=person.id, expires_at=now + SESSION_LENGTH))
    return token


def who(session: Session, token: str, now: datetime) -> Person | None:
    """The person behind a session's token, or None."""
    row = session.get(SignIn, _digest(token))
    if row is None or row.expires_at < now:
        return None
    person = session.get(Person, row.person_id)
    return person if person and person.active else None


def close_session(session: Session, token: str) -> None:
    """End a session."""
    session.execute(delete(SignIn).where(col(SignIn.token_hash) == _digest(token)))


def one_time_link(session: Session, person: Person, now: datetime, token: str | None = None) -> str:
    """A token that signs the person in once."""
    assert person.id is not None
    token = token or secrets.token_urlsafe(24)
    session.add(OneTimeLink(token_hash=_digest(token), person_id=person.id, expires_at=now + LINK_LENGTH))
    return token


def redeem(session: Session, token: str, now: datetime) -> Person:
    """The person of a one-time link, which is used up; raises SignInError."""
    row = session.get(OneTimeLink, _digest(token))
    if row is None or row.expires_at < now:
        raise SignInError("This link has been used or has lapsed.")
    session.delete(row)
    person = session.get(Person, row.person_id)
    if person is None or not person.active:
        raise SignInError("This link's account is closed.")
    return person
