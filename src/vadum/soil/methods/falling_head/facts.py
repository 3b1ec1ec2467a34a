"""What the cylinders come to, worked out once: water taken up, levels above the soil, conductivity by fit and slope."""

import math
from functools import lru_cache
from typing import NamedTuple

from vadum.soil.contract import paths
from vadum.soil.contract.called import Called, Taken, at_pace
from vadum.soil.contract.fields import known
from vadum.soil.contract.times import minutes_between
from vadum.soil.methods.falling_head.record import Level, Record, Standing
from vadum.soil.methods.falling_head.school import InfiltrationSchool
from vadum.soil.shared import infiltration
from vadum.soil.shared.infiltration import Cylinder, Fit, Free, Late

MOST_AHEAD = 2


class Class(NamedTuple):
    """What a texture's class stands for: C in cm with one standard deviation down and up, porosity in %, K in mm/h."""

    name: str
    suction_cm: float
    low_cm: float
    high_cm: float
    porosity_percent: float
    k_mm_h: float


class Gain(NamedTuple):
    """What the ground took up, a share of its volume, with its standard uncertainty; how much was there before."""

    value: float
    error: float
    before: float
    after: float
    after_said: bool


class Point(NamedTuple):
    """A level above the soil: the row it stands in, s since the start, cm."""

    row: int
    seconds: float
    level_cm: float


class Found(NamedTuple):
    """What a cylinder gives: the fit that is reported, the free one beside it, K by slopes; the relative error of K by
    C's spread and by the water taken up; the time the early fall should have taken over what it did."""

    fit: Fit
    free: Free | None
    late: Late
    by_suction: float
    by_gain: float
    excess: float | None

    @property
    def u_ln_k(self) -> float:
        """The relative standard uncertainty of K."""
        return math.hypot(self.fit.u_ln_k, self.by_suction, self.by_gain)


class One(NamedTuple):
    """A cylinder as it stands; `points` from its start on, what it is made of, and what it gives, None while open."""

    row: int
    standing: Standing
    name: str
    gain: Gain | None
    points: tuple[Point, ...]
    cylinder: Cylinder | None
    found: Found | None
    is_empty: bool
    over: bool
    may_stop: bool

    @property
    def counts(self) -> bool:
        """Whether it is not left out."""
        return not self.standing.excluded_because


class Facts(NamedTuple):
    """Cylinders of a place. `texture` with whether it was said, `porosity_percent` with whether it was; what is called
    of each cylinder that stands."""

    record: Record
    texture: Class
    texture_said: bool
    porosity_percent: float
    porosity_said: bool
    ones: tuple[One, ...]
    calls: tuple[Called, ...]

    @property
    def counted(self) -> tuple[One, ...]:
        """The cylinders that give a conductivity."""
        return tuple(one for one in self.ones if one.counts and one.found is not None)


def class_of(record: Record, school: InfiltrationSchool) -> Class:
    """The class of the hand's texture, or the usual one."""
    wanted = record.texture or school.usual_texture
    return next(Class(*row) for row in school.textures if row[0] == wanted)


def saturation(index: float, rounds_up: bool) -> float:
    """Saturation by the 0-10 scale of a probe.

    Parameters: the scale's reading; whether it is taken to the next ten per cent.
    Returns: % of the pores.
    Source: the probe's scale, ten per cent a mark.

    >>> saturation(3.2, True), saturation(3.2, False), saturation(4.0, True)
    (40.0, 32.0, 40.0)
    """
    return 10.0 * (math.ceil(index - 1e-9) if rounds_up else index)


def _gain(its: Standing, record: Record, porosity_percent: float, school: InfiltrationSchool) -> Gain | None:
    """Before and after as shares of the volume."""
    by_volume = record.moisture_by == "share of the volume"

    def share(index: float | None, percent: float | None) -> float | None:
        if by_volume or (record.moisture_by is None and known(percent)):
            return percent / 100 if known(percent) else None
        if not known(index):
            return percent / 100 if known(percent) else None
        return saturation(index, school.rounds_up) / 100 * porosity_percent / 100

    before = share(its.before_index, its.before_percent)
    after = share(its.after_index, its.after_percent)
    said = after is not None
    if before is None:
        return None
    if after is None:
        after = school.usual_after_percent / 100 * porosity_percent / 100
    one = school.u_probe_percent / 100 if by_volume else school.u_scale_percent / 100 * porosity_percent / 100
    if known(record.probe_error_percent):
        one = record.probe_error_percent / 100
    return Gain(after - before, one * math.sqrt(2), before, after, said)


def _seconds(row: Level, its: Standing) -> float | None:
    if known(row.elapsed_s):
        return float(row.elapsed_s)
    if row.read_at is not None and its.started_at is not None:
        return 60 * minutes_between(its.started_at, row.read_at)
    return None


def points_of(its: Standing, school: InfiltrationSchool) -> tuple[Point, ...]:
    """The levels above the soil in the order of time, from the start to where it is empty."""
    zero = its.zero_above_soil_mm if known(its.zero_above_soil_mm) else 0.0
    read = [
        Point(i, s, (row.level_mm + zero) / 10)
        for i, row in enumerate(its.readings)
        if known(row.level_mm) and not row.excluded_because and (s := _seconds(row, its)) is not None
    ]
    read.sort(key=lambda p: p.seconds)
    found = []
    for p in read:
        found.append(p)
        if 10 * p.level_cm <= school.empty_mm:
            break
    return tuple(found)


