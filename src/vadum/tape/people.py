"""People: accounts, pass-phrases, sessions, one-time links, throttled attempts."""

import hashlib
import secrets
from datetime import UTC, datetime, timedelta
from functools import cache
from typing import Annotated, Any, Literal, NamedTuple

from pydantic import AfterValidator, BaseModel, ConfigDict, Field
from sqlalchemy import delete, func, select
from sqlmodel import Session, col

from vadum.soil.contract.errors import FieldError, VadumError
from vadum.tape import ledger
from vadum.tape.codes import initials, looks_like, plain_text
from vadum.tape.dialect import lock_named
from vadum.tape.hashing import hasher
from vadum.tape.tables import Attempt, KnownBrowser, OneTimeLink, Person, PersonSetting, SignIn
from vadum.tape.trouble import Busy

ROLES = ("technician", "checker", "manager")
SESSION_LENGTH = timedelta(hours=14)  # a long working day; a tablet left behind does not stay signed in
LINK_LENGTH = timedelta(hours=12)
THROTTLE_WINDOW = timedelta(minutes=15)
THROTTLE_AFTER = 5
FIRST_PAUSE_S = 10.0  # after that many failures, and twice as long after each further one
BROWSER_LENGTH = timedelta(days=400)
LEAST_PASSPHRASE = 10


class SignInError(VadumError):
    """Name and pass-phrase do not match, or too many have not matched."""


class TooManyTries(SignInError):
    """The next try is let in a little later."""

    def __init__(self, wait_s: float) -> None:
        self.retry_s = max(1, round(wait_s))
        words = f"{self.retry_s} s" if self.retry_s < 90 else f"{round(self.retry_s / 60)} min"
        super().__init__(f"Too many attempts. Wait {words}, or use a browser that you have signed in with before.")


class TooManySignIns(Busy):
    """More people try to sign in than can be looked at."""

    words = "Too many people are signing in at once: try again in a few seconds."


class NewPerson(BaseModel):
    """An account as it is made."""

    model_config = ConfigDict(extra="forbid", str_strip_whitespace=True)
    login: str = Field(min_length=2, max_length=40, pattern=r"^[a-z0-9._-]+$")
    name: Annotated[str, Field(min_length=1, max_length=120), AfterValidator(plain_text)]
    initials: Annotated[str, AfterValidator(initials)]
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
    lock_named(session.connection(), "people")
    for person in session.execute(select(Person)).scalars():
        for field in ("login", "initials"):
            if looks_like(getattr(person, field)) == looks_like(getattr(new, field)):
                raise FieldError(field, f"{getattr(new, field)!r} is taken by {person.name}, or looks like theirs")
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


def _tries(session: Session, column: Any, value: str, now: datetime) -> tuple[int, datetime | None]:
    """How often it failed within the window, and when last."""
    since = now - THROTTLE_WINDOW
    query = select(func.count(), func.max(col(Attempt.at))).where(column == value, col(Attempt.at) > since)
    many, last = session.execute(query).one()
    return int(many), last


def _wait_s(session: Session, column: Any, value: str, after: int, now: datetime) -> float:
    """Seconds until the next try is let in: twice as long after each failure beyond the first few."""
    many, last = _tries(session, column, value, now)
    if many < after or last is None:
        return 0.0
    pause = min(FIRST_PAUSE_S * 2.0 ** (many - after), THROTTLE_WINDOW.total_seconds())
    return max(0.0, pause - (now - last).total_seconds())


class Asked(NamedTuple):
    """A try to sign in that may go on to its pass-phrase: whose, and by which key its failure is counted."""

    login: str
    address: str
    stored: str
    person_id: int | None


def ask_in(session: Session, login: str, address: str, browser: str, now: datetime) -> Asked:
    """Let a try in, or raise TooManyTries. The slow look at the pass-phrase comes after, outside of any transaction.

    Failures slow a name and an address. A browser that this person has signed in from before has a count of its own:
    strangers who try the name lock nobody out of the laboratory.
    """
    login = login.strip().lower()[:40]
    person: Person | None = session.execute(select(Person).where(col(Person.login) == login)).scalar_one_or_none()
    known = session.get(KnownBrowser, _digest(browser)) if browser else None
    if person is not None and known is not None and known.person_id == person.id:
        # Neither a name nor an address looks like this: its count is its own.
        name = counted = f"browser {known.token_hash[:32]}"
        wait = _wait_s(session, col(Attempt.address), counted, THROTTLE_AFTER, now)
    else:
        by_name = _wait_s(session, col(Attempt.login), login, THROTTLE_AFTER, now)
        # A whole laboratory may share one address, so a place is given more tries than a name.
        by_place = _wait_s(session, col(Attempt.address), address, 4 * THROTTLE_AFTER, now)
        wait, counted, name = max(by_name, by_place), address, login
    if wait > 0:
        raise TooManyTries(wait)
    # An unknown name costs the same time as a wrong pass-phrase.
    stored = person.passphrase_hash if person else _dummy_hash()
    return Asked(name, counted, stored, person.id if person and person.active else None)


