"""What the specimens of a triaxial test come to, worked out once."""

from typing import NamedTuple

from vadum.soil.contract import paths
from vadum.soil.contract.called import Called, Pace, Taken
from vadum.soil.contract.compare import at_least
from vadum.soil.contract.errors import ReductionError
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import mean
from vadum.soil.methods.triaxial import cell as cells
from vadum.soil.methods.triaxial.cell import Core, Point, Sheared
from vadum.soil.methods.triaxial.drainage import drainage_of, elapsed_min, needed_percent_min, water_out_cm3
from vadum.soil.methods.triaxial.record import Increment, Record, Specimen
from vadum.soil.methods.triaxial.school import TriaxialSchool
from vadum.soil.shared.consolidation import Consolidation
from vadum.soil.shared.envelope import Line, Strength, by_circle_tops, fitted_not_below_zero
from vadum.soil.shared.phases import saturation_percent, void_ratio
from vadum.soil.shared.physics import WATER_20_MG_M3
from vadum.soil.shared.row_in_hand import row_in_hand
from vadum.soil.shared.series_of_readings import taken_by_travel

LATE_SHARE = 0.02


class Answer(NamedTuple):
    """One step of the saturation: its row, B, and the pressures in kPa."""

    row: int
    b_ratio: float
    cell_kpa: float
    pore_kpa: float
    back_kpa: float | None


class State(NamedTuple):
    """What the specimen is made of: dry mass in g, dry density in Mg/m³, void ratio before and after consolidation,
    saturation before in %, water content after in %; each None while it is not known."""

    mass_dry_g: float | None
    dry_mg_m3: float | None
    void_ratio: float | None
    void_ratio_consolidated: float | None
    saturation_percent: float | None
    water_after_percent: float | None


class Tested(NamedTuple):
    """One specimen: sizes, saturation, consolidation, state, curve, and its failure by both criteria."""

    row: int
    specimen: Specimen
    core: Core | None
    start: Sheared | None
    answers: tuple[Answer, ...]
    drainage: Consolidation
    state: State
    effective_kpa: float | None
    needed_percent_min: float | None
    rate_percent_min: float | None
    shortened_mm: float
    points: tuple[Point, ...]
    deviator: Point | None
    obliquity: Point | None
    over: bool

    @property
    def prefix(self) -> str:
        """What the keys of this specimen's values begin with."""
        return f"t{self.row + 1}_"

    @property
    def words(self) -> str:
        """The specimen as it is said."""
        pressure = self.specimen.wanted_kpa
        return f"specimen {self.row + 1}" + (f", {pressure:g} kPa" if known(pressure) else "")

    @property
    def counts(self) -> bool:
        """Whether its failure is one: sheared to its end and not left out."""
        return self.over and self.deviator is not None and not self.specimen.excluded_because

    @property
    def b_ratio(self) -> float | None:
        """The last answer of its pore pressure."""
        return self.answers[-1].b_ratio if self.answers else None

    @property
    def start_kpa(self) -> float:
        """The deviator at the start of the shear, kPa: what an anisotropic consolidation left there."""
        return self.points[0].deviator_kpa if self.points else 0.0

    @property
    def axial_effective_kpa(self) -> float | None:
        """The axial effective stress at the end of consolidation, kPa."""
        return None if self.effective_kpa is None else self.effective_kpa + self.start_kpa

    @property
    def fell_percent(self) -> float:
        """How far the deviator has fallen behind its greatest, percent of it."""
        best = self.deviator
        if best is None or not self.points or best.deviator_kpa == 0:
            return 0.0
        return 100 * (1 - abs(self.points[-1].deviator_kpa) / abs(best.deviator_kpa))

    def failure(self, school: TriaxialSchool) -> Point | None:
        """Where it failed, by the school."""
        return self.deviator if school.criterion == "greatest deviator" else self.obliquity or self.deviator

    def path(self, field: str) -> str:
        """The path of a field of this specimen."""
        return paths.at("specimens", self.row, field)


class Envelope(NamedTuple):
    """The line through the tops of the circles: its points as (s, t) in kPa, fit, and strength.

    `free` is the strength of the free fit where its cohesion came out below nothing: the line is held through zero.
    """

    points: tuple[tuple[float, float], ...]
    rows: tuple[int, ...]
    line: Line
    strength: Strength
    free: Strength | None


