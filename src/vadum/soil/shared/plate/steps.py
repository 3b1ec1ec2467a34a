"""Load steps as they were read: part of the test, stress, settlement, rate, tilt; which one is in hand and whether it
has come to rest; the readings that are called while it is held."""

import math
from collections.abc import Sequence
from typing import NamedTuple

from vadum.soil.contract import paths
from vadum.soil.contract.called import Called, Hold, Taken, at_pace
from vadum.soil.contract.compare import at_least, at_most
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.times import minutes_between
from vadum.soil.shared.plate import load as loads
from vadum.soil.shared.plate import rest
from vadum.soil.shared.plate.record import GAUGES, LETTERS, Cycle, GaugeReading, PlateRecord, Step
from vadum.soil.shared.plate.school import PlateSchool

LESS = 0.95  # a load below so much of the one before was taken off on purpose
MORE = 1.02
IS_PRELOAD = 2.0  # a first load up to so much of the school's preload is the preload
HELD = 0.97  # of the hold: a reading that was taken then ends it
WINDOW_S = (10, 60)  # how far a reading may lie from its call: in the first quarter of an hour, and later


class Target(NamedTuple):
    """A step as it is planned: the part of the test, and its stress in kPa."""

    cycle: Cycle
    kpa: float


class Settlement(NamedTuple):
    """A reading while a load is held: its row, minutes since the load was on, each gauge's settlement and the mean of
    those that were read, mm (None while none was)."""

    row: int
    minutes: float | None
    gauges: tuple[float | None, ...]
    mean_mm: float | None

    @property
    def spread_mm(self) -> float | None:
        """The greatest less the least gauge, mm; None below two."""
        read = [g for g in self.gauges if g is not None]
        return max(read) - min(read) if len(read) > 1 else None


class Loaded(NamedTuple):
    """A load step: load in kN and stress in kPa (None while not read), settlement at its end in mm, its rate in mm/min,
    how long it was held in min, how far its load fell in percent with whether that was topped up, and whether it was
    left for the next."""

    row: int
    step: Step
    cycle: Cycle
    load_kn: float | None
    kpa: float | None
    readings: tuple[Settlement, ...]
    settlement_mm: float | None
    rate_mm_min: float | None
    held_min: float | None
    fell: tuple[float, bool] | None
    left: bool

    @property
    def last(self) -> Settlement | None:
        """Its newest reading with a settlement."""
        return next((r for r in reversed(self.readings) if r.mean_mm is not None), None)

    @property
    def counts(self) -> bool:
        """Whether a picture and a fit may take it."""
        return self.kpa is not None and self.settlement_mm is not None and not self.step.excluded_because

    @property
    def timed(self) -> tuple[list[float], list[float]]:
        """Minutes and mean settlements of its readings that have both."""
        read = [(r.minutes, r.mean_mm) for r in self.readings if r.minutes is not None and r.mean_mm is not None]
        return [t for t, _ in read], [s for _, s in read]

    def path(self, field: str) -> str:
        """The path of a field of this step."""
        return paths.at("steps", self.row, field)


class Rest(NamedTuple):
    """Whether the step in hand may be left: `words` say why or what it waits for; `in_min` about how long yet."""

    at_rest: bool
    words: str
    in_min: float | None


def gauges_in_use(record: PlateRecord) -> int:
    """How many gauges are read: as said, else as many as were ever read; one at least."""
    if known(record.gauges_count):
        return max(1, min(len(GAUGES), int(record.gauges_count)))
    steps: Sequence[Step] = getattr(record, "steps", ())
    used = [i for s in steps for r in s.readings for i, g in enumerate(GAUGES) if getattr(r, g) is not None]
    return max(used, default=0) + 1


def gauge_places(many: int, circle_mm: float) -> list[tuple[float, float]]:
    """Where gauges stand that are spaced evenly on a circle, the first away from the reader: x, y in mm.

    >>> [(round(x), round(y)) for x, y in gauge_places(3, 260)]
    [(0, 130), (113, -65), (-113, -65)]
    """
    r = circle_mm / 2
    angles = [math.pi / 2 - 2 * math.pi * i / many for i in range(many)]
    return [(r * math.cos(a), r * math.sin(a)) for a in angles]


