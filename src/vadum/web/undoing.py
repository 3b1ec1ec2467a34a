"""What takes back something just done: an address and a body that the page's Undo sends, and where it goes then.

An undo is an ordinary request of this program: it may do no more than the person could do by hand, and it stands in the
ledger under their own name.
"""

from typing import Any

from pydantic import BaseModel
from sqlmodel import SQLModel


def undo(url: str, body: dict[str, Any] | None = None, go: str = "") -> dict[str, Any]:
    """The undo of an answer: `url` is posted to with `body`; `go` is the page after it, where its answer names none."""
    return {"url": f"/api/v1{url}", "body": body or {}, "go": go}


def former(row: SQLModel, model: type[BaseModel]) -> dict[str, Any]:
    """What a form of that model would have sent for a row as it stands now."""
    return {name: value for name, value in row.model_dump(mode="json").items() if name in model.model_fields}