class Facts(NamedTuple):
    """Every specimen, the envelopes by the school's criterion, by the other, and in total stress; what is called."""

    record: Record
    tested: tuple[Tested, ...]
    effective: Envelope | None
    by_other: Envelope | None
    total: Envelope | None
    shear_strength_kpa: float | None
    hand: int | None
    draining: Called | None
    shearing: Called | None

    @property
    def in_hand(self) -> Tested | None:
        """The specimen in hand, where anything of it stands."""
        return self.tested[self.hand] if self.hand is not None and self.hand < len(self.tested) else None

    @property
    def kept(self) -> tuple[Tested, ...]:
        """The specimens that are not left out."""
        return tuple(t for t in self.tested if not t.specimen.excluded_because)

    @property
    def counting(self) -> tuple[Tested, ...]:
        """The specimens that count."""
        return tuple(t for t in self.tested if t.counts)

    @property
    def quick(self) -> bool:
        """Whether nothing drains and nothing is consolidated."""
        return self.record.kind in ("UU", "UUP")

    @property
    def anisotropic(self) -> bool:
        """Whether it was consolidated under an axial stress of its own."""
        return self.record.kind in ("CAU", "CAD")

    @property
    def drained(self) -> bool:
        """Whether it is sheared drained."""
        return self.record.kind in ("CID", "CAD")

    @property
    def measures_pore(self) -> bool:
        """Whether effective stresses at failure are known."""
        return self.record.kind not in ("UU", None)


def _answers(specimen: Specimen) -> tuple[Answer, ...]:
    found = []
    for i, row in enumerate(specimen.increments):
        made = answer_of(row)
        if made is not None and not row.excluded_because:
            back = row.back_kpa if known(row.back_kpa) else None
            assert row.cell_to_kpa is not None
            assert row.pore_to_kpa is not None
            found.append(Answer(i, made, row.cell_to_kpa, row.pore_to_kpa, back))
    return tuple(found)


def answer_of(row: Increment) -> float | None:
    """B of one step; None until all four pressures stand."""
    four = (row.cell_from_kpa, row.cell_to_kpa, row.pore_from_kpa, row.pore_to_kpa)
    if not all(known(p) for p in four):
        return None
    try:
        return cells.pore_answer(*(float(p or 0.0) for p in four))
    except ReductionError:
        return None


def _start(specimen: Specimen, record: Record, core: Core, state: State, school: TriaxialSchool) -> Sheared | None:
    """The specimen as it begins to shear; as it was measured where nothing drained from it."""
    if record.kind in ("UU", "UUP"):
        return Sheared(core.height_mm, core.volume_cm3, core.area_mm2)
    out = water_out_cm3(specimen)
    if out is None:
        return None
    swelled = specimen.saturation_shortening_mm if known(specimen.saturation_shortening_mm) else 0.0
    shortened = specimen.consolidation_shortening_mm
    if not known(shortened):
        read = [r.shortening_mm for r in specimen.consolidation if known(r.shortening_mm)]
        # Without a gauge the height follows the volume as if it were strained alike in every direction.
        shortened = read[-1] if read else core.height_mm * out / core.volume_cm3 / 3
    height = core.height_mm - swelled - shortened
    gained = cells.saturation_volume_cm3(core.volume_cm3, swelled, core.height_mm)
    try:
        area = cells.consolidated_area_mm2(core.volume_cm3, gained, out, core.height_mm, swelled + shortened)
    except ReductionError:
        return None
    particle = record.particle_density_mg_m3
    by_water = school.area_by == "B, by the final water content"
    if by_water and state.mass_dry_g and state.water_after_percent is not None and known(particle):
        area = cells.area_by_water_mm2(state.mass_dry_g, state.water_after_percent, particle, height, WATER_20_MG_M3)
    return Sheared(height, area * height / 1000, area)


def _state(specimen: Specimen, record: Record, core: Core | None) -> State:
    tin, wet, dry = specimen.mass_tin_g, specimen.mass_wet_g, specimen.mass_dry_g
    after = mass_dry = None
    if known(tin) and known(wet) and known(dry) and wet >= dry > tin:
        after, mass_dry = 100 * (wet - dry) / (dry - tin), dry - tin
    mass, before = specimen.mass_g, record.water_before_percent
    if mass_dry is None and known(mass) and known(before):
        mass_dry = mass / (1 + before / 100)
    if mass_dry is None or core is None:
        return State(mass_dry, None, None, None, None, after)
    density = mass_dry / core.volume_cm3
    particle = record.particle_density_mg_m3
    if not known(particle) or particle <= density:
        return State(mass_dry, density, None, None, None, after)
    e = void_ratio(density, particle)
    water = 100 * (mass / mass_dry - 1) if known(mass) and mass > mass_dry else None
    full = saturation_percent(water, density, particle) if water is not None else None
    out = water_out_cm3(specimen)
    swelled = specimen.saturation_shortening_mm if known(specimen.saturation_shortening_mm) else 0.0
    gained = cells.saturation_volume_cm3(core.volume_cm3, swelled, core.height_mm)
    loaded = None if out is None else e - (1 + e) * (out + gained) / core.volume_cm3
    return State(mass_dry, density, e, loaded, full, after)


