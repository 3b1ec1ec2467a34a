"""What a refusal is to whoever asked: its status, the field it names, its words."""

from typing import Any

from vadum.soil.contract.errors import FieldError, UnknownName, VadumError
from vadum.tape.entries import RunClosed, StrikeError
from vadum.tape.people import SignInError, TooManyTries
from vadum.tape.runs import NotAllowed, SlipError
from vadum.tape.signatures import Changed
from vadum.tape.trouble import Busy
from vadum.tape.typed_table import TableError
from vadum.web.channel import Unheard
from vadum.web.context import Missing, NotSignedIn, OtherPerson, PassphraseFirst

STATUS: tuple[tuple[type[VadumError], int], ...] = (
    (NotSignedIn, 401),
    (PassphraseFirst, 403),
    (OtherPerson, 401),
    (Missing, 404),
    (Unheard, 404),
    (SlipError, 409),
    (Changed, 409),
    (RunClosed, 409),
    (StrikeError, 422),
    (TableError, 422),
    (FieldError, 422),
    (UnknownName, 422),
    (NotAllowed, 403),
    (TooManyTries, 429),
    (Busy, 503),
    (SignInError, 403),
    (VadumError, 409),
)


def refusal(error: VadumError) -> dict[str, Any]:
    """Status, field and message of an error; whether it is a question that may be answered, and asks for a reason."""
    status = next(code for kind, code in STATUS if isinstance(error, kind))
    field = getattr(error, "field", getattr(error, "path", getattr(error, "kind", "")))
    message = getattr(error, "problem", "") or (error.found if isinstance(error, SlipError) else str(error))
    found = {"status": status, "field": field, "message": message, "slip": isinstance(error, SlipError)}
    return found | ({"asks_why": True} if getattr(error, "asks_why", False) else {})
