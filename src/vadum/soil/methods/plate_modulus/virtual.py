"""A virtual ground under a plate: a parabola on the first loading, stiffer on the second, creeping while it is held."""

import random
from datetime import UTC, datetime, timedelta
from typing import NamedTuple

from vadum.soil.contract.called import Called
from vadum.soil.contract.method import Practice, Seen, Trial
from vadum.soil.contract.outcome import Table
from vadum.soil.methods.plate_modulus.facts import KPA, Facts, by_width
from vadum.soil.methods.plate_modulus.record import ModulusStep, Record
from vadum.soil.methods.plate_modulus.school import ModulusSchool
from vadum.soil.shared.plate import load as loads
from vadum.soil.shared.plate.ground import Ground, held_readings, rest_times
from vadum.soil.shared.plate.record import Cycle
from vadum.soil.shared.plate.virtual_plate import dials_of, plate_address, waited

MISTAKES = {
    "short": "steps left before their time",
    "stone": "a stone under the plate",
    "lever": "the lever entered upside down",
    "beyond": "the second loading taken beyond the first",
    "coarse": "four steps only",
    "datum": "the datum knocked in the middle",
}
START = datetime(2026, 1, 5, 9, 0, tzinfo=UTC)
PISTON_CM2 = 20.0


def ground_of(seed: int, width_mm: float, greatest: float) -> Ground:
    """The hidden ground of a seed: Ev1 from 30 to 70 MN/m² under any plate, a ratio of about 2.2."""
    dice = random.Random(seed * 7 + 3)
    ev1 = dice.uniform(30, 70)
    slope = 1.5 * width_mm / 2 / ev1
    bends = dice.uniform(0.08, 0.3) * slope / greatest
    again = slope / dice.uniform(1.9, 2.4)
    creep = dice.uniform(0.02, 0.05) * width_mm / 300
    return Ground(slope - bends * greatest, bends, 0.55, again, creep, greatest)


def truths(ground: Ground, width_mm: float, reached: float) -> dict[str, float]:
    """The moduli that the parabola school finds on it at a greatest stress reached, MN/m²."""
    return {"ev1_mn_m2": 1.5 * width_mm / 2 / (ground.soft_mm + ground.bends_mm * reached)}


class _Planned(NamedTuple):
    """The steps of a virtual test, kPa: the first loading's and all of them with their part of the test."""

    first: list[float]
    steps: list[tuple[Cycle, float]]
    downs: list[float]


def _planned(
    ground: Ground, school: ModulusSchool, most_kpa: float, limit_mm: float, preload_kpa: float, mistake: str | None
) -> _Planned:
    kpa = list(school.steps_kpa or (share * most_kpa for share in school.step_shares))
    if mistake == "coarse":
        kpa = kpa[1::2] if len(kpa) > 4 else kpa[1:]
    first: list[float] = []
    for stress in kpa:
        first.append(stress)
        if ground.first_mm(stress / KPA) >= limit_mm:
            break
    downs = [share * first[-1] for share in school.down_shares] if school.reloads else []
    agains = list(first[:-1]) if school.again_kpa is None else [school.again_kpa]
    if mistake == "beyond":
        agains = list(first)
    steps: list[tuple[Cycle, float]] = [("preload", preload_kpa), *(("first", p) for p in first)]
    steps += [("down", p) for p in downs] + ([("again", p) for p in agains] if school.reloads else [])
    return _Planned(first, steps, downs)


def _steps(
    ground: Ground, school: ModulusSchool, planned: _Planned, area: float, mistake: str | None, dice: random.Random
) -> list[ModulusStep]:
    """Every step with its readings, one after the other."""
    steps: list[ModulusStep] = []
    now, top = START, planned.first[-1] / KPA
    for cycle, stress in planned.steps:
        now += timedelta(seconds=40)
        bar = round(loads.pump_for_bar(loads.load_for_kn(stress, area), PISTON_CM2), 1)
        real = loads.stress_kpa(loads.force_kn(bar, PISTON_CM2), area) / KPA
        creep = ground.creeps_mm(real) * {"first": 1.0, "again": 0.3}.get(cycle, 0.0)
        if cycle == "preload":
            times, at = [school.preload_hold_s / 60], 0.0
        else:
            at = _settles(ground, cycle, real, top, (planned.downs or [0.0])[-1] / KPA)
            times = [t for t in school.read_min if t <= school.hold_min]
            if school.rest_by == "rate" and school.rest_mm_min is not None:
                times = rest_times(creep, school.rest_mm_min, school.read_min, school.then_every_min)
        noted: dict[str, str] = {}
        if cycle == "first":
            times = [0.4 * times[0]] if mistake == "short" else times
            at *= 0.4 if mistake == "stone" and len(steps) < 3 else 1.0
            at -= 1.2 if mistake == "datum" and len(steps) > 3 else 0.0
            noted = {"noted": "datum knocked"} if mistake == "datum" and len(steps) == 4 else {}
        readings = held_readings(at, creep, times, 1, 0.0, dice, now)
        readings = tuple(r.model_copy(update=noted) for r in readings)
        wanted_mn_m2 = round(stress / KPA, 4)
        steps.append(
            ModulusStep(cycle=cycle, pump_bar=bar, loaded_at=now, readings=readings, wanted_mn_m2=wanted_mn_m2)
        )
        now += timedelta(minutes=times[-1])
    return steps


