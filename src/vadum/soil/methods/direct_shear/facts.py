"""What the stages of a direct shear come to, worked out once."""

import math
from itertools import pairwise
from typing import NamedTuple

from vadum.soil.contract import paths
from vadum.soil.contract.called import Called, Pace, Taken
from vadum.soil.contract.compare import at_least, at_most
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.times import minutes_between
from vadum.soil.methods.direct_shear import box as boxes
from vadum.soil.methods.direct_shear import failure as failures
from vadum.soil.methods.direct_shear.box import Box, Point
from vadum.soil.methods.direct_shear.failure import Residual, Tail
from vadum.soil.methods.direct_shear.record import Record, Settlement, Stage
from vadum.soil.methods.direct_shear.school import ShearSchool
from vadum.soil.shared.consolidation import Consolidation, Moved, consolidation_of
from vadum.soil.shared.envelope import Line, Strength, by_stresses, fitted, fitted_not_below_zero
from vadum.soil.shared.force_reading import force_known, ring_of
from vadum.soil.shared.phases import saturation_percent, void_ratio
from vadum.soil.shared.row_in_hand import row_in_hand
from vadum.soil.shared.series_of_readings import taken_by_travel

LATE_S = 0.02  # of the elapsed time, and at least 10 s: how far from its call a settlement may be read
DRAINS_MIN = 1.0  # a sand settles while the load is put on


class State(NamedTuple):
    """What the specimen is made of: mass in g, dry density in Mg/m³, void ratio before and after its load, and
    saturation before in %; each None while it is not known."""

    mass_g: float | None
    dry_mg_m3: float | None
    void_ratio: float | None
    void_ratio_loaded: float | None
    saturation_percent: float | None


class Sheared(NamedTuple):
    """One stage: its load, its consolidation, its curve, peak and tail. `counts`: the envelope may use its peak."""

    row: int
    stage: Stage
    normal_kpa: float | None
    height_mm: float
    state: State
    settled: Consolidation
    needed_min: float | None
    needed_measured: bool
    points: tuple[Point, ...]
    peak: Point | None
    at_displacement: bool
    peak_min: float | None
    tail: Tail | None
    residual: Residual | None
    traverses_agree: bool
    opening_degrees: float | None
    over: bool

    @property
    def prefix(self) -> str:
        """What the keys of this stage's values begin with."""
        return f"s{self.row + 1}_"

    @property
    def words(self) -> str:
        """The stage as it is said."""
        normal = self.normal_kpa if self.normal_kpa is not None else self.stage.wanted_kpa
        return f"stage {self.row + 1}" + (f", {normal:.0f} kPa" if normal is not None else "")

    @property
    def counts(self) -> bool:
        """Whether its peak is one: sheared to its end and not left out."""
        return self.over and self.peak is not None and not self.stage.excluded_because

    @property
    def fell_percent(self) -> float:
        """How far the force has fallen behind its greatest, percent of it."""
        return failures.fell_percent(self.points)

    @property
    def failure_words(self) -> str:
        """What its strength is taken at: the peak, or a displacement where no peak was passed."""
        if self.peak is None or not self.at_displacement:
            return "peak"
        return f"no peak; at {plain(self.peak.travel_mm, 3)} mm"

    @property
    def secant_degrees(self) -> float | None:
        """The friction angle of this stage alone: `atan(tau / sigma)`."""
        peak = self.peak
        return math.degrees(math.atan2(peak.shear_kpa, peak.normal_kpa)) if peak and peak.normal_kpa > 0 else None

    def path(self, field: str) -> str:
        """The path of a field of this stage."""
        return paths.at("stages", self.row, field)


class Envelope(NamedTuple):
    """The line through the peaks, the tails or the residuals: its points as (normal, shear) in kPa, fit and strength.

    `free` is the fit before its intercept, which came out below nothing, was held at zero; None where it was not: line
    and strength then are of one another, the angle belongs to the cohesion beside it.
    """

    points: tuple[tuple[float, float], ...]
    rows: tuple[int, ...]
    line: Line
    strength: Strength
    free: Line | None