def _usable(points: tuple[Point, ...], school: InfiltrationSchool) -> tuple[Point, ...]:
    """Those that the fit takes: with water over the soil's bumps."""
    return tuple(p for p in points if 10 * p.level_cm > school.empty_mm)


@lru_cache(maxsize=256)
def found_of(
    cylinder: Cylinder, points: tuple[Point, ...], texture: Class, u_gain: float, school: InfiltrationSchool
) -> Found:
    """What the readings of a cylinder give; kept, for every page of a run asks for the same."""
    first = points[0]
    moved = cylinder._replace(start_cm=first.level_cm)
    series = infiltration.series_of([p.seconds - first.seconds for p in points], [p.level_cm for p in points])
    free = infiltration.fit_both(moved, series) if len(points) > school.least_to_fit else None
    own = free.fit if school.suction == "free" and free is not None else None
    fit = own or infiltration.fit_k(moved, series, texture.suction_cm)
    at = fit.suction_cm
    if own is not None and free is not None:
        low, high = free.k_interval
        by_suction = math.log(high / low) / (2 * 1.96)
    else:
        low_fit = infiltration.fit_k(moved, series, texture.low_cm)
        high_fit = infiltration.fit_k(moved, series, texture.high_cm)
        by_suction = abs(math.log(low_fit.k_cm_s / high_fit.k_cm_s)) / 2
    by_gain = 0.0
    if u_gain > 0:
        wetter = moved._replace(gains=max(moved.gains - u_gain, 0.2 * moved.gains))
        drier = moved._replace(gains=moved.gains + u_gain)
        pair = (infiltration.fit_k(wetter, series, at).k_cm_s, infiltration.fit_k(drier, series, at).k_cm_s)
        by_gain = abs(math.log(pair[0] / pair[1])) / 2
    late = infiltration.by_slopes(moved, series, at)
    excess = infiltration.early_excess(moved, series, school.early_share, school.early_suctions_cm)
    return Found(fit, free, late, by_suction, by_gain, excess)


def _one(row: int, its: Standing, record: Record, texture: Class, porosity: float, school: InfiltrationSchool) -> One:
    gain = _gain(its, record, porosity, school)
    points = points_of(its, school)
    usable = _usable(points, school)
    cylinder = found = None
    if known(its.cylinder_radius_mm) and known(its.insertion_mm) and usable and gain is not None and gain.value > 0:
        radius, depth = its.cylinder_radius_mm / 10, its.insertion_mm / 10
        if radius > 0 and depth > 0:
            cylinder = Cylinder(radius, depth, gain.value, usable[0].level_cm)
            falls = usable[0].level_cm - min(p.level_cm for p in usable)
            if len(usable) >= school.least_to_fit and falls > 0.1 and usable[-1].seconds > usable[0].seconds:
                found = found_of(cylinder, usable, texture, gain.error, school)
    empty = bool(points) and 10 * points[-1].level_cm <= school.empty_mm
    fallen = 10 * (points[0].level_cm - points[-1].level_cm) if points else 0.0
    passed = (points[-1].seconds - points[0].seconds) / 60 if points else 0.0
    slow = passed >= school.may_stop_min and fallen >= school.may_stop_fall_mm
    name = its.infiltrometer or f"cylinder {row + 1}"
    over = empty or its.ended is not None or bool(its.excluded_because)
    return One(row, its, name, gain, points, cylinder, found, empty, over, slow and not over)


def facts(record: Record, school: InfiltrationSchool) -> Facts:
    """The facts of a record under a school."""
    texture = class_of(record, school)
    said = known(record.porosity_percent)
    porosity = float(record.porosity_percent or 0.0) if said else texture.porosity_percent
    ones = tuple(_one(i, c, record, texture, porosity, school) for i, c in enumerate(record.cylinders))
    standing = tuple(called_of(one, school) for one in ones if one.counts)
    return Facts(record, texture, record.texture is not None, porosity, said, ones, standing)


def called_of(one: One, school: InfiltrationSchool) -> Called:
    """The readings of a cylinder by the clock, until it is empty or may stop."""
    its = one.standing
    every = school.read_every_s / 60
    taken = tuple(
        Taken(p.row, p.seconds / 60, its.readings[p.row].read_at, shows=f"{p.level_cm:.1f} cm") for p in one.points
    )
    last = max((t.at or 0.0 for t in taken), default=-every)
    full = one.points[0].level_cm if one.points else None
    filled = None if full is None or full <= 0 else max(0.0, min(1.0, one.points[-1].level_cm / full))
    return Called(
        key=paths.at("cylinders", one.row, "readings"),
        words=one.name,
        by="clock",
        unit="min",
        at=at_pace((0.0,), every, every * (round(last / every) + MOST_AHEAD)),
        reads=("level_mm",),
        began_at=its.started_at,
        after_s=10,
        over=one.over,
        taken=taken,
        rows=len(its.readings),
        channels={"level": "level_mm", f"level_{one.row + 1}": "level_mm"},
        time_field="elapsed_s",
        begin_field=paths.at("cylinders", one.row, "started_at"),
        plan_field=paths.at("cylinders", one.row, "planned_start_at"),
        ready=known(its.insertion_mm) and known(its.cylinder_radius_mm),
        name=one.name,
        begins="fill {} and start",
        prepares="stand water ready at {}",
        begin_hands_s=120,
        drawn="infiltrometer",
        filled=filled if filled is not None else (1.0 if its.started_at else None),
        shows="level",
        sampled_s=school.sensor_every_s,
    )
