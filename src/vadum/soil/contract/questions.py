"""Questions at the moment of typing: what a figure should be by its target, its twins, the reading before it, the range
of its instrument, and what such readings usually are. A figure outside is asked about once, before it is kept."""

import math
import re
from collections.abc import Iterable, Iterator
from datetime import datetime
from itertools import pairwise
from statistics import median
from typing import Any, NamedTuple

from vadum.soil.contract import paths
from vadum.soil.contract.fields import RecordPart, kind_of, known, number, unit_of
from vadum.soil.contract.method import Method
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Advice, Outcome
from vadum.soil.contract.school import School
from vadum.soil.contract.times import clock, span
from vadum.soil.contract.usual import usual_of, usual_result

TWIN_FACTOR = 1.5  # twins of one specimen differ by far less; a lost digit or a factor of ten by more
TARGET_FACTOR = 1.6
STEPS_AT_ONCE = 8  # a series does not move on by so many of its greatest steps in one
SERIES_FACTOR = 2.5
LEAST_ROWS = 3
EARLY_SHARE = 0.02  # of a wait: what ends sooner is asked about once
LEAST_EARLY_S = 30

# Fields of one specimen that measure the same: `height_1_mm`, `height_2_mm`; `diameter_top_mm`, `diameter_middle_mm`.
_TWIN = re.compile(r"^(?P<stem>\w+?)_(?:\d|top|middle|bottom)(?P<unit>_[a-z0-9]+)$|^(?:second|third)_(?P<other>\w+)$")
# What an instrument shows, and the field of the record that holds the most it can show.
_MOST_OF = {
    "ring_div": ("ring_most_div", "the proving ring"),
    "pump_bar": ("jack_most_bar", "the jack"),
    "force_n": ("load_cell_most_n", "the load cell"),
    "penetration_mm": ("gauge_travel_mm", "the gauge"),
}


class Expected(NamedTuple):
    """Between what a figure is expected, and what is asked where it lies outside; `{}` stands for what was typed."""

    low: float
    high: float
    words: str


def _words(value: float, unit: str) -> str:
    return f"{plain(value, 5)} {unit}".strip()


def expected(method: Method, facts: Any, school: School, record: RecordPart, path: str) -> tuple[Expected, ...]:
    """What speaks against a figure at that place, the strongest first; the record is what was read before it."""
    field = paths.field_of(method.Record, path)
    if field is None or kind_of(field)[0] not in ("number", "count"):
        return ()  # moments, choices and notes are no figures
    name = paths.field_name(path)
    unit = unit_of(name)
    found = [
        *_target(method, facts, school, path, unit),
        *_twins(record, path, unit),
        *_series(method, facts, school, record, path, unit),
        *_range(record, name, unit),
    ]
    usual = usual_of(name)
    if usual is not None:
        between = f"{plain(usual.low, 5)} to {_words(usual.high, unit)}"
        found.append(Expected(usual.low, usual.high, f"{{}}? Such readings usually lie between {between}."))
    return tuple(found)


def _around(value: float, factor: float, words: str) -> Expected:
    low, high = sorted((value / factor, value * factor))
    return Expected(low, high, words)


def _target(method: Method, facts: Any, school: School, path: str, unit: str) -> Iterator[Expected]:
    wanted = method.targets(facts, school).get(path)
    if known(wanted) and wanted:
        yield _around(wanted, TARGET_FACTOR, f"{{}}? {_words(wanted, unit)} was the target.")


_AMOUNT = re.compile(r"^(\d+(?:\.\d+)?)(?:–(\d+(?:\.\d+)?))?\s*(\S.*)$")
# Amounts that are what the reading should be: water to add, the mass of a dish or a hanger, a seating force. A pressure
# may be that of the reading after the next; a single rate is the most that is permitted, a slower one is no slip.
_UNITS_OF_AMOUNTS = ("mL", "g", "kg", "N")


def expected_by_advice(advice: Advice) -> dict[str, Expected]:
    """What the amount that an advice names asks of the reading that it wants first: water to add, a rate, a load."""
    match = _AMOUNT.match(advice.amount.replace("\u00a0", " "))
    if match is None or not advice.wants:
        return {}
    path = advice.wants[0]
    unit = unit_of(paths.field_name(path))
    low, high = float(match[1]), float(match[2] or match[1])
    meant = unit in _UNITS_OF_AMOUNTS or (unit == "mm/min" and match[2])
    if unit != match[3] or not meant or not 0 < low <= high:
        return {}
    return {path: Expected(low / TARGET_FACTOR, high * TARGET_FACTOR, f"{{}}? {advice.amount} was the target.")}


