"""A virtual ground under a plate on a foundation: stiff at first, giving way behind its knee, creeping by log time."""

import math
import random
from datetime import UTC, datetime, timedelta

from vadum.soil.contract.called import Called
from vadum.soil.contract.method import Practice, Seen, Trial
from vadum.soil.contract.outcome import Table
from vadum.soil.methods.plate_bearing.facts import Facts
from vadum.soil.methods.plate_bearing.record import BearingStep, Record
from vadum.soil.methods.plate_bearing.school import BearingSchool
from vadum.soil.shared.plate import load as loads
from vadum.soil.shared.plate.ground import Ground, held_readings, rest_times
from vadum.soil.shared.plate.record import Cycle, GaugeReading
from vadum.soil.shared.plate.virtual_plate import dials_of, plate_address, waited
from vadum.soil.shared.water_by_tin import TimedTin

MISTAKES = {
    "early": "the next step put on while the plate still moved",
    "pit": "the footing taken as wide as the pit",
    "gauge": "one gauge that runs the other way",
    "datum": "the datum knocked in the middle",
    "fallen": "a load that fell and was not topped up",
}
START = datetime(2026, 1, 5, 8, 0, tzinfo=UTC)
PISTON_CM2, KPA, GAUGES = 30.0, 1000.0, 4


def ground_of(seed: int, width_mm: float, school: BearingSchool) -> Ground:
    """The hidden ground of a seed: a knee between 220 and 340 kPa."""
    dice = random.Random(seed * 11 + 5)
    ultimate = dice.uniform(0.22, 0.34)
    soft = dice.uniform(14, 24) * width_mm / 300
    creep = dice.uniform(0.05, 0.12)
    return Ground(soft, 0.0, 0.75, 0.0, creep, 2 * ultimate, 0.02, ultimate, 14 * soft)


def _sinks(ground: Ground, cycle: Cycle, sigma: float, top: float) -> float:
    return ground.back_mm(sigma, top) if cycle == "down" else ground.first_mm(sigma)


def _times(school: BearingSchool, creep: float) -> list[float]:
    if school.rest_by == "time curve":
        return [1.0, 2.25, 4.0, 6.25, 9.0, 16.0, 25.0, 60.0, 120.0, 240.0, 480.0, 960.0, 1440.0]
    times = rest_times(creep, (school.rest_mm_min or 0.02), school.read_min, school.then_every_min)
    every, over = school.then_every_min, school.rest_over_min
    apart = min(0.9 * over, every)  # a rate over longer than the pace is read over several readings
    while times[-1] < school.hold_min or (len(times) > 1 and (times[-1] - times[-2] < apart or times[-1] < over)):
        times.append(times[-1] + every)
    return times


