"""The one way in which figures become JSON: what is no number, or beyond all numbers, is null."""

import json
import math
from typing import Any


def finite(value: Any) -> Any:
    """The same value with null for every NaN and infinity.

    >>> finite({"a": [1.5, float("nan")], "b": float("inf")})
    {'a': [1.5, None], 'b': None}
    """
    if isinstance(value, float):
        return value if math.isfinite(value) else None
    if isinstance(value, dict):
        return {key: finite(one) for key, one in value.items()}
    if isinstance(value, list | tuple):
        return [finite(one) for one in value]
    return value


def as_json(value: Any, *, indent: int | None = None) -> str:
    """JSON text; what JSON does not know is written as its words.

    >>> as_json({"a": float("nan")})
    '{"a":null}'
    """
    separators = (",", ":") if indent is None else None
    try:
        return json.dumps(value, ensure_ascii=False, allow_nan=False, indent=indent, separators=separators, default=str)
    except ValueError:  # rare: only then is the whole walked through
        return json.dumps(
            finite(value), ensure_ascii=False, allow_nan=False, indent=indent, separators=separators, default=str
        )