class Facts(NamedTuple):
    """The box, every stage, the envelopes of peak, tail and residual, what the line is about before all are sheared,
    the stage in hand, and what is called."""

    record: Record
    box: Box
    stages: tuple[Sheared, ...]
    peak: Envelope | None
    tail: Envelope | None
    residual: Envelope | None
    about: Envelope | None
    hand: int | None
    settling: Called | None
    shearing: Called | None

    @property
    def in_hand(self) -> Sheared | None:
        """The stage in hand, where anything of it stands."""
        return self.stages[self.hand] if self.hand is not None and self.hand < len(self.stages) else None

    @property
    def kept(self) -> tuple[Sheared, ...]:
        """The stages that are not left out."""
        return tuple(s for s in self.stages if not s.stage.excluded_because)

    @property
    def counting(self) -> tuple[Sheared, ...]:
        """The stages that count."""
        return tuple(s for s in self.stages if s.counts)

    @property
    def drained(self) -> bool:
        """Whether the strength is a drained one: not sheared quickly."""
        return self.record.drainage != "quick"


def nominal_kpa(record: Record, stage: Stage, box: Box) -> float | None:
    """The normal stress of a stage on the area before the shear, kPa; None until the hanger and the lever are known.

    Parameters: `record` with the lever and what rests on the plane; `stage` with its hanger; `box`.
    Returns: kPa.
    Source: statics of the hanger.
    """
    if not known(stage.hanger_kg):
        return None
    ratio = record.lever_ratio
    if not known(ratio) or ratio <= 0:
        return None
    return boxes.normal_kpa(boxes.direct_kg(record), stage.hanger_kg, ratio, box.area_mm2)


def _minutes(row: Settlement, stage: Stage) -> float | None:
    if known(row.elapsed_min):
        return row.elapsed_min
    if row.read_at is None or stage.loaded_at is None:
        return None
    return minutes_between(stage.loaded_at, row.read_at)


def settled_of(stage: Stage) -> Consolidation:
    """The consolidation of a stage, with what a hand has moved in place of what was found."""
    read = []
    for row in stage.settlement:
        minutes = _minutes(row, stage)
        if known(row.settlement_mm) and minutes is not None and minutes >= 0 and not row.excluded_because:
            read.append(Moved(minutes, row.settlement_mm))
    return consolidation_of(read, stage.t50_min, stage.t90_min, stage.t100_min)


def needed_min(settled: Consolidation, record: Record, school: ShearSchool) -> tuple[float | None, bool]:
    """The time to failure that lets the specimen drain, min, and whether it was measured on this specimen.

    `tf = 50 t50` or `11.6 t90`, or `12.7 t100`; else by the kind of soil.

    Parameters: `settled` with t50, t90, t100 in min; `record` names the soil; `school` the rule.
    Returns: minutes (None for a soil that was not named, and for dry clean sand, which drains at once).
    Source: ASTM D3080; BS 1377-7.
    """
    if school.time_by == "12.7 t100" and settled.t100_min is not None:
        return 12.7 * settled.t100_min, True
    if settled.t90_min is not None:
        return 11.6 * settled.t90_min, True
    if settled.t50_min is not None:
        return 50 * settled.t50_min, True
    return dict(school.default_min).get(record.soil or ""), False


def dry_sand(record: Record) -> bool:
    """Whether nothing has to drain: clean sand in a box that holds no water."""
    flooded = any(s.flooded == "yes" for s in record.stages)
    return record.soil == "clean sand" and not flooded and (record.water_before_percent or 0.0) < 1.0


def rate_for(settled: Consolidation, record: Record, school: ShearSchool) -> float | None:
    """The rate of the carriage, mm/min: `df / tf`, df the travel at failure that is expected; dry clean sand at its
    own.

    Parameters: as `needed_min`.
    Returns: mm/min; None while nothing tells how long the soil needs.
    Source: ASTM D3080.
    """
    minutes, measured = needed_min(settled, record, school)
    if dry_sand(record) and not measured:
        return school.dry_sand_mm_min
    failure = school.failure_mm
    if record.normally_consolidated == "yes":
        failure = school.failure_normally_consolidated_mm
    return failure / minutes if minutes else None


def _state(record: Record, stage: Stage, box: Box, height: float, settled_mm: float | None) -> State:
    mass = stage.mass_g if known(stage.mass_g) else None
    if mass is None and known(stage.mass_before_g) and known(stage.mass_left_g):
        mass = stage.mass_before_g - stage.mass_left_g
    water = record.water_before_percent
    if mass is None or mass <= 0 or not known(water):
        return State(mass, None, None, None, None)
    dry = mass / (1 + water / 100) / (box.area_mm2 * height / 1000)
    particle = record.particle_density_mg_m3
    if not known(particle) or particle <= dry:
        return State(mass, dry, None, None, None)
    e = void_ratio(dry, particle)
    loaded = None if settled_mm is None else e - (1 + e) * settled_mm / height
    return State(mass, dry, e, loaded, saturation_percent(water, dry, particle))


