"""What the heads of a well come to, worked out once: rates, steadiness, outflow, conductivity by one and by two."""

import math
from itertools import pairwise
from typing import NamedTuple

from vadum.soil.contract import paths
from vadum.soil.contract.called import Called, Taken, at_pace
from vadum.soil.contract.fields import known
from vadum.soil.contract.times import minutes_between
from vadum.soil.methods.well_permeameter import well
from vadum.soil.methods.well_permeameter.record import Head, Level, Record
from vadum.soil.methods.well_permeameter.school import WellSchool
from vadum.soil.methods.well_permeameter.well import CLASSES, Two
from vadum.soil.shared.steady import Steady, is_steady, last_of

USUAL = "structured or sandy loam"
WINDOW_S = 20
MOST_AHEAD = 2
DRAWN_MM = 500.0  # of a reservoir, as the eye sees it


class Rate(NamedTuple):
    """The fall of the level from one reading to the next: its row, the time it stands for in min, mm/min."""

    row: int
    minutes: float
    mm_min: float


class Reached(NamedTuple):
    """A head as read: its rates, the steady one with whether it is, the outflow in cm³/s, shape factor, and what the
    head gives alone in cm/s; each None while it cannot be told. `over`: it is steady, or was ended."""

    row: int
    head: Head
    head_cm: float | None
    rates: tuple[Rate, ...]
    steady: Steady | None
    is_steady: bool
    minutes: float
    flow_cm3_s: float | None
    shape: float | None
    kfs_cm_s: float | None
    over: bool

    @property
    def words(self) -> str:
        """The head as it is said."""
        return f"head {self.row + 1}" + (f", {10 * self.head_cm:.0f} mm" if self.head_cm is not None else "")

    @property
    def counts(self) -> bool:
        """Whether its outflow may be used."""
        return self.kfs_cm_s is not None and not self.head.excluded_because and self.over


class Facts(NamedTuple):
    """A well as it stands. `alpha` of its class in 1/cm, `alpha_said` whether the class was; `two` by both heads where
    they give something that can be, `two_refused` why not."""

    record: Record
    radius_cm: float
    alpha: float
    alpha_said: bool
    heads: tuple[Reached, ...]
    two: Two | None
    two_refused: str
    kfs_cm_s: float | None
    temperature_c: float | None
    hand: int | None
    holding: Called | None

    @property
    def in_hand(self) -> Reached | None:
        """The head that is held now."""
        return self.heads[self.hand] if self.hand is not None and self.hand < len(self.heads) else None


def _minutes(row: Level, head: Head) -> float | None:
    if known(row.elapsed_min):
        return float(row.elapsed_min)
    if row.read_at is not None and head.lifted_at is not None:
        return minutes_between(head.lifted_at, row.read_at)
    return None


def rates_of(head: Head) -> tuple[Rate, ...]:
    """The rates between successive readings, mm/min, positive while water leaves; none where no time passes."""
    read = [
        (i, t, float(row.level_mm))
        for i, row in enumerate(head.readings)
        if known(row.level_mm) and not row.excluded_because and (t := _minutes(row, head)) is not None
    ]
    if len(read) < 2:
        return ()
    way = 1.0 if read[-1][2] >= read[0][2] else -1.0
    return tuple(Rate(i, t1, way * (b - a) / (t1 - t0)) for (_, t0, a), (i, t1, b) in pairwise(read) if t1 > t0)


def area_of(head: Head, record: Record) -> float | None:
    """The area of the reservoir that was used, cm²; None while it is not known."""
    area = record.inner_area_cm2 if head.reservoir_used == "inner" else record.both_area_cm2
    return float(area) if known(area) and area > 0 else None


def _reached(row: int, head: Head, record: Record, school: WellSchool, radius: float, alpha: float) -> Reached:
    rates = rates_of(head)
    found = last_of([r.mm_min for r in rates], school.steady_many)
    steady = is_steady(found, school.steady_percent)
    height = head.head_mm / 10 if known(head.head_mm) and head.head_mm > 0 else None
    area = area_of(head, record)
    flow = well.outflow_cm3_s(found.value, area) if found is not None and found.value > 0 and area else None
    other = school.first_shape == "other print"
    shape = well.shape_factor(height, radius, alpha, other) if height is not None else None
    kfs = None
    if flow is not None and shape is not None and height is not None:
        kfs = well.one_head_cm_s(flow, height, radius, shape, alpha)
    minutes = rates[-1].minutes if rates else 0.0
    over = steady or head.steady is not None
    return Reached(row, head, height, rates, found, steady, minutes, flow, shape, kfs, over)


