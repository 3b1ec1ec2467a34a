"""How typed readings become numbers, and the table that ties a field's ending to its unit."""

import math
import re
from collections.abc import Mapping
from datetime import UTC, date, datetime
from functools import cache
from typing import Annotated, Any, ClassVar, Literal, TypeGuard, get_args, get_origin

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field
from pydantic.fields import FieldInfo

# Every number's name ends in its unit; labels, forms and a test read this table. The longest ending that fits counts,
# so that a rate in mm/h is no time in h.
UNITS: dict[str, str] = {
    "_g_l": "g/L",
    "_mg_kg": "mg/kg",
    "_mg_m3": "Mg/m³",
    "_kn_m3": "kN/m³",
    "_kg_m2": "kg/m²",
    "_cm3": "cm³",
    "_cm2": "cm²",
    "_mm2": "mm²",
    "_mm2_min": "mm²/min",
    "_cm": "cm",
    "_kg": "kg",
    "_g": "g",
    "_ml": "mL",
    "_mm": "mm",
    "_m": "m",
    "_percent": "%",
    "_c": "°C",
    "_n_div": "N/div",
    "_div": "div",
    "_kn": "kN",
    "_n": "N",
    "_mm_min": "mm/min",
    "_percent_min": "%/min",
    "_mm_h": "mm/h",
    "_cm_s": "cm/s",
    "_m_s": "m/s",
    "_kpa": "kPa",
    "_bar": "bar",
    "_kn_m2": "kN/m²",
    "_kn_m": "kN/m",
    "_mn_m2": "MN/m²",
    "_mn_m3": "MN/m³",
    "_n_m": "N·m",
    "_n_m_kpa": "N·m/kPa",
    "_n_m_div": "N·m/div",
    "_mpa": "MPa",
    "_per_cm": "1/cm",
    "_ph": "pH",
    "_degrees": "°",
    "_h": "h",
    "_min": "min",
    "_s": "s",
    "_sg": "",
    "_ratio": "",
    "_index": "",
    "_count": "",
    "_at": "",
    "_as_read": "",
    "_on": "",
    "blows": "drops",
}
MOST_COUNTED = 2**53  # a scanned code in a count is kept and stopped; beyond, a float holds no whole number
UNITLESS_ENDINGS = ("_ratio", "_index", "activity", "_count")

_PLAIN = re.compile(r"-?[0-9]{1,15}(?:\.[0-9]{1,15})?")
_NUMBER = re.compile(r"[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d{1,3})?|nan", re.IGNORECASE)


def unit_of(field: str) -> str:
    """The unit that a field's name ends in.

    >>> unit_of("mass_wet_g"), unit_of("verification_blows"), unit_of("tin")
    ('g', 'drops', '')
    >>> unit_of("rate_mm_h"), unit_of("stress_kpa"), unit_of("torque_n_m"), unit_of("plane_degrees")
    ('mm/h', 'kPa', 'N·m', '°')
    """
    return UNITS.get(ending_of(field), "")


@cache
def ending_of(field: str) -> str:
    """The longest ending in the table of units that a field's name has, or an empty text."""
    return max((ending for ending in UNITS if field.endswith(ending)), key=len, default="")


def number(typed: Any) -> float:
    """The number a person or an instrument gave; `.` and `,` are both decimal signs.

    Raises ValueError with a sentence for the person. NaN passes: some instruments send it, and it is a
    reading that earns a stop verdict, not one to lose.

    >>> number("31,44"), number(" 31.44 ")
    (31.44, 31.44)
    """
    if type(typed) is str and _PLAIN.fullmatch(typed):
        return float(typed)  # nearly every cell of a logger's thousands: nothing in it needs a second look
    if isinstance(typed, bool) or not isinstance(typed, int | float | str):
        raise ValueError("a number is wanted")
    if isinstance(typed, str):
        text = typed.strip().replace("−", "-").replace("\u00a0", "").replace(" ", "")
        if "," in text and "." in text:
            raise ValueError(f"{typed.strip()!r} has two decimal signs; leave thousands unseparated")
        text = text.replace(",", ".")
        if not _NUMBER.fullmatch(text) or len(text) > 40:
            raise ValueError(f"{typed.strip()[:40]!r} is not a number")
        typed = text
    try:
        value = float(typed)
    except OverflowError:
        value = math.inf
    if math.isinf(value):
        raise ValueError("is beyond any reading")
    return value