def virtual(seed: int, school: BearingSchool, mistake: str | None = None) -> Trial:
    """A full record of a virtual ground, the truth of its knee beside it."""
    dice = random.Random(seed + 77)
    width = school.width_mm
    ground = ground_of(seed, width, school)
    area = loads.area_mm2(width, False)
    expected = 400.0
    step = min(school.most_step_kpa, expected / school.steps_to_ultimate_ratio, 40.0)
    to = 2.0 * ground.ultimate * KPA
    many = max(10, math.ceil(to / step))
    planned: list[tuple[Cycle, float]] = [("preload", school.seating_kpa)]
    planned += [("first", to * i / many) for i in range(1, many + 1)]
    planned += [("down", share * to) for share in school.down_shares]
    steps: list[BearingStep] = []
    now = START
    for cycle, stress in planned:
        now += timedelta(seconds=50)
        bar = round(loads.pump_for_bar(loads.load_for_kn(stress, area), PISTON_CM2), 1)
        sigma = loads.stress_kpa(loads.force_kn(bar, PISTON_CM2), area) / KPA
        creep = ground.creeps_mm(sigma) if cycle == "first" else 0.0
        at = 0.0 if cycle == "preload" else _sinks(ground, cycle, sigma, to / KPA)
        times = [school.preload_hold_s / 60] if cycle == "preload" else _times(school, creep)
        if cycle == "down":
            times = times[:2] if len(times) > 1 else times
        if mistake == "early" and cycle == "first" and len(steps) == 4:
            creep, times = 0.6, times[:2]
        if mistake == "datum" and cycle == "first" and len(steps) >= 5:
            at -= 1.5
        rows = held_readings(at, creep, times, GAUGES, ground.tilts_ratio, dice, now)
        rows = _troubled(rows, mistake, len(steps))
        lowest = round(0.93 * bar, 1) if mistake == "fallen" and len(steps) == 4 else None
        steps.append(
            BearingStep(
                cycle=cycle, pump_bar=bar, loaded_at=now, readings=rows, lowest_bar=lowest, wanted_kpa=round(stress, 1)
            )
        )
        now += timedelta(minutes=times[-1])
    record = Record(
        place="pylon footing",
        layer="lake clay",
        ground="clay",
        behaves_as="clay",
        soil_state="as received",
        largest_grain_mm=2.0,
        pit_width_m=2.5,
        depth_m=1.6,
        expected_ultimate_kpa=expected,
        planned_kpa=round(to, 1),
        plate="P5",
        plate_shape="round",
        plate_width_mm=width,
        plate_thickness_mm=25.0,
        jack="J3",
        piston_cm2=PISTON_CM2,
        jack_most_bar=400.0,
        force_by="pump gauge",
        gauges_count=GAUGES,
        gauge_circle_mm=0.85 * width,
        zeroed="set to zero",
        reaction="kentledge",
        reaction_kn=round(1.3 * loads.load_for_kn(to, area) + 20, 1),
        supports_mm=2600.0,
        datum_legs_mm=2700.0,
        footing_width_m=2.5 if mistake == "pit" else 1.2,
        layer_below_m=4.0,
        water_depth_m=1.1,
        datum_before_c=11.0,
        datum_after_c=13.0,
        eccentric="no",
        tins=(TimedTin(tin="14", mass_tin_g=20.9, mass_wet_g=180.4, mass_dry_g=136.2),),
        dry_density_beside_mg_m3=1.42,
        steps=tuple(steps),
        stopped="at the planned load",
    )
    knee = ground.ultimate * KPA
    return Trial(record, {"two_lines_kpa": knee}, {"two_lines_kpa": 0.08 * knee}, mistake)


def _troubled(rows: tuple[GaugeReading, ...], mistake: str | None, step: int) -> tuple[GaugeReading, ...]:
    if mistake == "gauge":
        return tuple(r.model_copy(update={"b_mm": -abs(r.b_mm or 0.0)}) for r in rows)
    if mistake == "datum" and step == 5:
        return tuple(r.model_copy(update={"noted": "datum knocked"}) for r in rows)
    return rows


def address(seed: int, school: BearingSchool, facts: Facts, called: Called, rate: float, speed: float) -> str | None:
    """The simulated jack on the hidden ground; None before it is known what is to be pumped."""
    return plate_address(ground_of(seed, facts.width_mm, school), facts, seed, speed) if facts.ladder.at else None


def seen(seed: int, school: BearingSchool, facts: Facts) -> tuple[Seen, ...]:
    """What only the hidden ground tells: how long was waited against what was needed."""
    return waited(facts, school, ground_of(seed, facts.width_mm, school))


def truth(seed: int, school: BearingSchool, facts: Facts) -> Table:
    """The hidden ground's own curve."""
    ground = ground_of(seed, facts.width_mm, school)
    most = max([2 * ground.ultimate, *(k / KPA for k in facts.kpa)])
    return tuple({"kpa": KPA * most * i / 20, "settlement_mm": ground.first_mm(most * i / 20)} for i in range(21))


PRACTICE = Practice(
    decides=(
        "stopped",
        "force_by",
        "zeroed",
        "behaves_as",
        "ultimate_by",
        "pump_bar",
        "force_kn",
        "water_done",
        "eccentric",
    ),
    address=address,
    rates=(1.0,),
    dials=dials_of,
    seen=seen,
    truth=truth,
)
