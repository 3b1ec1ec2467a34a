"""A taped value in words, by the kind of its field: text is text, whatever it looks like."""

from collections.abc import Callable
from datetime import date, datetime
from typing import Any

from vadum.soil.contract.block import is_block
from vadum.soil.contract.block import said as block_words
from vadum.soil.contract.fields import RecordPart, kind_of, moment
from vadum.soil.contract.paths import field_of


def said(
    record: type[RecordPart],
    path: str,
    value: Any,
    moment_words: Callable[[datetime], str],
    day_words: Callable[[date], str],
) -> str:
    """The value that stands at a path, in words; a row's fields one after the other. Never raises on a value.

    `moment_words` and `day_words` write what the field says is a moment or a day.
    """
    if is_block(value):
        return block_words(value)
    if isinstance(value, dict):
        parts = [said(record, f"{path}.{name}", one, moment_words, day_words) for name, one in value.items()]
        return " · ".join(part for part in parts if part)
    if value is None:
        return ""
    field = field_of(record, path)
    kind = kind_of(field)[0] if field else "text"
    try:
        if kind == "moment":
            return moment_words(moment(value))
        if kind == "day":
            return day_words(value if isinstance(value, date) else date.fromisoformat(str(value).strip()))
    except (ValueError, OverflowError):
        pass  # no calendar day, or one that a zone moves off the calendar: as it was typed
    return str(value)