def virtual(seed: int, school: ModulusSchool, mistake: str | None = None) -> Trial:
    """A full record of a virtual ground, the truth of its first modulus beside it."""
    dice = random.Random(seed + 31)
    width = school.width_mm
    most_kpa, limit_mm = by_width(school.greatest_by_width, width)
    most_kpa = school.steps_kpa[-1] if school.steps_kpa else most_kpa
    (preload_kpa,) = by_width(school.preload_by_width_kpa, width)
    ground = ground_of(seed, width, most_kpa / KPA)
    area = loads.area_mm2(width, False)
    planned = _planned(ground, school, most_kpa, limit_mm, preload_kpa, mistake)
    steps = _steps(ground, school, planned, area, mistake, dice)
    top = planned.first[-1]
    lever: dict[str, float] = {}
    if mistake == "lever":
        lever = {"lever_plate_mm": 600.0, "lever_gauge_mm": 1200.0, "lever_register_ratio": 2.0}
    load = loads.load_for_kn(most_kpa, area)
    record = Record(
        place="apron, bay 4",
        layer="frost blanket",
        soil_state="as received",
        ground="gravel",
        largest_grain_mm=32.0 if mistake != "stone" else round(0.45 * width, 0),
        plate="P3",
        plate_shape="round",
        plate_width_mm=width,
        jack="J2",
        piston_cm2=PISTON_CM2,
        jack_most_bar=500.0,
        force_by="pump gauge",
        gauges_count=1,
        zeroed="set to zero",
        reaction="wheeled loader",
        reaction_kn=round(load * school.reaction_factor + school.reaction_margin_kn + 30, 1),
        supports_mm=1500.0,
        datum_legs_mm=1600.0,
        crust_removed="yes",
        levelling="dry sand",
        frozen="no",
        tilt_degrees=1.0,
        tins=_tin(dice),
        dry_density_beside_mg_m3=2.11,
        steps=tuple(steps),
        stopped="all steps",
        **lever,
    )
    if school.evaluates not in ("parabola", "secant"):
        return Trial(record, {}, {}, mistake)
    truth = truths(ground, width, top / KPA)
    return Trial(record, truth, {"ev1_mn_m2": 0.05 * truth["ev1_mn_m2"]}, mistake)


def _tin(dice: random.Random) -> tuple[dict[str, object], ...]:
    w = dice.uniform(4, 7)
    return ({"tin": "12", "mass_tin_g": 21.4, "mass_wet_g": 221.4, "mass_dry_g": round(21.4 + 200 / (1 + w / 100), 2)},)


def _settles(ground: Ground, cycle: Cycle, sigma: float, top: float, down: float) -> float:
    if cycle == "down":
        return ground.back_mm(sigma, top)
    if cycle == "again":
        return ground.again_at_mm(sigma, down, top)
    return ground.first_mm(sigma)


def address(seed: int, school: ModulusSchool, facts: Facts, called: Called, rate: float, speed: float) -> str | None:
    """The simulated jack on the hidden ground; None before it is known what is to be pumped."""
    return (
        plate_address(ground_of(seed, facts.width_mm, facts.most_kpa / KPA), facts, seed, speed)
        if facts.ladder.at
        else None
    )


def seen(seed: int, school: ModulusSchool, facts: Facts) -> tuple[Seen, ...]:
    """What only the hidden ground tells: how long was waited against what was needed."""
    ground = ground_of(seed, facts.width_mm, facts.most_kpa / KPA)
    return waited(facts, school, ground)


def truth(seed: int, school: ModulusSchool, facts: Facts) -> Table:
    """The hidden ground's own first loading."""
    ground = ground_of(seed, facts.width_mm, facts.most_kpa / KPA)
    most = facts.most_kpa / KPA
    return tuple({"stress": most * i / 12, "settlement_mm": ground.first_mm(most * i / 12)} for i in range(13))


PRACTICE = Practice(
    decides=(
        "stopped",
        "force_by",
        "zeroed",
        "levelling",
        "frozen",
        "gypsum_set",
        "steps[].pump_bar",
        "steps[].force_kn",
    ),
    address=address,
    rates=(1.0,),
    dials=lambda facts, called: dials_of(facts, called),
    seen=seen,
    truth=truth,
)
