"""Choices of the laboratory that no rule book makes: read with their defaults, set by a manager."""

from typing import Any, NamedTuple, get_args

from pydantic import ValidationError
from sqlmodel import Session

from vadum.soil.contract.errors import FieldError, UnknownName
from vadum.soil.contract.fields import plain_number
from vadum.soil.contract.numerics import plain
from vadum.soil.soil_card.bands import Bands
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


BAND = "band."


def _told(value: Any) -> str:
    return " to ".join(plain(v, 6) for v in value) if isinstance(value, tuple) else plain(value, 6)


def bands(session: Session) -> Bands:
    """The bands of the cross-readings as they hold in this laboratory."""
    found: dict[str, Any] = {}
    for name in Bands.model_fields:
        row = session.get(LaboratorySetting, BAND + name)
        if row is not None:
            found[name] = _figures(name, row.value)
    return Bands.model_validate(found)


def _figures(name: str, text: str) -> float | tuple[float, ...]:
    """The figure or the two that a text holds: `0.5 to 2`; raises FieldError."""
    pair = bool(get_args(Bands.model_fields[name].annotation))
    parts = text.replace("–", " ").replace("to", " ").split()
    if len(parts) != (2 if pair else 1):
        raise FieldError("value", "is two figures, such as 0.5 to 2" if pair else "is one figure")
    try:
        figures = tuple(plain_number(part) for part in parts)
    except ValueError as error:
        raise FieldError("value", str(error)) from None
    if pair and not figures[0] < figures[1]:
        raise FieldError("value", "the first is the lower one")
    return figures if pair else figures[0]


def band_fields(session: Session) -> list[tuple[str, str, str, str]]:
    """Each band as it is set in the browser: key, title, as it holds, as it was shipped."""
    now, shipped = bands(session), Bands()
    return [
        (BAND + name, field.title or name, _told(getattr(now, name)), _told(getattr(shipped, name)))
        for name, field in Bands.model_fields.items()
    ]


def _choose_band(name: str, value: str) -> str:
    """A band's new text, checked; raises FieldError."""
    figures = _figures(name, value)
    try:
        Bands.model_validate({name: figures})
    except ValidationError as error:
        raise FieldError("value", error.errors()[0]["msg"]) from None
    return _told(figures)


def choose(session: Session, key: str, value: str) -> None:
    """Set one; the ledger says who did. Raises UnknownName, FieldError."""
    if key.startswith(BAND) and key.removeprefix(BAND) in Bands.model_fields:
        value = _choose_band(key.removeprefix(BAND), value)
    elif key not in CHOICES:
        raise UnknownName("setting", key[:40], tuple(CHOICES))
    elif value not in CHOICES[key].may_be:
        raise FieldError("value", f"is one of {', '.join(CHOICES[key].may_be)}")
    row = session.get(LaboratorySetting, key) or LaboratorySetting(key=key, value=value)
    row.value = value
    session.add(row)
    session.flush()