def verified(passphrase: str, stored: str) -> bool:
    """Whether it is the pass-phrase; slow on purpose, and heavy on the processor."""
    return hasher().verify(passphrase[:400], stored)


def answered(session: Session, asked: Asked, right: bool, now: datetime) -> Person | None:
    """The person who is let in, or None: then the failure is counted."""
    person = session.get(Person, asked.person_id) if asked.person_id is not None and right else None
    if person is None or not person.active or person.passphrase_hash != asked.stored:
        session.execute(delete(Attempt).where(col(Attempt.at) < now - THROTTLE_WINDOW))
        session.add(Attempt(login=asked.login, address=asked.address, at=now))
        return None
    session.execute(delete(Attempt).where(col(Attempt.login) == asked.login, col(Attempt.address) == asked.address))
    return person


def know_browser(session: Session, person: Person, browser: str, now: datetime) -> str:
    """Remember the browser that this person signed in from; its token, a fresh one where it had none of theirs."""
    assert person.id is not None
    row = session.get(KnownBrowser, _digest(browser)) if browser else None
    if row is None or row.person_id != person.id:
        browser = secrets.token_urlsafe(24)
        row = KnownBrowser(token_hash=_digest(browser), person_id=person.id, seen_at=now)
    row.seen_at = now
    session.add(row)
    session.execute(delete(KnownBrowser).where(col(KnownBrowser.seen_at) < now - BROWSER_LENGTH))
    return browser


def open_session(session: Session, person: Person, now: datetime, *, resets: bool = False) -> str:
    """A fresh session's token; one that `resets` may set the pass-phrase without the former."""
    assert person.id is not None
    token = secrets.token_urlsafe(32)
    session.execute(delete(SignIn).where(col(SignIn.expires_at) < now))
    session.add(SignIn(token_hash=_digest(token), person_id=person.id, expires_at=now + SESSION_LENGTH, resets=resets))
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


def one_time_link(
    session: Session, person: Person, now: datetime, token: str | None = None, *, resets: bool = False
) -> str:
    """A token that signs the person in once; one that `resets` lets a new pass-phrase be set."""
    assert person.id is not None
    token = token or secrets.token_urlsafe(24)
    link = OneTimeLink(token_hash=_digest(token), person_id=person.id, expires_at=now + LINK_LENGTH, resets=resets)
    session.add(link)
    return token


def redeem(session: Session, token: str, now: datetime) -> tuple[Person, bool]:
    """The person of a one-time link, which is used up, and whether it resets; raises SignInError."""
    row = session.get(OneTimeLink, _digest(token))
    if row is None or row.expires_at < now:
        raise SignInError("This link has been used or has lapsed.")
    resets = row.resets
    session.delete(row)
    person = session.get(Person, row.person_id)
    if person is None or not person.active:
        raise SignInError("This link's account is closed.")
    if resets:
        _noted(session, person, "reset link used", person.initials)
    return person, resets


def named(session: Session, login: str) -> Person:
    """The account of that name; raises FieldError."""
    person: Person | None = session.execute(
        select(Person).where(col(Person.login) == login.strip().lower()).with_for_update()
    ).scalar_one_or_none()
    if person is None:
        raise FieldError("login", f"nobody signs in as {login.strip()[:40]!r}")
    return person


def new_passphrase(passphrase: str) -> str:
    """The pass-phrase, long enough; raises FieldError."""
    if not LEAST_PASSPHRASE <= len(passphrase) <= 400:
        raise FieldError("passphrase", f"has {LEAST_PASSPHRASE} to 400 characters")
    return passphrase


def _noted(session: Session, person: Person, words: str, by: str) -> None:
    """In the ledger, in words, beside the digest of what was changed."""
    ledger.note(session.connection(), "account", f"person/{person.id}", "", by, f"{person.login}: {words}")


