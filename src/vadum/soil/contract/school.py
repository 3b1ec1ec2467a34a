"""Schools: named sets of accepted rules for one method, read from TOML beside the method and from the laboratory's own.

A school holds what differs between rule books. What no school of a method changes is a *laboratory setting*: a field
declared with `laboratory(...)`, with where its number comes from.
"""

import tomllib
from collections.abc import Callable, Iterator, Mapping
from functools import cache
from pathlib import Path
from typing import Any, ClassVar, Generic, TypeVar

from pydantic import Field, ValidationError, ValidationInfo, field_validator, model_validator
from pydantic.fields import FieldInfo

from vadum.soil.contract.errors import FieldError, UnknownName, VadumError
from vadum.soil.contract.outcome import Frozen

NAME = r"[a-z][a-z0-9_]{1,39}"
ABOUT = ("name", "title", "standard", "about", "based_on")
MOST_COUNT, MOST_TIME = 1_000, 100_000  # the highest count, and the most minutes or seconds, that a setting may say


def laboratory(default: Any, source: str = "laboratory setting", **more: Any) -> Any:
    """A setting that no rule book of the method sets: its start value, and where it comes from."""
    return Field(default, json_schema_extra={"laboratory": source}, **more)


class School(Frozen):
    """A named set of accepted rules for one method. `name` is the key, `title` what a person reads."""

    name: str = Field(pattern=NAME)
    title: str = Field(min_length=1, max_length=120)
    standard: str = Field(min_length=1, max_length=200)
    about: str = Field(max_length=600)
    based_on: str = ""
    half_to_even: bool = laboratory(False, "ASTM D6026 rounds a half up, E29 to the even digit")

    # Settings that former versions wrote on tapes and into files, each with what takes its place: from all that was
    # told, the settings of today. A setting is never taken away without its line here.
    RETIRED: ClassVar[Mapping[str, Callable[[Mapping[str, Any]], Mapping[str, Any]]]] = {}

    @model_validator(mode="before")
    @classmethod
    def _as_written_formerly(cls, told: Any) -> Any:
        """What a former version wrote, as it is read today; a setting that no version had stays an error."""
        if not isinstance(told, Mapping) or not cls.RETIRED.keys() & told.keys():
            return told
        now = {name: value for name, value in told.items() if name not in cls.RETIRED}
        for name, successor in cls.RETIRED.items():
            if name in told:
                now |= successor(told)
        return now

    @field_validator("*")
    @classmethod
    def _can_be_counted_to(cls, value: Any, info: ValidationInfo) -> Any:
        """A count that nobody works by would keep the program at it for ever."""
        most = MOST_TIME if str(info.field_name).endswith(("_min", "_s")) else MOST_COUNT
        if isinstance(value, int) and not -most <= value <= most:
            raise ValueError(f"{value} is far beyond what can be worked by; at most {most}")
        return value


S = TypeVar("S", bound=School)


def source_of(field: FieldInfo) -> str:
    """Where a laboratory setting's number comes from; empty for what the school sets."""
    extra = field.json_schema_extra
    return str(extra.get("laboratory", "")) if isinstance(extra, dict) else ""


def settings_of(school: type[School]) -> Iterator[tuple[str, FieldInfo]]:
    """The numbers and choices of a school, without its name and its words."""
    for name, field in school.model_fields.items():
        if name not in ABOUT:
            yield name, field


def changes(school: School, base: School) -> dict[str, tuple[Any, Any]]:
    """The settings in which a school differs from another of its method: name -> (theirs, its own)."""
    return {
        name: (getattr(base, name, None), getattr(school, name))
        for name, _ in settings_of(type(school))
        if getattr(base, name, None) != getattr(school, name)
    }


class SchoolError(VadumError):
    """A school's file that cannot be read: names the file and the setting."""

    def __init__(self, file: str, field: str, problem: str) -> None:
        self.file, self.field, self.problem = file, field, problem
        super().__init__(f"{file}: {field}: {problem}")


def read_school(file: Path, kind: type[S], known: Mapping[str, S]) -> S:
    """The school that a file describes; `based_on` another, it changes only what it names. Raises SchoolError."""
    try:
        told = tomllib.loads(file.read_text("utf-8"))
    except (OSError, UnicodeDecodeError, tomllib.TOMLDecodeError) as error:
        raise SchoolError(file.name, "file", str(error)) from None
    told.pop("order", None)
    told |= dict.fromkeys(told.pop("without", []))  # TOML has no word for "this school sets none"
    base = told.get("based_on", "")
    settings: dict[str, Any] = {}
    if base:
        if base not in known:
            raise SchoolError(file.name, "based_on", f"there is no school {base!r}; known: {', '.join(known)}")
        settings = known[base].model_dump()
    try:
        return kind.model_validate(settings | {"name": file.stem} | told)
    except ValidationError as error:
        first = error.errors()[0]
        field = ".".join(map(str, first["loc"])) or "school"
        raise SchoolError(file.name, field, first["msg"].removeprefix("Value error, ")) from None


