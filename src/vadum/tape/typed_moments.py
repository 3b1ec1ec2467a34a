"""Times that a person typed off the clock on the wall, without an offset: put into the laboratory's zone."""

from datetime import datetime
from typing import Any

from vadum.soil.contract import paths
from vadum.soil.contract.block import is_block
from vadum.soil.contract.errors import FieldError
from vadum.soil.contract.fields import RecordPart, kind_of
from vadum.tape.clock import read_by_the_clock


def with_offsets(record: type[RecordPart], path: str, value: Any, now: datetime) -> Any:
    """A value with its times given the offset that the clocks had then; digits of anything else stay as typed.

    Raises FieldError for a time that the clocks showed twice, or never.
    """
    if isinstance(value, dict) and not is_block(value):
        return {name: with_offsets(record, f"{path}.{name}", one, now) for name, one in value.items()}
    if not isinstance(value, str) or path.startswith("@"):
        return value
    field = paths.field_of(record, path)
    if field is None or kind_of(field)[0] != "moment":
        return value
    try:
        face = datetime.fromisoformat(value.strip())
    except ValueError:
        return value  # refused where it is parsed, in the words of its field
    if face.tzinfo is not None:
        return value
    try:
        return read_by_the_clock(face, now).isoformat()
    except ValueError as error:
        raise FieldError(path, str(error)) from None
