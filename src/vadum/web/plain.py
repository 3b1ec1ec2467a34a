"""The program's JSON answers: what is no number is null."""

from typing import Any

from fastapi.responses import JSONResponse

from vadum.soil.contract.plain_json import as_json


class PlainJSON(JSONResponse):
    """JSON in which what is no number is null."""

    def render(self, content: Any) -> bytes:
        """The body."""
        return as_json(content).encode()
