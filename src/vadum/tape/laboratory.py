"""Choices of the laboratory that no rule book makes: read with their defaults, set by a manager."""

from typing import NamedTuple

from sqlmodel import Session

from vadum.soil.contract.errors import FieldError, UnknownName
from vadum.tape.tables import LaboratorySetting


class Choice(NamedTuple):
    """A setting: what it means, what it may be, and what it is until it is set."""

    title: str
    may_be: tuple[str, ...]
    default: str


CHOICES: dict[str, Choice] = {
    "checker_read_nothing": Choice(
        "the checker of a sheet has read none of its readings (four eyes on every figure)", ("yes", "no"), "yes"
    ),
}


def choice(session: Session, key: str) -> str:
    """What holds in this laboratory."""
    row = session.get(LaboratorySetting, key)
    return row.value if row else CHOICES[key].default


def choices(session: Session) -> dict[str, str]:
    """Every setting as it holds."""
    return {key: choice(session, key) for key in CHOICES}


def choose(session: Session, key: str, value: str) -> None:
    """Set one; the ledger says who did. Raises UnknownName, FieldError."""
    if key not in CHOICES:
        raise UnknownName("setting", key[:40], tuple(CHOICES))
    if value not in CHOICES[key].may_be:
        raise FieldError("value", f"is one of {', '.join(CHOICES[key].may_be)}")
    row = session.get(LaboratorySetting, key) or LaboratorySetting(key=key, value=value)
    row.value = value
    session.add(row)
    session.flush()