def sheared(record: Record, school: ShearSchool, box: Box, row: int, stage: Stage) -> Sheared:
    """One stage as far as it has come."""
    height = stage.height_mm if known(stage.height_mm) else record.box_height_mm
    height = height if known(height) and height > 0 else school.height_mm
    normal, settled = nominal_kpa(record, stage, box), settled_of(stage)
    settled_mm = stage.settled_mm if known(stage.settled_mm) else None
    if settled_mm is None and settled.readings and stage.consolidated:
        settled_mm = settled.readings[-1].moved
    points: tuple[Point, ...] = ()
    if normal is not None and stage.shear:
        points = boxes.points_of(stage, box, normal, school, ring_of(record), boxes.called_mm(record, school))
    over = stage.stopped is not None or failures.to_the_end(points, school, box)
    peak, at_displacement = failures.failure_of(points, school, box, over)
    minutes, measured = needed_min(settled, record, school)
    took = None
    if peak is not None:
        start, at = points[0].elapsed_s, peak.elapsed_s
        if start is not None and at is not None and at > start:
            took = (at - start) / 60
        elif known(stage.rate_mm_min) and stage.rate_mm_min > 0:
            took = (peak.travel_mm - points[0].travel_mm) / stage.rate_mm_min
    from_mm = record.tail_from_mm if known(record.tail_from_mm) else None
    greatest = max((p.force_n, p.travel_mm) for p in points)[1] if peak else 0.0
    tail = failures.tail_of(points, greatest, from_mm, school.tail_share) if peak else None
    most = school.most_travel_share * box.width_mm
    residual = None if normal is None else failures.residual_of(stage, points, box, normal, school)
    over = stage.stopped is not None or (bool(points) and at_least(points[-1].travel_mm + 0.01, most))
    reach = school.slope_share * box.width_mm
    return Sheared(
        row=row,
        stage=stage,
        normal_kpa=normal,
        height_mm=height,
        state=_state(record, stage, box, height, settled_mm),
        settled=settled,
        needed_min=minutes,
        needed_measured=measured,
        points=points,
        peak=peak,
        at_displacement=at_displacement,
        peak_min=took,
        tail=tail,
        residual=residual,
        traverses_agree=residual is not None and at_most(residual.apart_percent, school.residual_within_percent),
        opening_degrees=failures.opening_degrees(points, peak.travel_mm, reach) if peak else None,
        over=over,
    )


def envelope_of(found: list[tuple[int, float, float]], held: bool, never_negative: bool) -> Envelope | None:
    """The line through (row, normal, shear); one whose cohesion would be below nothing is held through zero."""
    x, y = [n for _, n, _ in found], [t for _, _, t in found]
    rows, points = tuple(r for r, _, _ in found), tuple(zip(x, y, strict=True))
    if never_negative and not held:
        made = fitted_not_below_zero(x, y)
        return Envelope(points, rows, made.line, by_stresses(made.line), made.free) if made else None
    line = fitted(x, y, held) if len(found) > (0 if held else 1) else None
    return Envelope(points, rows, line, by_stresses(line), None) if line else None


def about_of(stages: tuple[Sheared, ...], school: ShearSchool) -> Envelope | None:
    """The line as it looks before all stages are sheared, with the one in hand once its peak is behind it; of one
    stage alone through zero."""
    found = [
        (st.row, st.peak.normal_kpa, st.peak.shear_kpa)
        for st in stages
        if st.peak and not st.stage.excluded_because and (st.over or st.fell_percent >= school.past_peak_percent)
    ]
    return envelope_of(found, len(found) == 1, False)


def expected_kpa(facts: Facts, normal: float) -> float | None:
    """The peak that a stage under a normal stress may be expected to have, kPa, by the line so far.

    Parameters: `facts` with the line; `normal` in kPa.
    Returns: kPa; None while there is no line.
    Source: the line of the stages before it.
    """
    return facts.about.line.at(normal) if facts.about else None