def _stem(name: str) -> str:
    match = _TWIN.match(name)
    if not match:
        return name
    return match["other"] or f"{match['stem']}{match['unit']}"


def _twins(record: RecordPart, path: str, unit: str) -> Iterator[Expected]:
    name, row = paths.field_name(path), paths.parse(path).parent
    part = paths.reading_at(record, row) if row else record
    stem = _stem(name)
    if not isinstance(part, RecordPart):
        return
    others = [
        value
        for other in type(part).model_fields
        if other != name and _stem(other) == stem and known(value := getattr(part, other)) and value > 0
    ]
    if others and (stem != name or len(others) > 1):
        shown = ", ".join(plain(v, 5) for v in others)
        yield _around(median(others), TWIN_FACTOR, f"{{}}? Its companion readings are {shown} {unit}.")


def _series(method: Method, facts: Any, school: School, record: RecordPart, path: str, unit: str) -> Iterator[Expected]:
    place = paths.parse(path)
    if not place.rows:
        return
    key, row = place.rows[-1]
    if not any(c.key == key and place.name in c.reads for c in method.called(facts, school)):
        return
    rows = (paths.reading_at(record, key) or ())[:row]
    read = [value for one in rows if known(value := getattr(one, place.name, None))]
    if len(read) < LEAST_ROWS:
        return
    last, step = read[-1], max(abs(b - a) for a, b in pairwise(read))
    reach = STEPS_AT_ONCE * step
    low = min(last - reach, last / SERIES_FACTOR if last > 0 else last * SERIES_FACTOR)
    high = max(last + reach, last * SERIES_FACTOR if last > 0 else last / SERIES_FACTOR)
    if step > 0 and last:
        yield Expected(low, high, f"{{}}? The reading before was {_words(last, unit)}.")


def _range(record: RecordPart, name: str, unit: str) -> Iterator[Expected]:
    field, instrument = _MOST_OF.get(name, ("", ""))
    most = getattr(record, field, None) if field else None
    if known(most) and most > 0:
        yield Expected(-math.inf, most, f"{{}}? {instrument.capitalize()} reads to {_words(most, unit)}.")


def asked(expected: Iterable[Expected], path: str, typed: Any) -> str:
    """The question that a typed figure raises; empty where nothing speaks against it, or it is no figure."""
    try:
        value = number(typed)
    except ValueError:
        return ""
    if math.isnan(value):
        return ""
    found = next((e for e in expected if not e.low <= value <= e.high), None)
    return found.words.replace("{}", f"{str(typed).strip()} {unit_of(paths.field_name(path))}".strip()) if found else ""


def too_early(advice: Advice, path: str, at: datetime) -> str:
    """The question that an event or a weighing raises when it comes before the wait ahead of it is over; else empty.

    `advice` is that of the moment `at`, before the reading. What a clock calls has a window of its own.
    """
    for due in advice.due:
        if due.at is None or due.since is None or due.by == "clock":
            continue
        alike = paths.pattern_of(path) == paths.pattern_of(due.path) and path in advice.wants
        early_s = (due.at - at).total_seconds()
        wait_s = (due.at - due.since).total_seconds()
        if (path == due.path or alike) and early_s > max(due.window_s or 0, LEAST_EARLY_S, EARLY_SHARE * wait_s):
            return f"Too early by {span(early_s / 60)}: due {clock(due.at, at)}"
    return ""


def asked_of_results(before: Outcome, after: Outcome) -> str:
    """The question that a reading raises by what follows from it: a result that no soil has, not there before."""
    stood = {v.key: v.value for v in before.values}
    for value in after.values:
        usual = usual_result(value.key)
        if usual is None or value.value is None or value.withheld or value.value == stood.get(value.key):
            continue
        if not usual.low <= value.value <= usual.high:
            return f"{value.name} would be {_words(value.value, value.unit)}: check this reading and those it rests on"
    return ""
