"""How large the body of a request may be: declared at its route, held before the route is reached."""

import re
from collections.abc import Callable, Iterable
from typing import Any, NamedTuple, TypeVar

from fastapi import APIRouter
from fastapi.routing import APIRoute

READING_BYTES = 256 * 1024
TABLE_BYTES = 2 * 1024 * 1024  # a logger's file, twenty thousand rows of it
PICTURE_BYTES = 4 * 1024 * 1024 + 16 * 1024  # three million bytes of a picture as base64, and its words
JOB_BYTES = 57_000_000  # a whole job as base64

Endpoint = TypeVar("Endpoint", bound=Callable[..., Any])
_DECLARED = "most_body_bytes"


class BodyLimit(NamedTuple):
    """A route's path and the most bytes its body may have."""

    path: re.Pattern[str]
    most: int


def body_up_to(most: int) -> Callable[[Endpoint], Endpoint]:
    """Declare that a route's body may have so many bytes; without it a body is no larger than a reading's."""

    def declared(endpoint: Endpoint) -> Endpoint:
        setattr(endpoint, _DECLARED, most)
        return endpoint

    return declared


def limit_of(route: APIRoute) -> int:
    """The most bytes that a route's body may have."""
    return int(getattr(route.endpoint, _DECLARED, READING_BYTES))


def body_limits(routers: Iterable[APIRouter]) -> tuple[BodyLimit, ...]:
    """The routes that take more than a reading."""
    routes = (route for router in routers for route in router.routes if isinstance(route, APIRoute))
    return tuple(BodyLimit(r.path_regex, limit_of(r)) for r in routes if limit_of(r) != READING_BYTES)