def set_passphrase(session: Session, person: Person, stored: str, by: str, keep: str = "") -> None:
    """A new pass-phrase, hashed already; every other session ends, `keep` is the one that stays."""
    person.passphrase_hash = stored
    session.add(person)
    session.flush()
    end_sessions(session, person, by, keep=keep)
    _noted(session, person, "pass-phrase changed", by)


def reset_link(session: Session, person: Person, by: str, now: datetime) -> str:
    """A link that lets the person in once, to set a new pass-phrase; sessions that run end."""
    if not person.active:
        raise FieldError("login", f"{person.login}'s account is closed: open it first")
    end_sessions(session, person, by)
    _noted(session, person, "reset link made", by)
    _tell(session, person, f"{by} {now.astimezone(UTC):%Y-%m-%dT%H:%M}")
    return one_time_link(session, person, now, resets=True)


RESET_TOLD = "reset link"
TOLD_FOR = timedelta(days=30)


class ResetTold(NamedTuple):
    """What a person is told of a reset link: the initials of who made it, and when."""

    by: str
    at: datetime


def _tell(session: Session, person: Person, words: str) -> None:
    query = select(PersonSetting).where(col(PersonSetting.person_id) == person.id, col(PersonSetting.key) == RESET_TOLD)
    told = session.execute(query).scalar_one_or_none()
    told = told or PersonSetting(person_id=person.id or 0, key=RESET_TOLD, value="")
    told.value = words
    session.add(told)


def reset_told(session: Session, person: Person, now: datetime) -> ResetTold | None:
    """The reset link last made for a person, for a month: they are told at their sign-ins that somebody could have set
    their pass-phrase."""
    query = select(col(PersonSetting.value)).where(
        col(PersonSetting.person_id) == person.id, col(PersonSetting.key) == RESET_TOLD
    )
    words = session.execute(query).scalar_one_or_none()
    if words is None:
        return None
    by, _, moment = words.partition(" ")
    at = datetime.fromisoformat(moment).replace(tzinfo=UTC)
    return ResetTold(by, at) if now - at < TOLD_FOR else None


def _last_manager(session: Session, person: Person) -> bool:
    others = select(func.count()).where(
        col(Person.role) == "manager", col(Person.active), col(Person.id) != (person.id or 0)
    )
    return person.role == "manager" and person.active and not session.execute(others).scalar_one()


def change_role(session: Session, person: Person, role: str, by: str) -> None:
    """Another role; raises FieldError for an unknown one, or when no manager would be left."""
    if role not in ROLES:
        raise FieldError("role", f"is one of {', '.join(ROLES)}")
    if role != "manager" and _last_manager(session, person):
        raise FieldError("role", f"{person.name} is the only manager: make another one first")
    was, person.role = person.role, role
    session.add(person)
    session.flush()
    _noted(session, person, f"role {was} became {role}", by)


def set_active(session: Session, person: Person, active: bool, by: str) -> None:
    """Close an account, whose sessions end, or open it again; raises FieldError when no manager would be left."""
    if not active and _last_manager(session, person):
        raise FieldError("active", f"{person.name} is the only manager: make another one first")
    person.active = active
    session.add(person)
    session.flush()
    if not active:
        end_sessions(session, person, by)
    _noted(session, person, "account opened" if active else "account closed", by)


def end_sessions(session: Session, person: Person, by: str, keep: str = "") -> int:
    """End a person's sessions and unused links, but for the one whose token is kept; how many sessions ended."""
    query = delete(SignIn).where(col(SignIn.person_id) == person.id)
    if keep:
        query = query.where(col(SignIn.token_hash) != _digest(keep))
    ended = int(getattr(session.execute(query), "rowcount", 0) or 0)
    session.execute(delete(OneTimeLink).where(col(OneTimeLink.person_id) == person.id))
    if ended:
        _noted(session, person, f"{ended} sessions ended", by)
    return ended


def sessions_of(session: Session, now: datetime) -> dict[int, int]:
    """How many sessions each person has open."""
    query = select(col(SignIn.person_id), func.count()).where(col(SignIn.expires_at) > now)
    return {row[0]: row[1] for row in session.execute(query.group_by(col(SignIn.person_id)))}


def resets(session: Session, token: str) -> bool:
    """Whether this session was begun by a reset link, and the new pass-phrase is not set yet."""
    row = session.get(SignIn, _digest(token))
    return bool(row and row.resets)


def end_after_reset(session: Session, token: str) -> bool:
    """The new pass-phrase is set: a session that a reset link began has done all it may, and ends; whether it did."""
    row = session.get(SignIn, _digest(token))
    if row is None or not row.resets:
        return False
    session.delete(row)
    return True