def called_mm(height_mm: float, school: TriaxialSchool) -> tuple[float, ...]:
    """The shortenings at which a hand reads, mm to a hundredth, up to the stop strain."""
    steps = [s for s in school.called_percent if s <= school.stop_strain_percent + 1e-9]
    return tuple(dict.fromkeys(round(s / 100 * height_mm, 2) for s in steps))


def tested_of(record: Record, school: TriaxialSchool, row: int, specimen: Specimen, before: Tested | None) -> Tested:
    """One specimen as far as it has come; of a quick multistage test `before` is its stage before: it goes on from the
    shortening at which that ended."""
    core, drainage = cells.core_of(specimen), drainage_of(specimen)
    goes_on = before is not None and record.staging == "multistage" and record.kind in ("UU", "UUP")
    if goes_on and before is not None and before.core is not None:
        core = before.core
    state = _state(specimen, record, core)
    start = _start(specimen, record, core, state, school) if core else None
    points: tuple[Point, ...] = ()
    shortened = 0.0
    if start is not None and specimen.shear:
        if goes_on and before is not None and before.points:
            shortened = before.points[-1].strain * start.height_mm
        try:
            points = cells.points_of(specimen, record, school, start, called_mm(start.height_mm, school), shortened)
        except ReductionError:
            points = ()
    stop = school.stop_strain_percent / 100
    cell, back = specimen.cell_kpa, specimen.back_kpa
    effective = cell - back if known(cell) and known(back) and record.kind not in ("UU", "UUP") else None
    rate = None
    timed = [p for p in points if p.elapsed_s is not None]
    if len(timed) > 1 and (timed[-1].elapsed_s or 0) > (timed[0].elapsed_s or 0):
        rate = 6000 * abs(timed[-1].strain - timed[0].strain) / ((timed[-1].elapsed_s or 0) - (timed[0].elapsed_s or 0))
    elif start is not None and known(specimen.rate_mm_min):
        rate = 100 * specimen.rate_mm_min / start.height_mm
    over = specimen.stopped is not None or (bool(points) and at_least(abs(points[-1].strain), 0.999 * stop))
    return Tested(
        row=row,
        specimen=specimen,
        core=core,
        start=start,
        answers=_answers(specimen),
        drainage=drainage,
        state=state,
        effective_kpa=effective,
        needed_percent_min=needed_percent_min(drainage, record, school),
        rate_percent_min=rate,
        shortened_mm=shortened,
        points=points,
        deviator=cells.greatest_deviator(points, stop),
        obliquity=cells.greatest_obliquity(points, stop),
        over=over,
    )


def envelope_of(found: list[tuple[int, float, float]]) -> Envelope | None:
    """The line through the tops of circles, of (row, s, t) in kPa; None below two, or where no angle has its sine."""
    x, y = [s for _, s, _ in found], [t for _, _, t in found]
    made = fitted_not_below_zero(x, y)
    strength = by_circle_tops(made.line) if made else None
    if made is None or strength is None:
        return None
    free = by_circle_tops(made.free) if made.free else None
    return Envelope(tuple(zip(x, y, strict=True)), tuple(r for r, _, _ in found), made.line, strength, free)


def _tops(tested: list[Tested], school: TriaxialSchool, other: bool) -> list[tuple[int, float, float]]:
    found = []
    for one in tested:
        deviator_first = (school.criterion == "greatest deviator") != other
        at = one.deviator if deviator_first else one.obliquity
        if at is not None:
            found.append((one.row, at.s_kpa, at.t_kpa))
    return found


def _totals(tested: list[Tested], record: Record, school: TriaxialSchool) -> list[tuple[int, float, float]]:
    """In total stress, counted from the cell pressure less the back pressure."""
    found = []
    for one in tested:
        at, cell, back = one.failure(school), one.specimen.cell_kpa, one.specimen.back_kpa
        if at is None or not known(cell):
            continue
        lateral = cell - (back if known(back) and record.kind not in ("UU", "UUP") else 0.0)
        found.append((one.row, lateral + at.deviator_kpa / 2, at.t_kpa))
    return found