def tilt_mm_m(gauges: Sequence[float | None], circle_mm: float) -> tuple[float, float] | None:
    """The slope of the plane through the gauges: mm/m towards x and towards y; None below two gauges.

    Parameters: settlements in mm of gauges spaced evenly on a circle of `circle_mm` across.
    Source: least squares; two gauges give the slope along their line.

    >>> [round(abs(t), 3) for t in tilt_mm_m([33.35, 33.0, 33.0], 260)]
    [0.0, 1.795]
    """
    many = len(gauges)
    if many < 2 or not circle_mm > 0 or any(g is None for g in gauges):
        return None
    places = gauge_places(many, circle_mm)
    read = [float(g) for g in gauges if g is not None]
    mean = math.fsum(read) / many
    # Evenly spaced places have no mean and no mixed moment: each slope by itself.
    slopes = []
    for axis in (0, 1):
        spread = math.fsum(p[axis] ** 2 for p in places)
        moment = math.fsum(p[axis] * (g - mean) for p, g in zip(places, read, strict=True))
        slopes.append(1000 * moment / spread if spread > 1e-6 else 0.0)
    return slopes[0], slopes[1]


def _cycles(kpa: Sequence[float | None], steps: Sequence[Step], preload_kpa: float) -> list[Cycle]:
    """The part of the test each step belongs to: as said, else by its load and those before."""
    found: list[Cycle] = []
    before = top = 0.0
    now: Cycle = "first"
    for i, (stress, step) in enumerate(zip(kpa, steps, strict=True)):
        if step.cycle is not None:
            now = step.cycle
        elif stress is None:
            now = "preload" if i == 0 else now
        elif i == 0 and stress <= IS_PRELOAD * preload_kpa:
            now = "preload"
        elif now == "preload":
            now = "first"
        elif now == "first" and stress < LESS * top:
            now = "down"
        elif now == "down" and stress > MORE * before:
            now = "again"
        found.append(now)
        if stress is not None:
            before = stress
            top = max(top, stress)
    return found


def _read(step: Step, zero: tuple[float, ...], lever: float, many: int) -> tuple[Settlement, ...]:
    found = []
    for i, row in enumerate(step.readings):
        if row.excluded_because or row.missed:
            continue
        values = [getattr(row, name) for name in GAUGES[:many]]
        gauges = tuple((v - z) * lever if known(v) else None for v, z in zip(values, zero, strict=True))
        read = [g for g in gauges if g is not None]
        minutes: float | None = row.elapsed_min if known(row.elapsed_min) else None
        if minutes is None and row.read_at is not None and step.loaded_at is not None:
            minutes = minutes_between(step.loaded_at, row.read_at)
        found.append(Settlement(i, minutes, gauges, math.fsum(read) / len(read) if read else None))
    # In the order of their time: what a device held back without a network arrives behind what was read later.
    timed = all(r.minutes is not None for r in found)
    return tuple(sorted(found, key=lambda r: r.minutes or 0.0)) if timed else tuple(found)


def _zero(record: PlateRecord, steps: Sequence[Step], cycles: Sequence[Cycle], many: int) -> tuple[float, ...]:
    """What each gauge showed when settlement begins: its last reading under the preload, where it was left to stand."""
    nothing = (0.0,) * many
    if record.zeroed != "read as they stand":
        return nothing
    preloads = [s for s, c in zip(steps, cycles, strict=True) if c == "preload"]
    rows: list[GaugeReading] = [r for s in preloads for r in s.readings if not r.excluded_because and not r.missed]
    if not rows:
        return nothing
    values = [getattr(rows[-1], name) for name in GAUGES[:many]]
    return tuple(float(v) if known(v) else 0.0 for v in values)