def _both(heads: list[Reached], radius: float, school: WellSchool) -> tuple[Two | None, str]:
    """What two heads give together, or why they do not."""
    if len(heads) < 2:
        return None, ""
    low, high = sorted(heads[:2], key=lambda h: h.head_cm or 0.0)
    if low.head_cm is None or high.head_cm is None or high.head_cm - low.head_cm < 0.5:
        return None, "both heads are one"
    flows = (low.flow_cm3_s or 0.0, high.flow_cm3_s or 0.0)
    shapes = (low.shape or 0.0, high.shape or 0.0)
    found = well.two_heads(flows, (low.head_cm, high.head_cm), shapes, radius)
    alpha, (least, most) = found.alpha_per_cm, school.alpha_band_per_cm
    if found.kfs_cm_s <= 0 or found.phi_cm2_s <= 0 or alpha is None:
        return None, "one of Kfs and phi_m comes out below nothing"
    if not least <= alpha <= most:
        return None, f"alpha* comes out at {alpha:.3g} per cm"
    return found, ""


def _mean(values: list[float], school: WellSchool) -> float:
    if school.fall_back == "geometric":
        return math.exp(math.fsum(math.log(v) for v in values) / len(values))
    return math.fsum(values) / len(values)


def facts(record: Record, school: WellSchool) -> Facts:
    """The facts of a record under a school."""
    radius = record.hole_radius_mm if known(record.hole_radius_mm) and record.hole_radius_mm > 0 else None
    radius_cm = (radius or school.usual_radius_mm) / 10
    alpha = CLASSES[record.ground or USUAL]
    heads = tuple(_reached(i, h, record, school, radius_cm, alpha) for i, h in enumerate(record.heads))
    counted = [h for h in heads if h.counts]
    two, refused = _both(counted, radius_cm, school)
    alone = [h.kfs_cm_s for h in counted if h.kfs_cm_s is not None]
    kfs = two.kfs_cm_s if two else (_mean(alone, school) if alone else None)
    warm = [r.temperature_c for h in record.heads for r in h.readings if known(r.temperature_c)]
    hand = next((h.row for h in heads if not h.over and not h.head.excluded_because), None)
    done = sum(h.counts for h in heads)
    if hand is None and not (record.enough and done) and done < 2:
        hand = len(heads)
    here = heads[hand] if hand is not None and hand < len(heads) else None
    return Facts(
        record,
        radius_cm,
        alpha,
        record.ground is not None,
        heads,
        two,
        refused,
        kfs,
        math.fsum(warm) / len(warm) if warm else None,
        hand,
        called_of(here, school) if here else None,
    )


def _filled(head: Head) -> float | None:
    """How full the reservoir is drawn: what it lost of a usual half metre; None before the tube is lifted."""
    levels = [float(r.level_mm) for r in head.readings if known(r.level_mm)]
    if not levels:
        return 1.0 if head.lifted_at is not None else None
    return max(0.05, 1.0 - abs(levels[-1] - levels[0]) / DRAWN_MM)


def called_of(one: Reached, school: WellSchool) -> Called:
    """The readings of a head by the clock: every so many minutes until it is steady."""
    head = one.head
    taken = []
    rates = {r.row: r.mm_min for r in one.rates}
    for i, row in enumerate(head.readings):
        shows = f"{rates[i]:.2f} mm/min" if i in rates else ""
        if known(row.level_mm):
            taken.append(Taken(i, _minutes(row, head), row.read_at, shows=shows))
    every = school.read_every_min
    last = max((t.at or 0.0 for t in taken), default=-every)
    at = at_pace((0.0,), every, every * (round(last / every) + MOST_AHEAD))
    return Called(
        key=paths.at("heads", one.row, "readings"),
        words=f"the reservoir, {one.words}",
        by="clock",
        unit="min",
        at=at,
        reads=("temperature_c", "level_mm"),
        window_s=tuple([WINDOW_S] * len(at)),
        began_at=head.lifted_at,
        after_s=15,
        over=one.over,
        taken=tuple(taken),
        rows=len(head.readings),
        open_row=next((i for i, r in enumerate(head.readings) if r.level_mm is None and not r.excluded_because), None),
        channels={"level": "level_mm"},
        time_field="elapsed_min",
        begin_field=paths.at("heads", one.row, "lifted_at"),
        plan_field=paths.at("heads", one.row, "planned_lift_at"),
        name="well",
        drawn="well",
        filled=_filled(head),
        begins="lift the air tube of the {}",
        shows="mm/min",
    )
