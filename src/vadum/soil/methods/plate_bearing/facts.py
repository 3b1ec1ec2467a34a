"""What the load steps of a bearing test come to, worked out once: the settled curve, its ultimate, what is to come."""

from typing import NamedTuple

from vadum.soil.contract.called import Called
from vadum.soil.contract.compare import at_least
from vadum.soil.contract.fields import known
from vadum.soil.methods.plate_bearing.curve import TwoLines, log_break, pressure_at, two_lines
from vadum.soil.methods.plate_bearing.record import Record, Rule
from vadum.soil.methods.plate_bearing.school import BearingSchool
from vadum.soil.shared.plate import load as loads
from vadum.soil.shared.plate import plan as plans
from vadum.soil.shared.plate import steps as ladders
from vadum.soil.shared.plate.plan import Plan
from vadum.soil.shared.plate.steps import Loaded, Rest, Target

MOST_STEPS = 24


class Found(NamedTuple):
    """An ultimate by one rule: kPa, None where the curve does not reach it; at what settlement; in words."""

    rule: Rule
    kpa: float | None
    at_mm: float | None
    words: str


class Facts(NamedTuple):
    """A bearing test as it stands. `kpa` and `settled` are its settled curve, less `origin_mm`; `ultimates` what each
    rule reads off it, `ultimate` the one picked."""

    record: Record
    width_mm: float
    square: bool
    plate_mm2: float
    steps: tuple[Loaded, ...]
    kpa: tuple[float, ...]
    settled: tuple[float, ...]
    origin_mm: float
    lines: TwoLines | None
    broken: TwoLines | None
    ultimates: tuple[Found, ...]
    ultimate: Found | None
    ahead: tuple[Target, ...]
    plan: Plan
    hand: Loaded | None
    rest: Rest | None
    over: bool
    ended: bool
    ladder: Called
    holding: Called | None
    next_words: str = ""
    unit: str = "kPa"
    per_unit: float = 1.0

    @property
    def lever(self) -> float:
        """A gauge's travel is the plate's: no lever stands between them."""
        return 1.0

    @property
    def called(self) -> tuple[Called, ...]:
        """What is called: the steps by their load, the gauges of the step in hand by the clock."""
        return (self.ladder,) if self.holding is None else (self.ladder, self.holding)

    @property
    def plate_m(self) -> float:
        """The plate's width, m."""
        return self.width_mm / 1000


def goes_to_kpa(record: Record, school: BearingSchool) -> float:
    """As far as the load goes, kPa: as planned, else the design pressure times the school's ratio, else the ultimate
    that is expected."""
    if known(record.planned_kpa):
        return float(record.planned_kpa)
    if known(record.design_kpa):
        return school.to_design_ratio * record.design_kpa
    return record.expected_ultimate_kpa if known(record.expected_ultimate_kpa) else school.usual_ultimate_kpa


def step_kpa(record: Record, school: BearingSchool) -> float:
    """A load step, kPa: at most the school's, and a share of the ultimate that is expected; as many as it asks."""
    ultimate = record.expected_ultimate_kpa if known(record.expected_ultimate_kpa) else school.usual_ultimate_kpa
    step = min(school.most_step_kpa, ultimate / school.steps_to_ultimate_ratio)
    return min(step, goes_to_kpa(record, school) / school.least_steps)


def _planned(record: Record, school: BearingSchool) -> list[Target]:
    step, to = step_kpa(record, school), goes_to_kpa(record, school)
    many = max(1, min(MOST_STEPS, round(to / step)))
    loads_ = [Target("first", to * i / many) for i in range(1, many + 1)]
    downs = [Target("down", share * to) for share in school.down_shares]
    return [Target("preload", school.seating_kpa), *loads_, *downs]