def loaded(
    record: PlateRecord,
    steps: Sequence[Step],
    school: PlateSchool,
    plate_mm2: float,
    preload_kpa: float,
    lever: float = 1.0,
) -> tuple[Loaded, ...]:
    """The load steps of a record as they were read.

    Parameters: `plate_mm2` the plate's area in mm²; `preload_kpa` the school's; `lever` what a gauge's travel is
        multiplied by to be the plate's.
    """
    many = gauges_in_use(record)
    forces = [loads.load_of(s, record) for s in steps]
    kpa = [None if f is None else loads.stress_kpa(f, plate_mm2) for f in forces]
    cycles = _cycles(kpa, steps, preload_kpa)
    zero = _zero(record, steps, cycles, many)
    found = []
    for i, step in enumerate(steps):
        read = _read(step, zero, lever, many)
        left = i + 1 < len(steps)
        last = next((r for r in reversed(read) if r.mean_mm is not None), None)
        settled = step.settlement_mm if known(step.settlement_mm) else (last.mean_mm if last else None)
        if cycles[i] == "preload" and not known(step.settlement_mm) and (read or record.zeroed is not None):
            settled = 0.0
        one = Loaded(
            i, step, cycles[i], forces[i], kpa[i], read, settled, None, None, loads.fell_percent(step, record), left
        )
        minutes, mm = one.timed
        held: float | None = step.held_min if known(step.held_min) else None
        if held is None and left and step.loaded_at is not None and minutes and steps[i + 1].loaded_at is not None:
            held = max(minutes[-1], 0.0)
        if held is None and minutes:
            held = minutes[-1]
        found.append(one._replace(rate_mm_min=rest.rate_mm_min(minutes, mm, school.rest_over_min), held_min=held))
    return tuple(found)


def hold_of_min(cycle: Cycle, school: PlateSchool) -> float:
    """How long a step of a part of the test is held at the least, min: the preload by its own time; where rest is asked
    for, what comes back on unloading for a reading."""
    if cycle == "preload":
        return school.preload_hold_s / 60
    if cycle == "down" and school.rest_by != "time":
        return min(school.hold_min, school.rest_over_min)
    return school.hold_min


def hold_min(one: Loaded, school: PlateSchool) -> float:
    """How long a step is held at the least, min."""
    return hold_of_min(one.cycle, school)


def held_by_time(cycle: Cycle, school: PlateSchool) -> bool:
    """Whether a step of a part of the test is over with its time alone, whatever its rate."""
    return cycle in ("preload", "down") or school.rest_by == "time"


MOST_TIMES = 60  # readings of one step whose times a page knows beforehand


def times_of(cycle: Cycle, school: PlateSchool) -> tuple[float, ...]:
    """When the gauges are read under a step that is still to come, min: far enough for a page without a network."""
    if cycle == "preload":
        return (school.preload_hold_s / 60,)
    times = [t for t in school.read_min if school.rest_by != "time" or at_most(t, school.hold_min)]
    if school.rest_by == "time":
        return tuple(times) if times and at_least(times[-1], school.hold_min) else (*times, school.hold_min)
    return at_pace(times, school.then_every_min, (times[-1] if times else 0) + MOST_TIMES * school.then_every_min)


def rest_of(one: Loaded, school: PlateSchool) -> Rest:
    """Whether a step has been held as its school asks, by what was read."""
    least, held = hold_min(one, school), one.held_min
    if held is None:
        typed = known(one.step.settlement_mm)
        return Rest(typed, "its settlement is typed" if typed else "no reading yet", None)
    over_time = at_least(held, HELD * least)
    if one.cycle in ("preload", "down") or school.rest_by == "time":
        return Rest(over_time, f"held {least:g} min" if over_time else f"held to {least:g} min", max(0.0, least - held))
    minutes, mm = one.timed
    if school.most_hold_min is not None and at_least(held, school.most_hold_min):
        return Rest(True, f"held {school.most_hold_min / 60:g} h", 0.0)
    if school.rest_by == "time curve" and school.rest_share_percent is not None:
        start = mm[0] if mm else 0.0
        probable = rest.probable_mm([t - minutes[0] for t in minutes], [s - start for s in mm]) if mm else None
        share = None if probable is None else 100 * (mm[-1] - start) / probable
        if share is not None and at_least(share, school.rest_share_percent) and over_time:
            return Rest(True, f"{share:.0f} % of what the time curve says", 0.0)
        words = "no time curve yet" if share is None else f"{share:.0f} % of what the time curve says"
        return Rest(False, words, None)
    limit, rate = school.rest_mm_min, one.rate_mm_min
    if limit is None or rate is None:
        return Rest(False, "no rate yet", None)
    if at_most(rate, limit) and over_time:
        return Rest(True, "at rest", 0.0)
    return Rest(False, "still moving", rest.rests_in_min(minutes, mm, limit, held))