def _settling(record: Record, school: ShearSchool, stage: Sheared) -> Called:
    """The consolidation of the stage in hand, by the clock."""
    taken = [
        Taken(i, _minutes(row, stage.stage), row.read_at)
        for i, row in enumerate(stage.stage.settlement)
        if row.settlement_mm is not None
    ]
    return Called(
        key=stage.path("settlement"),
        words=stage.words,
        by="clock",
        unit="min",
        at=school.settle_min,
        reads=("settlement_mm",),
        window_s=tuple(max(5, round(60 * LATE_S * t)) for t in school.settle_min),
        began_at=stage.stage.loaded_at,
        lead_s=5,
        after_s=5,
        taken=tuple(taken),
        rows=len(stage.stage.settlement),
        begin_field=stage.path("loaded_at"),
        plan_field=stage.path("planned_load_at"),
        moment_field="read_at",
        channels={"vertical": "settlement_mm"},
        gauge="vertical gauge",
        begins="set the load down",
        prepares="stack the discs of {}, hold the hanger",
        how="The vertical gauge, down is positive.",
        name=f"{stage.row + 1}",
        over=stage.stage.consolidated is not None,
        ready=stage.normal_kpa is not None,
    )


def _shearing(record: Record, school: ShearSchool, stage: Sheared, box: Box) -> Called:
    """The shear of the stage in hand, by its travel."""
    at = boxes.called_mm(record, school)
    its, counting = stage.stage, {p.row: p for p in stage.points}

    def travel(i: int) -> float | None:
        return counting[i].travel_mm if i in counting else None

    def shows(i: int) -> str:
        return f"{counting[i].shear_kpa:.1f}" if i in counting else ""

    wanted = rate_for(stage.settled, record, school)
    rate = its.rate_mm_min if known(its.rate_mm_min) and its.rate_mm_min > 0 else wanted
    return Called(
        key=stage.path("shear"),
        words=stage.words,
        by="travel",
        unit="mm",
        at=at,
        reads=("force_n" if record.load_by != "proving ring" else "ring_div", "vertical_mm"),
        pace=Pace(rate, 0.5 * rate, 1.1 * rate) if rate else None,
        over=stage.over,
        taken=taken_by_travel(its.shear, len(at), travel, shows),
        rows=len(its.shear),
        channels={"force": "force_n", "ring": "ring_div", "vertical": "vertical_mm"},
        travel_channels=("travel",),
        travel_field="travel_mm",
        writes_travel=True,
        time_field="elapsed_s",
        moment_field="read_at",
        missed_field="missed",
        note_field="noted",
        notes=("gauge stuck", "slipped"),
        stop_field=stage.path("stopped"),
        stops=("past the peak", "at the end of travel", "called off"),
        shows="shear stress, kPa",
    )


def facts(record: Record, school: ShearSchool) -> Facts:
    """The facts of a record under a school."""
    box = boxes.box_of(record, school)
    stages = tuple(sheared(record, school, box, i, stage) for i, stage in enumerate(record.stages))
    counting = [s for s in stages if s.counts and s.peak]
    held = record.hold_zero == "yes"
    peaks = [(s.row, s.peak.normal_kpa, s.peak.shear_kpa) for s in counting if s.peak]
    tails = [(s.row, s.tail.normal_kpa, s.tail.shear_kpa) for s in counting if s.tail]
    residuals = [
        (s.row, s.residual.normal_kpa, s.residual.shear_kpa) for s in counting if s.residual and s.traverses_agree
    ]
    out = [bool(one.stage.excluded_because) for one in stages]
    hand = row_in_hand([one.over for one in stages], out, record.enough == "yes", school.least_stages)
    settling = shearing = None
    if hand is not None and hand < len(stages):
        now = stages[hand]
        settling = _settling(record, school, now) if now.normal_kpa is not None else None
        ready = now.stage.screws_out == "yes" and now.stage.zeroed == "yes" and force_known(record)
        shearing = _shearing(record, school, now, box) if ready and now.normal_kpa is not None else None
    elif hand is None and stages:
        shearing = _shearing(record, school, stages[-1], box)
    return Facts(
        record,
        box,
        stages,
        envelope_of(peaks, held, True),
        envelope_of(tails, held, True),
        envelope_of(residuals, held, True),
        about_of(stages, school) if hand is not None else None,
        hand,
        settling,
        shearing,
    )


def stands_still_from(points: tuple[Point, ...]) -> float | None:
    """The travel from which the vertical gauge shows one figure to the end, mm; None where it moves.

    Parameters: `points` of a stage.
    Returns: mm.
    Source: a gauge that sticks.
    """
    read = [(p.travel_mm, p.vertical_mm) for p in points if p.vertical_mm is not None]
    if len(read) < 5:
        return None
    start = None
    for (x, a), (_, b) in pairwise(read):
        start = (x if start is None else start) if a == b else None
    return start if start is not None and start <= 0.5 * read[-1][0] else None
