"""The version of this program, as a signature names it."""

from functools import cache
from importlib.metadata import PackageNotFoundError, version


@cache
def program_version() -> str:
    """The installed version; "unknown" where the program runs from a bare copy of its files."""
    try:
        return version("vadum")
    except PackageNotFoundError:
        return "unknown"
