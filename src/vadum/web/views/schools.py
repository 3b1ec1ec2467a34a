"""A school as its page shows it: its settings, what it changes, and where the laboratory's own numbers come from."""

import tomllib
from collections.abc import Mapping
from typing import Any, Literal, NamedTuple, get_args, get_origin

from pydantic.fields import FieldInfo

from vadum.soil.contract.errors import FieldError
from vadum.soil.contract.fields import number, unit_of
from vadum.soil.contract.method import Method
from vadum.soil.contract.school import School, settings_of, source_of


class SettingView(NamedTuple):
    """One setting: its words, value, the value of the school it is held against, its choices, its source."""

    name: str
    words: str
    unit: str
    value: str
    against: str
    choices: tuple[str, ...]
    source: str

    @property
    def changed(self) -> bool:
        """Whether it differs from the school it is held against."""
        return self.value != self.against


def words_of(name: str) -> str:
    """A setting's name in words, without its unit.

    >>> words_of("least_spacing_m"), words_of("toe_correction")
    ('least spacing', 'toe correction')
    """
    unit_words = {"ratio", "percent", "count"}
    parts = name.split("_")
    while len(parts) > 1 and (parts[-1] in unit_words or unit_of("_".join(("x", *parts[-1:])))):
        parts.pop()
    return " ".join(parts)


def shown(value: Any) -> str:
    """A setting's value as text that can be typed back."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, int | float):
        return f"{value:.10g}"
    if isinstance(value, list | tuple):
        return ", ".join(f"({shown(one)})" if isinstance(one, list | tuple) else shown(one) for one in value)
    return str(value)


def _choices(field: FieldInfo) -> tuple[str, ...]:
    if field.annotation is bool:
        return ("yes", "no")
    if get_origin(field.annotation) is Literal:
        return tuple(str(choice) for choice in get_args(field.annotation))
    return ()


def settings(school: School, base: School) -> list[SettingView]:
    """Every setting of a school, held against another of its method: the changed first, then the laboratory's own."""
    views = [
        SettingView(
            name,
            words_of(name),
            unit_of(name),
            shown(getattr(school, name)),
            shown(getattr(base, name)),
            _choices(field),
            source_of(field),
        )
        for name, field in settings_of(type(school))
    ]
    return sorted(views, key=lambda v: (not v.changed, bool(v.source)))


def base_of(its: Method, school: School) -> School:
    """The school that another is held against: what it is based on, else the method's first."""
    return its.schools.get(school.based_on) or its.school()


def _typed(name: str, field: FieldInfo, text: str) -> Any:
    """A setting as it was typed; raises FieldError."""
    kinds = {field.annotation, *get_args(field.annotation)}
    if not text.strip():
        if type(None) not in kinds:
            raise FieldError(name, "is empty")
        return None
    if field.annotation is bool:
        return {"yes": True, "no": False}.get(text.strip(), text)
    if kinds & {int, float} and get_origin(field.annotation) not in (tuple, list):
        try:
            value = number(text)
        except ValueError:
            raise FieldError(name, f"{text[:40]!r} is not a number") from None
        return int(value) if int in kinds and float(value).is_integer() else value
    if get_origin(field.annotation) in (tuple, list):
        try:
            return tomllib.loads(f"x = [{text.replace('(', '[').replace(')', ']')}]")["x"]
        except tomllib.TOMLDecodeError:
            raise FieldError(name, "is a list of numbers with commas between them") from None
    return text.strip()


def changed(base: School, typed: Mapping[str, str]) -> dict[str, Any]:
    """What was typed differently from a school; raises FieldError that names the setting."""
    fields = dict(settings_of(type(base)))
    unknown = [name for name in typed if name not in fields]
    if unknown:
        raise FieldError(unknown[0][:60], "this method's schools have no such setting")
    now = {name: getattr(base, name) for name in typed}
    return {
        name: _typed(name, fields[name], text)
        for name, text in typed.items()
        if text.strip() != shown(now[name]).strip()
    }
