"""What six bottles come to, worked out once: pH at 25 °C, the decision, how near it is to another, what is called."""

import math
from datetime import timedelta
from typing import NamedTuple

from vadum.soil.contract.called import Called, Taken
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.times import minutes_between
from vadum.soil.methods.lime_demand.decision import Decision, Flip, Limits, Point, at_25, decide, flip
from vadum.soil.methods.lime_demand.record import LIME_ONLY, Bottle, Record
from vadum.soil.methods.lime_demand.school import LimeSchool


class One(NamedTuple):
    """A bottle with what it should hold in g, its pH at 25 °C, and when it was read, min after the water; None while
    not known. `percent` is the lime it truly holds."""

    row: int
    bottle: Bottle
    words: str
    told_lime_g: float | None
    told_soil_g: float | None
    percent: float | None
    ph25: float | None
    minutes: float | None

    @property
    def is_lime_only(self) -> bool:
        """Whether it is the one that judges meter and lime."""
        return self.bottle.holds == LIME_ONLY

    @property
    def counts(self) -> bool:
        """Whether it is not left out."""
        return not self.bottle.excluded_because

    @property
    def weighed(self) -> bool:
        """Whether what goes in is weighed."""
        return self.bottle.lime_g is not None and (self.is_lime_only or self.bottle.soil_g is not None)


class Facts(NamedTuple):
    """A lime demand as it stands. `only_ph` of the lime-only bottle at 25 °C; `points` the soil's bottles by their
    lime; `all_read` whether every bottle that counts was; `only_word` how the lime-only bottle stands."""

    record: Record
    bottles: tuple[One, ...]
    only_ph: float | None
    only_word: str
    points: tuple[Point, ...]
    decision: Decision | None
    flip: Flip | None
    all_read: bool
    shaking: Called
    reading: tuple[Called, ...]

    @property
    def only(self) -> One | None:
        """The lime-only bottle."""
        return next((b for b in self.bottles if b.is_lime_only and b.counts), None)


def targets(f: Facts, s: LimeSchool) -> dict[str, float]:
    """What goes into each bottle, g, by the place where it is weighed in."""
    return {
        f"bottles[{one.row}].{field}": told
        for one in f.bottles
        for field, told in (("lime_g", one.told_lime_g), ("soil_g", one.told_soil_g))
        if told is not None
    }


def limits_of(school: LimeSchool) -> Limits:
    """What decides, by this school."""
    return Limits(school.reaches_ph, school.near_ph, school.rises_ph, school.meter_ph, school.plateau)


def _one(row: int, bottle: Bottle, record: Record, school: LimeSchool) -> One:
    lime, water = bottle.lime_percent, record.water_percent
    only = bottle.holds == LIME_ONLY
    told_lime = school.only_g if only else None if not known(lime) else school.dry_g * lime / 100
    told_soil = None if only or not known(water) else school.dry_g * (1 + water / 100)
    percent = None
    if not only and known(bottle.lime_g) and known(bottle.soil_g) and known(water) and bottle.soil_g > 0:
        percent = 100 * bottle.lime_g / (bottle.soil_g / (1 + water / 100))
    ph25 = None
    if known(bottle.read_ph):
        warm = bottle.temperature_c if known(bottle.temperature_c) else record.bath_c
        ph25 = at_25(bottle.read_ph, warm if known(warm) else school.bath_c, school.per_c_ph, school.bath_c)
    minutes = None
    if bottle.read_at is not None and record.water_in_at is not None:
        minutes = minutes_between(record.water_in_at, bottle.read_at)
    words = LIME_ONLY if only else f"{plain(lime)} %" if known(lime) else f"bottle {row + 1}"
    return One(row, bottle, words, told_lime, told_soil, percent, ph25, minutes)


def _only_word(ph: float | None, school: LimeSchool) -> str:
    """How the lime-only bottle stands: `stop`, `redo`, `watch`, `fine`; empty while it is not read."""
    if ph is None:
        return ""
    low, high = school.only_ph
    noise = 1e-9
    if ph < school.only_stop_ph - noise:
        return "stop"
    if ph > high + noise:
        return "redo"
    return "watch" if ph < low - noise else "fine"