def hand_of(steps: Sequence[Loaded]) -> Loaded | None:
    """The step that is held now: the last one with a load."""
    return next((one for one in reversed(steps) if one.kpa is not None), None)


def ladder(
    steps: Sequence[Loaded],
    plan: Sequence[Target],
    record: PlateRecord,
    school: PlateSchool,
    over: bool,
    per_unit: float,
    unit: str,
) -> Called:
    """The load steps as something that the load calls; stresses in `unit`, `per_unit` kPa each."""
    taken = tuple(
        Taken(
            one.row,
            None if one.kpa is None else one.kpa / per_unit,
            one.step.loaded_at,
            shows="" if one.settlement_mm is None else f"{one.settlement_mm:.2f} mm",
        )
        for one in steps
    )
    ahead = tuple(t.kpa / per_unit for t in plan)
    stood = tuple((one.kpa or 0.0) / per_unit for one in steps)
    return Called(
        key="steps",
        words="the load",
        by="load",
        unit=unit,
        at=(*stood, *ahead),
        reads=("pump_bar",) if loads.reads_pump(record) else ("force_kn",),
        hold=Hold(school.hold_min, school.rest_mm_min, school.rest_over_min),
        over=over,
        taken=taken,
        rows=len(steps),
        shows="settled",
        channels={"pressure": "pump_bar"} if loads.reads_pump(record) else {"load": "force_kn"},
        gauge="pump" if loads.reads_pump(record) else "load cell",
    )


def read_times(one: Loaded, school: PlateSchool) -> tuple[float, ...]:
    """When the gauges are read while a step is held, min: the school's times, and on at its pace past the last."""
    if one.cycle == "preload":
        return (school.preload_hold_s / 60,)
    times = [t for t in school.read_min if school.rest_by != "time" or at_most(t, school.hold_min)]
    if school.rest_by == "time" and not (times and at_least(times[-1], school.hold_min)):
        times.append(school.hold_min)
    last = max((r.minutes for r in one.readings if r.minutes is not None), default=0.0)
    if school.rest_by == "time":
        return tuple(times)
    return at_pace(times, school.then_every_min, last + 1.001 * school.then_every_min)


def holding(
    one: Loaded | None, record: PlateRecord, school: PlateSchool, over: bool, per_unit: float, unit: str
) -> Called | None:
    """The gauge readings of the step that is held, by the clock; None while none is. Stresses in `unit`, `per_unit` kPa
    each."""
    if one is None:
        return None
    many = gauges_in_use(record)
    read = {r.row: r for r in one.readings}
    taken = []
    for i, row in enumerate(one.step.readings):
        its = read.get(i)
        shows = "" if its is None or its.mean_mm is None else f"{its.mean_mm:.2f} mm"
        moment = row.read_at if its else None
        taken.append(Taken(i, its.minutes if its else None, moment, row.missed is not None, shows))
    times = read_times(one, school)
    return Called(
        key=one.path("readings"),
        words=f"the gauges under {plain(one.kpa / per_unit, 3)} {unit}" if one.kpa is not None else "the gauges",
        by="clock",
        unit="min",
        at=times,
        reads=GAUGES[:many],
        window_s=tuple(WINDOW_S[0] if t <= 15 else WINDOW_S[1] for t in times),
        began_at=one.step.loaded_at,
        after_s=15,
        over=over or one.left or rest_of(one, school).at_rest,
        taken=tuple(taken),
        rows=len(one.step.readings),
        channels={f"gauge_{LETTERS[i].lower()}": GAUGES[i] for i in range(many)},
        time_field="elapsed_min",
        missed_field="missed",
        note_field="noted",
        notes=("datum knocked", "gauge moved", "reaction moved", "stone cracked"),
        begin_field=one.path("loaded_at"),
        name="plate",
        gauge="the gauges",
        begins="load on",
        shows="mean, mm",
    )
