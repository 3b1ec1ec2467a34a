"""Whether what is typed can be a place's value: refused at the door, with its field, before anything is kept."""

from typing import Any

from pydantic import TypeAdapter, ValidationError

from vadum.soil.contract import paths
from vadum.soil.contract.block import is_block
from vadum.soil.contract.errors import FieldError
from vadum.soil.contract.fields import RecordPart, unit_of


def _message(error: ValidationError) -> str:
    first = error.errors()[0]
    text = first["msg"].removeprefix("Value error, ")
    return text[0].lower() + text[1:]


def parse(record: type[RecordPart], path: str, value: Any) -> None:
    """Refuse what is not a place of the record or cannot be read as its kind; raises FieldError with the field."""
    found = paths.holder_of(record, path)
    if found is None:
        flat = paths.not_a_list(record, path)
        raise FieldError(path[:60] if not flat else path, flat or "there is no such field")
    holder, last = found
    rows = paths.rows_model(holder, last.name)
    if (rows is not None) != (last.row is not None):
        raise FieldError(path, "this is a list of rows: say which row" if rows else "this is not a list of rows")
    if rows is not None and is_block(value):
        _parse_block(rows, path, value)
        return
    if rows is not None and not isinstance(value, dict):
        raise FieldError(path, "a row is an object of its fields")
    if rows is None and isinstance(value, dict):
        raise FieldError(path, "one value is wanted, not an object")
    if isinstance(value, str) and not value.strip():
        raise FieldError(path, "is empty")
    texts = value.values() if isinstance(value, dict) else [value]
    if any(isinstance(text, str) and "\x00" in text for text in texts):
        raise FieldError(path, "holds a character that cannot be written")
    part: Any = value if rows is None else [value]
    if rows is not None and any(paths.rows_model(rows, name) for name in value):
        raise FieldError(path, "the rows of a row are entered one by one")
    try:
        holder.model_validate({last.name: part})
    except ValidationError as error:
        location = error.errors()[0]["loc"]
        at = path if rows is None else f"{path}.{location[-1]}"
        unknown = error.errors()[0]["type"] == "extra_forbidden"
        raise FieldError(at, "there is no such field" if unknown else _message(error)) from None


def _parse_block(rows: type[RecordPart], path: str, value: dict[str, Any]) -> None:
    """Refuse a block whose columns are no fields of the row, or that holds what cannot be read as their kind."""
    for name, cells in value["columns"].items():
        field = rows.model_fields.get(name)
        if field is None or field.default == ():
            raise FieldError(f"{path}.{name}"[:120], "there is no such field")
        unit = value["units"].get(name, unit_of(name))
        if unit != unit_of(name):
            raise FieldError(f"{path}.{name}", f"is in {unit_of(name)}, not in {unit[:12]}")
        kept = [cell for cell in cells if cell is not None and cell != ""]
        try:
            rows.model_validate({name: kept[0]} if kept else {})
            TypeAdapter(tuple[field.annotation, ...]).validate_python(kept)  # type: ignore[name-defined]
        except ValidationError as error:
            row = next((part for part in error.errors()[0]["loc"] if isinstance(part, int)), 0)
            raise FieldError(f"{path}.{name}", f"row {row + 1}: {_message(error)}") from None