def count(typed: Any) -> int:
    """A whole number of things counted.

    Raises: ValueError with a sentence for the person.

    >>> count("27")
    27
    """
    value = number(typed)
    if not math.isfinite(value) or value != int(value):
        raise ValueError(f"{str(typed)[:40]!r} is not a whole number")
    if abs(value) > MOST_COUNTED:
        raise ValueError(f"{str(typed)[:40]} is beyond anything that is counted")
    return int(value)


def moment(typed: Any) -> datetime:
    """A point in time with its zone; a text without a zone is taken as UTC.

    Raises: ValueError with a sentence for the person.
    """
    if isinstance(typed, str):
        try:
            typed = datetime.fromisoformat(typed.strip())
        except ValueError:
            raise ValueError(f"{typed.strip()[:40]!r} is not a time such as 2026-05-12T10:21") from None
    if not isinstance(typed, datetime):
        raise ValueError("a time such as 2026-05-12T10:21 is wanted")
    return typed if typed.tzinfo else typed.replace(tzinfo=UTC)


FIRST_YEAR, LAST_YEAR = 1950, 2199  # before: no clock of ours was set; after: nobody will read it
MOST_PLAIN = 1e9


def near_moment(typed: Any) -> datetime:
    """A moment of these years; raises ValueError at the ends of the calendar, where a zone would leave it."""
    at = moment(typed)
    if not FIRST_YEAR <= at.year <= LAST_YEAR:
        raise ValueError(f"lies outside the years {FIRST_YEAR} to {LAST_YEAR}")
    return at


def plain_number(typed: Any) -> float:
    """A number that is one, of a size that a drawing can hold: for what is no reading of a run.

    Raises: ValueError with a sentence for the person.
    """
    value = number(typed)
    if not abs(value) <= MOST_PLAIN:
        raise ValueError("is no number that can be")
    return value


Number = Annotated[float, BeforeValidator(number)]
PlainNumber = Annotated[float, BeforeValidator(plain_number)]
NearMoment = Annotated[datetime, BeforeValidator(near_moment)]
Count = Annotated[int, BeforeValidator(count)]
Moment = Annotated[datetime, BeforeValidator(moment)]
Day = date


def reading(
    title: str,
    *,
    low: float = 0.0,
    high: float = math.inf,
    above: float | None = None,
    affects: tuple[str, ...] = (),
    **extra: Any,
) -> Any:
    """A field for one number, with what it may be: from `low` to `high`, or truly `above` a figure.

    A reading outside earns a *stop* that touches the values in `affects` (all of them where none is named). `extra`
    goes with the field: `moment_of`, `step`.
    """
    bounds: dict[str, Any] = {"may_be": (low if above is None else above, high, above is not None), "affects": affects}
    return Field(None, title=title, json_schema_extra=bounds | extra)


class RecordPart(BaseModel):
    """Base of records and of their rows: frozen, closed, every field optional while the run is open."""

    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True)

    # Fields that former versions read, each with its name of today; empty where nothing takes its place: the reading
    # stays on its tape. A field is never taken away without its line here.
    RETIRED: ClassVar[Mapping[str, str]] = {}


Kind = Literal["number", "count", "text", "choice", "moment", "day"]


def kind_of(field: FieldInfo) -> tuple[Kind, tuple[str, ...]]:
    """What a field holds, and its words where it is a choice: a value is shown by this, never by its looks."""
    # A union of an annotated kind and None: look through both to the bare kinds.
    kinds: list[Any] = [field.annotation, *get_args(field.annotation)]
    kinds += [inner for kind in kinds if get_origin(kind) is Annotated for inner in get_args(kind)[:1]]
    for kind in kinds:
        options = get_args(kind)
        if options and all(isinstance(o, str) for o in options):
            return "choice", options
    names = {getattr(kind, "__name__", "") for kind in kinds}
    if "datetime" in names:
        return "moment", ()
    if "date" in names:
        return "day", ()
    if "int" in names:
        return "count", ()
    return ("number" if "float" in names else "text"), ()


def known(reading: float | int | None) -> TypeGuard[float]:
    """Whether a reading is there and is a finite number."""
    return reading is not None and math.isfinite(reading)


def all_known(*readings: float | int | None) -> bool:
    """Whether all readings are there and finite."""
    return all(known(r) for r in readings)
