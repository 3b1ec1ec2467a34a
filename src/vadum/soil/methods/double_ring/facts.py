"""What a double ring comes to, worked out once: areas, the velocity of each interval in both rings, steadiness."""

import math
from typing import NamedTuple

from vadum.soil.contract.called import Called, Taken, at_pace
from vadum.soil.contract.fields import all_known, known
from vadum.soil.contract.times import minutes_between
from vadum.soil.methods.double_ring.record import Interval, Record
from vadum.soil.methods.double_ring.school import RingSchool
from vadum.soil.shared.steady import Steady, is_steady, last_of

MOST_AHEAD = 1


class Rate(NamedTuple):
    """An interval: its row, its end and length in min, water in cm³, the velocity of each ring in mm/h."""

    row: int
    minutes: float
    lasted_min: float
    inner_cm3: float
    inner_mm_h: float
    annulus_mm_h: float | None

    @property
    def ratio(self) -> float | None:
        """The annulus' velocity over the inner ring's."""
        return None if self.annulus_mm_h is None or self.inner_mm_h <= 0 else self.annulus_mm_h / self.inner_mm_h


class Areas(NamedTuple):
    """What each ring wets, cm²; the annulus between the outer's inside and the inner's outside, None where unknown."""

    inner_cm2: float
    annulus_cm2: float | None


class Facts(NamedTuple):
    """A double ring as it stands; `over`: it was ended. `lasted_min` up to the last reading."""

    record: Record
    areas: Areas | None
    rates: tuple[Rate, ...]
    steady: Steady | None
    is_steady: bool
    lasted_min: float
    over: bool
    called: Called

    @property
    def steady_rates(self) -> tuple[Rate, ...]:
        """The intervals that the steadiness is told from."""
        return self.rates[-self.steady.many :] if self.steady is not None else ()


def areas_of(record: Record) -> Areas | None:
    """The areas that the rings wet.

    Source: `A_A` between the inside of the outer ring and the outside of the inner one.
    """
    inner = record.inner_diameter_mm
    if not known(inner) or inner <= 0:
        return None
    annulus = None
    outside, outer = record.inner_outside_diameter_mm, record.outer_diameter_mm
    if all_known(outside, outer) and outside is not None and outer is not None and outer > outside > 0:
        annulus = math.pi / 4 * (outer**2 - outside**2) / 100
    return Areas(math.pi / 4 * inner**2 / 100, annulus)


def minutes_of(row: Interval, record: Record) -> float | None:
    """Minutes from the start to a reading."""
    if known(row.elapsed_min):
        return float(row.elapsed_min)
    if row.read_at is not None and record.started_at is not None:
        return minutes_between(record.started_at, row.read_at)
    return None


def _by_bottle(now: float | None, before: float | None, area_cm2: float | None) -> float | None:
    if not known(now) or not known(before) or not known(area_cm2):
        return None
    return abs(now - before) / 10 * area_cm2


def rates_of(record: Record, areas: Areas) -> tuple[Rate, ...]:
    """The velocity of each interval, by its own length.

    The water of an interval that was left out belongs to no other; a bottle's fall counts from its level before."""
    found = []
    before = 0.0
    inner_before = annulus_before = None
    for i, row in enumerate(record.readings):
        at = minutes_of(row, record)
        if at is None:
            continue
        if row.excluded_because:
            before = at
            inner_before = annulus_before = None
            continue
        inner = row.inner_ml
        if not known(inner):
            inner = _by_bottle(row.inner_bottle_mm, inner_before, record.inner_bottle_area_cm2)
        annulus = row.annulus_ml
        if not known(annulus):
            annulus = _by_bottle(row.annulus_bottle_mm, annulus_before, record.annulus_bottle_area_cm2)
        lasted = at - before
        inner_before, annulus_before = row.inner_bottle_mm, row.annulus_bottle_mm
        if lasted > 0 and inner is not None and known(inner):
            v = 600 * inner / (areas.inner_cm2 * lasted)
            a = None
            if annulus is not None and known(annulus) and areas.annulus_cm2:
                a = 600 * annulus / (areas.annulus_cm2 * lasted)
            found.append(Rate(i, at, lasted, inner, v, a))
        before = at
    return tuple(found)


def facts(record: Record, school: RingSchool) -> Facts:
    """The facts of a record under a school."""
    areas = areas_of(record)
    rates = rates_of(record, areas) if areas is not None else ()
    steady = last_of([r.inner_mm_h for r in rates], school.steady_many)
    kept = (row for row in record.readings if not row.excluded_because)
    lasted = max((m for row in kept if (m := minutes_of(row, record)) is not None), default=0.0)
    return Facts(
        record,
        areas,
        rates,
        steady,
        is_steady(steady, school.steady_percent),
        lasted,
        record.ended is not None,
        called_of(record, rates, school),
    )


def open_row(record: Record, fields: tuple[str, str]) -> int | None:
    """The row of a reading that was begun: one of its two volumes is still to come."""
    rows = enumerate(record.readings)
    return next((i for i, r in rows if not r.excluded_because and None in (getattr(r, f) for f in fields)), None)


def called_of(record: Record, rates: tuple[Rate, ...], school: RingSchool) -> Called:
    """Both rings by the clock, for as long as it runs."""
    by_bottle = record.water_added == "constant-level bottles"
    fields = ("inner_bottle_mm", "annulus_bottle_mm") if by_bottle else ("inner_ml", "annulus_ml")
    shown = {r.row: f"{r.inner_mm_h:.3g} mm/h" for r in rates}
    taken = tuple(
        Taken(i, minutes_of(row, record), row.read_at, shows=shown.get(i, ""))
        for i, row in enumerate(record.readings)
        if not row.excluded_because and known(getattr(row, fields[1]))
    )
    last = max((t.at or 0.0 for t in taken), default=0.0)
    every = school.then_every_min
    at = at_pace(school.calls_min, every, max(60 * school.least_h, last + MOST_AHEAD * every))
    return Called(
        key="readings",
        words="both rings",
        by="clock",
        unit="min",
        at=at,
        reads=("temperature_c", *fields),
        window_s=tuple([school.window_s] * len(at)),
        began_at=record.started_at,
        after_s=90,
        over=record.ended is not None,
        taken=taken,
        rows=len(record.readings),
        open_row=open_row(record, fields),
        channels={"level_1": "inner_bottle_mm", "level_2": "annulus_bottle_mm", "temperature": "temperature_c"},
        time_field="elapsed_min",
        begin_field="started_at",
        plan_field="planned_start_at",
        ready=known(record.inner_diameter_mm) and known(record.head_mm),
        name="rings",
        begins="fill both {} and start",
        prepares="cover the soil in {}",
        how="Both depths back to the mark first: heads apart by 5 mm spoil it.",
        begin_hands_s=300,
        drawn="rings",
        filled=1.0 if record.started_at is not None else None,
        shows="mm/h",
    )