@cache
def shipped(folder: Path, kind: type[S]) -> dict[str, S]:
    """The schools that ship with a method, in the order that their files give."""
    files = sorted(folder.glob("*.toml"), key=lambda f: (tomllib.loads(f.read_text("utf-8")).get("order", 99), f.name))
    found: dict[str, S] = {}
    for file in files:
        found[file.stem] = read_school(file, kind, found)
    return found


class OwnSchools:
    """The laboratory's own schools: a folder of folders, `<method>/<name>.toml`, read again when a file changes.

    A run keeps the school it began with on its tape: a file that is changed or taken away changes no old run.
    """

    def __init__(self) -> None:
        self.folder: Path | None = None
        self._kept: dict[tuple[str, str, float, int], School | SchoolError] = {}

    def of(self, method: str, kind: type[S], known: Mapping[str, S]) -> tuple[dict[str, S], list[SchoolError]]:
        """The laboratory's schools of a method, and what cannot be read among its files."""
        found: dict[str, S] = {}
        wrong: list[SchoolError] = []
        folder = self.folder / method if self.folder else None
        if folder is None or not folder.is_dir():
            return found, wrong
        for file in sorted(folder.glob("*.toml")):
            stat = file.stat()
            key = (method, str(file), stat.st_mtime, stat.st_size)
            if key not in self._kept:
                try:
                    if file.stem in known:
                        raise SchoolError(file.name, "name", "is that of a shipped school: give the copy its own")
                    self._kept[key] = read_school(file, kind, {**known, **found})
                except SchoolError as error:
                    self._kept[key] = error
            made = self._kept[key]
            if isinstance(made, SchoolError):
                wrong.append(made)
            else:
                found[file.stem] = made  # type: ignore[assignment]
        return found, wrong


OWN = OwnSchools()


class Schools(Mapping[str, S], Generic[S]):
    """The schools of a method by name: those that ship with it, then the laboratory's own."""

    def __init__(self, method: str, folder: Path, kind: type[S], own: OwnSchools = OWN) -> None:
        self.method, self.folder, self.kind, self._own = method, folder, kind, own

    @property
    def shipped(self) -> dict[str, S]:
        """Those that ship with the method."""
        return shipped(self.folder, self.kind)

    @property
    def own(self) -> dict[str, S]:
        """The laboratory's."""
        return self._own.of(self.method, self.kind, self.shipped)[0]

    @property
    def unreadable(self) -> list[SchoolError]:
        """What cannot be read among the laboratory's files."""
        return self._own.of(self.method, self.kind, self.shipped)[1]

    def __getitem__(self, name: str) -> S:
        found = self.shipped.get(name)
        if found is None:
            found = self.own.get(name)
        if found is None:
            raise KeyError(name)
        return found

    def __iter__(self) -> Iterator[str]:
        return iter({**self.shipped, **self.own})

    def __len__(self) -> int:
        return len(self.shipped) + len(self.own)


def schools_of(file: str, kind: type[S]) -> Schools[S]:
    """The schools in the folder `schools` beside a method's module: `schools_of(__file__, MouldSchool)`."""
    folder = Path(file).parent
    return Schools(folder.name, folder / "schools", kind)


def as_toml(school: School, base: School, changed: Mapping[str, Any]) -> str:
    """A school of the laboratory's own as a file: based on another, only what it changes. Raises FieldError."""
    lines = [
        f"title = {_toml(school.title)}",
        f"standard = {_toml(school.standard)}",
        f"about = {_toml(school.about)}",
        f"based_on = {_toml(base.name)}",
        "",
    ]
    lines += [f"{name} = {_toml(value)}" for name, value in changed.items() if value is not None]
    without = [name for name, value in changed.items() if value is None]
    lines += [f"without = {_toml(without)}"] if without else []
    return "\n".join(lines) + "\n"


def _toml(value: Any) -> str:
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, int | float):
        return repr(value)
    if isinstance(value, str):
        return _quoted(value)
    if isinstance(value, list | tuple):
        return "[" + ", ".join(_toml(one) for one in value) + "]"
    raise FieldError("setting", f"{value!r} cannot be written")


def _quoted(text: str) -> str:
    escapes = {"\\": "\\\\", '"': '\\"', "\n": "\\n", "\t": "\\t", "\r": "\\r"}
    kept = (escapes.get(c, c) for c in text)
    return '"' + "".join(c if c.isprintable() or c == " " else f"\\u{ord(c):04X}" for c in kept) + '"'


def school_named(schools: Mapping[str, S], name: str | None) -> S:
    """The school of that name, or the first; raises UnknownName."""
    if name is None:
        return next(iter(schools.values()))
    if name not in schools:
        raise UnknownName("school", name, tuple(schools))
    return schools[name]
