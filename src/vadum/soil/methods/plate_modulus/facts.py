"""What the load steps of a strain modulus come to, worked out once: its loadings, their fits, what is still to come."""

from typing import NamedTuple

from vadum.soil.contract import compare
from vadum.soil.contract.called import Called
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain, rounded
from vadum.soil.methods.plate_modulus.modulus import Parabola, parabola
from vadum.soil.methods.plate_modulus.record import Record
from vadum.soil.methods.plate_modulus.school import ModulusSchool
from vadum.soil.shared.plate import load as loads
from vadum.soil.shared.plate import plan as plans
from vadum.soil.shared.plate import steps as ladders
from vadum.soil.shared.plate.plan import Plan
from vadum.soil.shared.plate.steps import Loaded, Rest, Target

KPA = 1000.0  # in a MN/m²
CYCLES = (("first", "Ev1", "first loading"), ("again", "Ev2", "second loading"))
LIKE = 0.02  # of the greatest stress: a step that lies so near a planned one is that


class Curve(NamedTuple):
    """A loading as it is fitted: stresses in MN/m², settlements in mm, the rows they come from, and the parabola."""

    sigma: tuple[float, ...]
    settled: tuple[float, ...]
    rows: tuple[int, ...]
    fit: Parabola | None


class Facts(NamedTuple):
    """A strain modulus as it stands. `greatest` is sigma_0max in MN/m², of the first loading once that has ended;
    `ended` whether it has, `by_settlement` whether the settlement ended it; `limit_mm` the settlement that does."""

    record: Record
    width_mm: float
    plate_mm2: float
    preload_kpa: float
    most_kpa: float
    limit_mm: float
    lever: float
    steps: tuple[Loaded, ...]
    first: Curve
    again: Curve
    greatest: float | None
    ended: bool
    by_settlement: bool
    ahead: tuple[Target, ...]
    plan: Plan
    hand: Loaded | None
    rest: Rest | None
    over: bool
    ladder: Called
    holding: Called | None
    next_words: str
    square: bool = False
    unit: str = "MN/m²"
    per_unit: float = KPA

    @property
    def ahead_first_kpa(self) -> float:
        """The stress that the first loading is meant to reach, kPa."""
        return max((t.kpa for t in self.ahead if t.cycle == "first"), default=(self.greatest or 0.0) * KPA)

    @property
    def called(self) -> tuple[Called, ...]:
        """What is called: the steps by their load, the gauges of the step in hand by the clock."""
        return (self.ladder,) if self.holding is None else (self.ladder, self.holding)


def by_width(table: tuple[tuple[float, ...], ...], width_mm: float) -> tuple[float, ...]:
    """The row of a table for a plate, without the width it goes up to; the last for a wider one.

    >>> by_width(((300, 500, 5), (600, 250, 8)), 300), by_width(((300, 500, 5), (600, 250, 8)), 762)
    ((500, 5), (250, 8))
    """
    return next((row[1:] for row in table if width_mm <= row[0]), table[-1][1:])


def lever_of(record: Record) -> float:
    """What a gauge's travel is multiplied by to be the plate's: `hP / hM`; 1 without a lever."""
    plate, gauge = record.lever_plate_mm, record.lever_gauge_mm
    return plate / gauge if known(plate) and known(gauge) and gauge > 0 else 1.0


def _of(steps: tuple[Loaded, ...], cycle: str) -> list[Loaded]:
    return [one for one in steps if one.cycle == cycle and one.counts]


def _curve(points: list[Loaded]) -> Curve:
    sigma = tuple((p.kpa or 0.0) / KPA for p in points)
    settled = tuple(p.settlement_mm or 0.0 for p in points)
    return Curve(sigma, settled, tuple(p.row for p in points), parabola(sigma, settled))


def _planned(school: ModulusSchool, most_kpa: float, preload_kpa: float) -> list[Target]:
    """The whole test as it is planned before anything is read."""
    first = school.steps_kpa or tuple(share * most_kpa for share in school.step_shares)
    made = [Target("preload", preload_kpa), *(Target("first", kpa) for kpa in first)]
    if school.reloads:
        made += [Target("down", share * most_kpa) for share in school.down_shares]
        made += [Target("again", kpa) for kpa in _again(school, list(first))]
    return made


def _again(school: ModulusSchool, first: list[float]) -> list[float]:
    """The second loading: the first one's steps to the last but one, so as to stay below its stress; or to a stress."""
    if school.again_kpa is None:
        return first[:-1]
    return [*(kpa for kpa in first if kpa < school.again_kpa * school.reached_ratio), school.again_kpa]


def _smaller(
    steps: list[Loaded], curve: Curve, school: ModulusSchool, limit_mm: float, most_kpa: float
) -> tuple[float, float] | None:
    """Where the settlement that ends the loading will come, and the step that still makes enough of them, MN/m²; None
    where it does not come before the greatest stress."""
    if curve.fit is None or not steps:
        return None
    last = curve.sigma[-1]
    trial = last
    while trial < most_kpa / KPA and curve.fit.at(trial) < limit_mm:
        trial += school.step_round_mn_m2 / 2
    left = school.least_steps - len(steps)
    if not compare.below(trial, most_kpa / KPA) or left <= 0:
        return None
    step = max(school.step_round_mn_m2, (trial - last) / left)
    return trial, float(rounded(step, school.step_round_mn_m2))