def _ahead(record: Record, steps: tuple[Loaded, ...], school: BearingSchool, ended: bool) -> list[Target]:
    if not steps:
        return _planned(record, school)
    stands = max((one.kpa or 0.0 for one in steps if one.cycle == "first"), default=0.0)
    ahead: list[Target] = []
    if not ended:
        ahead = [t for t in _planned(record, school) if t.cycle == "first" and t.kpa * school.reached_ratio > stands]
    top = max([stands, *(t.kpa for t in ahead)])
    downs = sum(one.cycle == "down" and one.kpa is not None for one in steps)
    return [*ahead, *(Target("down", share * top) for share in school.down_shares[downs:])]


def _origin(kpa: list[float], settled: list[float], least: int) -> float:
    """Bedding-in before the first straight part, mm; 0 where the curve does not begin with any."""
    found = two_lines(kpa, settled, least)
    line = found.first if found else None
    return max(0.0, line.intercept) if line is not None and line.slope > 0 and line.intercept > BEDS_MM else 0.0


BEDS_MM = 0.1  # less is the scatter of the gauges


def _ultimates(facts: "Facts", school: BearingSchool) -> tuple[Found, ...]:
    kpa, settled = facts.kpa, facts.settled
    share_mm = school.width_share_percent / 100 * facts.width_mm
    at_share = pressure_at(kpa, settled, share_mm)
    lines, broken = facts.lines, facts.broken
    found = [
        Found("two lines", lines.x if lines else None, lines.y if lines else None, "first and last straight part meet"),
        Found(
            "log-log break",
            10**broken.x if broken else None,
            10**broken.y if broken else None,
            "two lines, log-log axes",
        ),
        Found("share of width", at_share, share_mm, f"at {school.width_share_percent:g} % of the plate's width"),
    ]
    if known(facts.record.ultimate_hand_kpa):
        found.append(Found("by hand", float(facts.record.ultimate_hand_kpa), None, "drawn by the analyst"))
    return tuple(found)


def picked(facts: "Facts", school: BearingSchool) -> Found | None:
    """The ultimate that counts: the analyst's pick, the hand's where one was drawn, else the school's rule."""
    rule = facts.record.ultimate_by or ("by hand" if known(facts.record.ultimate_hand_kpa) else school.ultimate_by)
    return next((one for one in facts.ultimates if one.rule == rule), None)


def facts(record: Record, school: BearingSchool) -> Facts:
    """The facts of a record under a school."""
    width = record.plate_width_mm if known(record.plate_width_mm) and record.plate_width_mm > 0 else school.width_mm
    square = record.plate_shape == "square"
    area = loads.area_mm2(width, square)
    steps = ladders.loaded(record, record.steps, school, area, school.seating_kpa)
    points = [one for one in steps if one.cycle == "first" and one.counts]
    raw, sank = [one.kpa or 0.0 for one in points], [one.settlement_mm or 0.0 for one in points]
    origin = _origin(raw, sank, school.line_points_count) if len(points) >= 2 * school.line_points_count else 0.0
    settled = [s - origin for s in sank]
    hand = ladders.hand_of(steps)
    rest = ladders.rest_of(hand, school) if hand else None
    held = hand is not None and rest is not None and not rest.at_rest and record.stopped is None
    to = goes_to_kpa(record, school)
    still = held and hand is not None and hand.cycle == "first"
    full = bool(raw) and at_least(raw[-1], school.reached_ratio * to) and not still
    ended = bool(points) and (full or record.stopped is not None or any(one.cycle == "down" for one in steps))
    ahead = [] if record.stopped is not None and steps else _ahead(record, steps, school, ended)
    over = bool(steps) and not ahead and not held
    many = school.line_points_count
    made = Facts(
        record,
        width,
        square,
        area,
        steps,
        tuple(raw),
        tuple(settled),
        origin,
        two_lines(raw, settled, many) if ended else None,
        log_break(raw, settled, many) if ended else None,
        (),
        None,
        tuple(ahead),
        plans.plan(record, school, _planned(record, school), width, square),
        hand,
        rest,
        over,
        ended,
        ladders.ladder(steps, ahead, record, school, over, 1.0, "kPa"),
        ladders.holding(hand, record, school, over, 1.0, "kPa"),
    )
    made = made._replace(ultimates=_ultimates(made, school) if ended else ())
    return made._replace(ultimate=picked(made, school))
