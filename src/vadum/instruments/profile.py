"""Parsing profiles: a small table in a file says how an instrument's lines become figures."""

import math
import os
import re
import tomllib
from functools import cached_property
from pathlib import Path
from typing import Literal, NamedTuple

from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator

from vadum.soil.contract.errors import FieldError, UnknownName, VadumError

SHIPPED = Path(__file__).parent / "profiles"
RESERVED = ("seq", "seconds")
LONGEST_LINE = 400


class LineError(VadumError):
    """A line that cannot be read; it is counted, never guessed at."""

    def __init__(self, line: bytes, problem: str) -> None:
        self.line, self.problem = line, problem
        super().__init__(f"{problem}: {line[:60]!r}")


class Figures(NamedTuple):
    """One line read: its number and its own time in s where it has them, and its channels."""

    seq: int | None
    seconds: float | None
    values: dict[str, float]


class Channel(BaseModel):
    """One figure of a line: its unit, and what its digits are multiplied by."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    unit: str = Field(max_length=12)
    factor: float = 1.0


class Profile(BaseModel):
    """How an instrument speaks. `pattern` names its figures as groups; `seq` and `seconds` are its number and time."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    name: str = Field(pattern=r"[a-z][a-z0-9_]*", max_length=40)
    kind: Literal["frame", "torque", "balance", "level"]
    title: str = Field(max_length=80)
    terminator: str = Field(min_length=1, max_length=4)
    pattern: str = Field(max_length=600)
    checksum: Literal["none", "sum"] = "none"
    encoding: str = "ascii"
    baud: int = Field(9600, ge=50, le=4_000_000)
    silent_s: float = Field(3.0, gt=0)
    channels: dict[str, Channel]
    commands: dict[str, str] = {}

    @field_validator("pattern")
    @classmethod
    def _compiles(cls, pattern: str) -> str:
        try:
            re.compile(pattern)
        except re.error as error:
            raise ValueError(f"is no regular expression: {error}") from None
        return pattern

    @cached_property
    def expression(self) -> re.Pattern[str]:
        """The pattern, compiled."""
        return re.compile(self.pattern)

    def parse(self, line: bytes) -> Figures:
        """The figures of one line without its terminator; raises LineError on garbage."""
        try:
            text = line.decode(self.encoding)
        except UnicodeDecodeError:
            raise LineError(line, "bytes that are no text") from None
        if self.checksum == "sum":
            text, star, digits = text.rpartition(" *")
            if not star or f"{checksum(text):02X}" != digits.strip():
                raise LineError(line, "its checksum does not hold")
        match = self.expression.fullmatch(text)
        if match is None:
            raise LineError(line, "does not fit the profile's pattern")
        groups = match.groupdict()
        values = {}
        for name, channel in self.channels.items():
            if groups.get(name) is not None:
                values[name] = channel.factor * float(groups[name].replace(" ", ""))
        if not values or not all(map(math.isfinite, values.values())):
            raise LineError(line, "holds no figure")
        seq, seconds = groups.get("seq"), groups.get("seconds")
        return Figures(int(seq) if seq else None, float(seconds) if seconds else None, values)


def checksum(text: str) -> int:
    """Sum of the characters' codes, modulo 256.

    >>> checksum("1 0.10 mass=41.22")
    24
    """
    return sum(text.encode()) % 256


def framed(text: str) -> bytes:
    """A plain line with its checksum and end.

    >>> framed("1 0.10 mass=41.22")
    b'1 0.10 mass=41.22 *18\\n'
    """
    return f"{text} *{checksum(text):02X}\n".encode()


def read_profile(path: Path) -> Profile:
    """The profile in a TOML file; raises FieldError that names what is wrong in it."""
    try:
        return Profile.model_validate(tomllib.loads(path.read_text("utf-8")))
    except tomllib.TOMLDecodeError as error:
        raise FieldError(path.name, f"is no TOML: {error}") from None
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(map(str, first["loc"]))
        raise FieldError(f"{path.name}: {where}", first["msg"].removeprefix("Value error, ")) from None


def profiles() -> dict[str, Profile]:
    """The shipped profiles, and those in the folder that VADUM_PROFILES names, which win."""
    folders = [SHIPPED]
    if os.environ.get("VADUM_PROFILES"):
        folders.append(Path(os.environ["VADUM_PROFILES"]))
    found = {}
    for folder in folders:
        for path in sorted(folder.glob("*.toml")):
            profile = read_profile(path)
            found[profile.name] = profile
    return found


def profile(name: str) -> Profile:
    """The profile of that name; raises UnknownName."""
    known = profiles()
    if name not in known:
        raise UnknownName("profile", name, tuple(known))
    return known[name]