def _as_begun(stands: float, many: int, most_kpa: float, school: ModulusSchool) -> list[float]:
    """The steps to the greatest stress, kPa, as even as those that brought the loading to where it `stands`."""
    left = max(1, round((most_kpa - stands) / (stands / many)))
    step, grain = (most_kpa - stands) / left, school.step_round_mn_m2 * KPA
    return [*(float(rounded(stands + step * i, grain)) for i in range(1, left)), *([most_kpa] if left else [])]


def _first_ahead(
    done: list[Loaded], curve: Curve, school: ModulusSchool, limit_mm: float, most_kpa: float
) -> tuple[list[Target], str]:
    """The steps of the first loading that are still to come, and what is said of them."""
    planned = list(school.steps_kpa or (share * most_kpa for share in school.step_shares))
    stands = max((one.kpa or 0.0 for one in done), default=0.0)
    ahead = [kpa for kpa in planned if kpa * school.reached_ratio > stands]
    if not school.steps_kpa and len(done) > 1 and not any(abs(stands - kpa) < LIKE * most_kpa for kpa in planned):
        ahead = _as_begun(stands, len(done), most_kpa, school)
    found = _smaller(done, curve, school, limit_mm, most_kpa) if not school.steps_kpa else None
    if found is None:
        return [Target("first", kpa) for kpa in ahead], ""
    comes, step = found
    words = f"{limit_mm:g} mm will come at about {plain(comes, 2)}: take {plain(step, 2)} steps."
    targets: list[Target] = []
    at = stands
    while at / KPA + step < comes + step / 2 and len(targets) < school.least_steps:
        at += step * KPA
        targets.append(Target("first", at))
    return targets or [Target("first", stands + step * KPA)], words


def facts(record: Record, school: ModulusSchool) -> Facts:
    """The facts of a record under a school."""
    width = record.plate_width_mm if known(record.plate_width_mm) and record.plate_width_mm > 0 else school.width_mm
    square = record.plate_shape == "square"
    plate_mm2 = loads.area_mm2(width, square)
    (preload_kpa,) = by_width(school.preload_by_width_kpa, width)
    most_kpa, limit_mm = by_width(school.greatest_by_width, width)
    most_kpa = school.steps_kpa[-1] if school.steps_kpa else most_kpa
    lever = lever_of(record)
    steps = ladders.loaded(record, record.steps, school, plate_mm2, preload_kpa, lever)
    first, down, again = _of(steps, "first"), _of(steps, "down"), _of(steps, "again")
    fit_first = [*(_of(steps, "preload") if school.fit_preload else []), *first]
    curve = _curve(fit_first)
    fit_again = [*(down[-1:] if school.fit_last_down else []), *again]
    hand = ladders.hand_of(steps)
    rest = ladders.rest_of(hand, school) if hand else None
    settled = max((one.settlement_mm or 0.0 for one in first), default=0.0)
    reached = max((one.kpa or 0.0 for one in first), default=0.0)
    fell = any(one.cycle in ("down", "again") for one in steps)
    at_limit, at_load = compare.at_least(settled, limit_mm), compare.at_least(reached, school.reached_ratio * most_kpa)
    by_settlement = at_limit and not at_load
    still = hand is not None and hand.cycle == "first" and rest is not None and not rest.at_rest
    full = at_load or at_limit
    ended = bool(first) and (fell or record.stopped is not None or (full and not still))
    ahead: list[Target] = []
    words = ""
    if not steps:
        ahead = _planned(school, most_kpa, preload_kpa)
    elif record.stopped is None:
        ahead, words = _ahead(steps, curve, school, ended, limit_mm, most_kpa)
    held = hand is not None and rest is not None and not rest.at_rest and record.stopped is None
    over = bool(steps) and not ahead and not held
    its_plan = plans.plan(record, school, _planned(school, most_kpa, preload_kpa), width, square)
    return Facts(
        record,
        width,
        plate_mm2,
        preload_kpa,
        most_kpa,
        limit_mm,
        lever,
        steps,
        curve,
        _curve(fit_again),
        reached / KPA if ended else None,
        ended,
        by_settlement and ended,
        tuple(ahead),
        its_plan,
        hand,
        rest,
        over,
        ladders.ladder(steps, ahead, record, school, over, KPA, "MN/m²"),
        ladders.holding(hand, record, school, over, KPA, "MN/m²"),
        words,
        square,
    )


def _ahead(
    steps: tuple[Loaded, ...], curve: Curve, school: ModulusSchool, ended: bool, limit_mm: float, most_kpa: float
) -> tuple[list[Target], str]:
    """What is still to come of a test that has begun."""
    first = [one for one in steps if one.cycle == "first" and one.kpa is not None]
    done = [one.kpa or 0.0 for one in first]
    words = ""
    ahead: list[Target] = []
    if not ended:
        ahead, words = _first_ahead(first, curve, school, limit_mm, most_kpa)
        done = [*done, *(t.kpa for t in ahead)]
    if not school.reloads:
        return ahead, words
    top = max(done, default=most_kpa)
    downs = [one.kpa for one in steps if one.cycle == "down" and one.kpa is not None]
    agains = [one.kpa for one in steps if one.cycle == "again" and one.kpa is not None]
    if not agains:
        ahead += [Target("down", share * top) for share in school.down_shares[len(downs) :]]
    stands = max(agains, default=0.0)
    ahead += [Target("again", kpa) for kpa in _again(school, done) if kpa * school.reached_ratio > stands]
    return ahead, words
