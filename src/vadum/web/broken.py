"""What is shown of a run that is broken: why, since which entry, and every reading, to be struck where it is wrong."""

from typing import Any, NamedTuple

from vadum.soil.contract import paths
from vadum.soil.contract.fields import unit_of
from vadum.soil.contract.paths import field_of
from vadum.soil.register import METHODS
from vadum.tape.entries import Taped
from vadum.tape.fence import BrokenRun


class Listed(NamedTuple):
    """A reading of the broken run."""

    entry: Taped
    label: str
    value: str
    struck: bool
    blamed: bool


def _label(entry: Taped, method: str) -> str:
    its = METHODS.get(method)
    field = field_of(its.Record, entry.path) if its else None
    return (field.title if field else None) or paths.field_name(entry.path).replace("_", " ")


def _value(entry: Taped) -> str:
    if entry.value is None:
        return "struck"
    if isinstance(entry.value, dict):
        return " · ".join(str(v)[:60] for v in entry.value.values() if v is not None)
    return f"{str(entry.value)[:120]} {unit_of(entry.path)}".strip()


def listed(broken: BrokenRun) -> list[Listed]:
    """The readings, the newest first."""
    began = next((e.value for e in broken.entries if e.path == "@started"), None)
    method = str(began.get("method", "")) if isinstance(began, dict) else ""
    struck = {target for entry in broken.entries for target in entry.strikes}
    return [
        Listed(e, _label(e, method), _value(e), e.id in struck, e.seq == broken.seq)
        for e in reversed(broken.entries)
        if not e.path.startswith("@") and e.value is not None
    ]


def broken_values(broken: BrokenRun) -> dict[str, Any]:
    """All that the page of a broken run shows."""
    return {"broken": broken, "readings": listed(broken), "place": ""}