def _draining(one: Tested, school: TriaxialSchool) -> Called:
    """The consolidation of the specimen in hand, by the clock."""
    specimen = one.specimen
    taken = [
        Taken(i, elapsed_min(row, specimen), row.read_at)
        for i, row in enumerate(specimen.consolidation)
        if row.volume_cm3 is not None
    ]
    return Called(
        key=one.path("consolidation"),
        words=one.words,
        by="clock",
        unit="min",
        at=school.consolidation_min,
        reads=("volume_cm3", "shortening_mm"),
        window_s=tuple(max(5, round(60 * LATE_SHARE * t)) for t in school.consolidation_min),
        began_at=specimen.drained_from_at,
        lead_s=5,
        after_s=5,
        taken=tuple(taken),
        rows=len(specimen.consolidation),
        begin_field=one.path("drained_from_at"),
        plan_field=one.path("planned_drain_at"),
        moment_field="read_at",
        channels={"volume": "volume_cm3", "travel": "shortening_mm"},
        gauge="volume gauge",
        begins="open the back line",
        prepares="raise the cell for {}, volume gauge at zero",
        how="Water out of the specimen, then its shortening.",
        name=f"{one.row + 1}",
        over=specimen.consolidated is not None,
        ready=specimen.cell_kpa is not None and specimen.back_kpa is not None,
    )


def _shearing(one: Tested, record: Record, school: TriaxialSchool) -> Called | None:
    """The shear of the specimen in hand, by its shortening."""
    if one.start is None:
        return None
    at = called_mm(one.start.height_mm, school)
    its, counting = one.specimen, {p.row: p for p in one.points}
    height = one.start.height_mm

    def travel(i: int) -> float | None:
        return abs(counting[i].strain * height - one.shortened_mm) if i in counting else None

    def shows(i: int) -> str:
        return f"{counting[i].deviator_kpa:.1f}" if i in counting else ""

    wanted = one.needed_percent_min
    rate = its.rate_mm_min if known(its.rate_mm_min) and its.rate_mm_min > 0 else None
    if rate is None and wanted is not None:
        rate = wanted / 100 * height
    second = (
        () if record.kind in ("UU", None) else (("volume_cm3",) if record.kind in ("CID", "CAD") else ("pore_kpa",))
    )
    return Called(
        key=one.path("shear"),
        words=one.words,
        by="travel",
        unit="mm",
        at=at,
        reads=("force_n", *second),
        pace=Pace(rate, 0.5 * rate, 1.1 * rate) if rate else None,
        over=one.over,
        taken=taken_by_travel(its.shear, len(at), travel, shows),
        rows=len(its.shear),
        channels={"force": "force_n", "pore": "pore_kpa", "volume": "volume_cm3", "cell": "cell_kpa"},
        travel_channels=("travel",),
        travel_field="deformation_mm",
        writes_travel=True,
        time_field="elapsed_s",
        moment_field="read_at",
        missed_field="missed",
        note_field="noted",
        notes=("gauge stuck", "slipped"),
        stop_field=one.path("stopped"),
        stops=("past the peak", "at the stop strain", "called off"),
        shows="deviator, kPa",
    )


def facts(record: Record, school: TriaxialSchool) -> Facts:
    """The facts of a record under a school."""
    stages: list[Tested] = []
    for i, specimen in enumerate(record.specimens):
        stages.append(tested_of(record, school, i, specimen, stages[-1] if stages else None))
    tested = tuple(stages)
    counting = [t for t in tested if t.counts]
    pore = record.kind not in ("UU", None)
    undrained = record.kind in ("CIU", "CAU", "UU", "UUP")
    out = [bool(one.specimen.excluded_because) for one in tested]
    hand = row_in_hand([one.over for one in tested], out, record.enough == "yes", school.least_specimens)
    strengths = [t.deviator.t_kpa for t in counting if t.deviator] if record.kind in ("UU", "UUP") else []
    draining = shearing = None
    here = tested[hand] if hand is not None and hand < len(tested) else None
    if here is not None:
        quick = record.kind in ("UU", "UUP")
        if not quick and here.specimen.saturated and known(here.specimen.cell_kpa):
            draining = _draining(here, school)
        ready = quick or here.specimen.consolidated is not None
        if ready and known(here.specimen.rate_mm_min) and known(here.specimen.cell_kpa):
            shearing = _shearing(here, record, school)
    elif hand is None and tested:
        shearing = _shearing(tested[-1], record, school)
    return Facts(
        record,
        tested,
        envelope_of(_tops(counting, school, other=False)) if pore else None,
        envelope_of(_tops(counting, school, other=True)) if pore and undrained else None,
        envelope_of(_totals(counting, record, school)) if undrained else None,
        mean(strengths) if strengths else None,
        hand,
        draining,
        shearing,
    )


def too_few(facts: Facts, school: TriaxialSchool) -> bool:
    """Whether more specimens are to come, or fewer count than a result needs."""
    least = school.least_quick_specimens if facts.quick else school.least_specimens
    return facts.hand is not None or len(facts.counting) < least