def facts(record: Record, school: LimeSchool) -> Facts:
    """The facts of a record under a school."""
    bottles = tuple(_one(i, b, record, school) for i, b in enumerate(record.bottles))
    counted = [b for b in bottles if b.counts]
    only = next((b for b in counted if b.is_lime_only), None)
    only_ph = only.ph25 if only else None
    found = [Point(b.row, float(b.bottle.lime_percent or 0.0), b.ph25) for b in counted if _is_soil(b)]  # type: ignore[arg-type]
    points = tuple(sorted(found, key=lambda p: p.lime_percent))
    word = _only_word(only_ph, school)
    decision = near = None
    if points and only_ph is not None and word not in ("", "stop"):
        decision = decide(points, only_ph, limits_of(school))
        near = flip(points, only_ph, limits_of(school))
    wanted = [b for b in counted if b.is_lime_only or known(b.bottle.lime_percent)]
    all_read = len(wanted) > 1 and all(b.ph25 is not None for b in wanted)
    return Facts(
        record,
        bottles,
        only_ph,
        word,
        points,
        decision,
        near,
        all_read,
        shaking_of(record, school, bottles),
        tuple(reading_of(b, i, record, school) for i, b in enumerate(in_order(bottles))),
    )


def _is_soil(one: One) -> bool:
    return not one.is_lime_only and one.ph25 is not None and known(one.bottle.lime_percent)


def in_order(bottles: tuple[One, ...]) -> list[One]:
    """The bottles as they are read: the lime-only one, then the lowest lime first."""
    wanted = [b for b in bottles if b.counts and (b.is_lime_only or known(b.bottle.lime_percent))]
    return sorted(wanted, key=lambda b: (not b.is_lime_only, b.bottle.lime_percent or 0.0))


def is_weighed(record: Record, bottles: tuple[One, ...]) -> bool:
    """Whether everything is in the bottles but the water."""
    wanted = [b for b in bottles if b.counts]
    return len(wanted) > 1 and all(b.weighed for b in wanted)


def rounds(school: LimeSchool) -> tuple[float, ...]:
    """When all bottles are shaken, min after the water; the first shaking goes with the water itself."""
    many = math.ceil(school.stands_min / school.shake_every_min - 1e-9)
    return tuple(school.shake_every_min * i for i in range(1, many))


def shaking_of(record: Record, school: LimeSchool, bottles: tuple[One, ...]) -> Called:
    """The rounds of shaking, by the clock."""
    many = sum(b.counts for b in bottles) or len(school.limes_percent) + 1
    hands = math.ceil(many / school.shaken_at_once) * school.shake_s
    taken = []
    for i, shake in enumerate(record.shakes):
        if shake.shaken_at is not None and record.water_in_at is not None and not shake.excluded_because:
            taken.append(Taken(i, minutes_between(record.water_in_at, shake.shaken_at), shake.shaken_at))
    at = rounds(school)
    ended = any(b.ph25 is not None for b in bottles)
    return Called(
        key="shakes",
        words="the bottles",
        by="clock",
        unit="min",
        at=at,
        reads=("shaken_at",),
        window_s=tuple([school.shake_window_s] * len(at)),
        began_at=record.water_in_at,
        after_s=round(hands),
        over=ended,
        taken=tuple(taken),
        rows=len(record.shakes),
        begin_field="water_in_at",
        plan_field="planned_water_at",
        ready=is_weighed(record, bottles),
        name="shake",
        does="shake",
        begins="water into all bottles, {}",
        prepares="stand {} ready with their water measured",
        how=f"Each for {plain(school.shake_s)} s.",
        drawn="",
        begin_hands_s=round(hands) + 60,
    )


def reading_of(one: One, place: int, record: Record, school: LimeSchool) -> Called:
    """One bottle's reading behind the hour, by the clock."""
    at = school.stands_min + place * school.reading_min
    taken: tuple[Taken, ...] = ()
    if one.bottle.read_ph is not None:
        taken = (Taken(one.row, one.minutes, one.bottle.read_at),)
    closes = school.stands_min + school.gate_min
    return Called(
        key="bottles",
        words=f"the {one.words} bottle",
        by="clock",
        unit="min",
        at=(at,),
        reads=("read_ph",),
        after_field="temperature_c",
        window_s=(round(60 * (closes - at)),),
        began_at=record.water_in_at,
        after_s=round(60 * school.reading_min),
        over=one.bottle.read_ph is not None,
        taken=taken,
        rows=len(record.bottles),
        only_row=one.row,
        channels={"ph": "read_ph", "temperature": "temperature_c"},
        name=one.words,
        begins="read",
        how="Not rinsed: going up, the last film does no harm." if place > 1 else "Rinsed with clean water before it.",
        drawn="bottle",
    )


def gate_closes(record: Record, school: LimeSchool) -> timedelta:
    """From the water to the end of the time for reading."""
    return timedelta(minutes=school.stands_min + school.gate_min)
