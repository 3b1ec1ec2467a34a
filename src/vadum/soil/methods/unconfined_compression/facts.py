"""What a core and its series come to, worked out once."""

from typing import NamedTuple

from vadum.soil.contract.called import Called, Pace
from vadum.soil.contract.compare import at_least
from vadum.soil.contract.fields import known
from vadum.soil.methods.unconfined_compression.core import (
    Core,
    Peak,
    Point,
    called_mm,
    core_of,
    peak_of,
    points_of,
    strain_at_stress,
    toe_strain,
)
from vadum.soil.methods.unconfined_compression.record import Record
from vadum.soil.methods.unconfined_compression.school import UnconfinedSchool
from vadum.soil.shared.force_reading import force_known
from vadum.soil.shared.phases import dry_density_mg_m3, saturation_percent
from vadum.soil.shared.series_of_readings import taken_by_travel
from vadum.soil.shared.water_by_tin import Masses, masses_of

READ_MM = 0.01  # a travel gauge is read to so much: the last call may be typed a hair short of the stop strain


class State(NamedTuple):
    """What the core is made of: bulk density, water content, dry density, saturation; each None while not known."""

    density_mg_m3: float | None
    water_percent: float | None
    dry_mg_m3: float | None
    saturation_percent: float | None


class Facts(NamedTuple):
    """The core, its state, the points of the curve, its peak, the strain at half of it, the toe; rate and time."""

    record: Record
    core: Core | None
    tin: Masses | None
    state: State
    points: tuple[Point, ...]
    peak: Peak | None
    half_strain: float | None
    toe_strain: float | None
    rate_percent_min: float | None
    failure_min: float | None
    over: bool
    called: Called | None

    @property
    def last_strain(self) -> float:
        """How far the series has come, a ratio."""
        return self.points[-1].strain if self.points else 0.0

    @property
    def fell_percent(self) -> float:
        """How far the stress has fallen behind its peak, percent of it."""
        if not self.peak or not self.points or self.peak.stress_kpa <= 0:
            return 0.0
        return 100 * (1 - self.points[-1].stress_kpa / self.peak.stress_kpa)


def _state(record: Record, core: Core | None, tin: Masses | None) -> State:
    mass = record.mass_g
    density = mass / core.volume_cm3 if core and known(mass) else None
    water = tin.water_percent if tin else None
    dry = dry_density_mg_m3(density, water) if density is not None and water is not None else None
    particle = record.particle_density_mg_m3
    full = None
    if dry is not None and water is not None and known(particle) and particle > dry:
        full = saturation_percent(water, dry, particle)
    return State(density, water, dry, full)


def _rate(record: Record, core: Core | None, points: tuple[Point, ...]) -> float | None:
    """The rate, percent of the height a minute: by the series' own times where it has them, else as set."""
    timed = [p for p in points if p.elapsed_s is not None]
    if len(timed) > 1 and (timed[-1].elapsed_s or 0) > (timed[0].elapsed_s or 0):
        seconds = (timed[-1].elapsed_s or 0) - (timed[0].elapsed_s or 0)
        return 100 * 60 * (timed[-1].strain - timed[0].strain) / seconds
    return 100 * record.rate_mm_min / core.height_mm if core and known(record.rate_mm_min) else None


def _failure_min(peak: Peak | None, rate: float | None, points: tuple[Point, ...]) -> float | None:
    if peak is None:
        return None
    if peak.elapsed_s is not None and points[0].elapsed_s is not None:
        return (peak.elapsed_s - points[0].elapsed_s) / 60
    return 100 * peak.strain / rate if rate else None


def _called(record: Record, core: Core, school: UnconfinedSchool, points: tuple[Point, ...], over: bool) -> Called:
    at = called_mm(core.height_mm, school)
    counting = {p.row: p for p in points}

    def travel(i: int) -> float | None:
        return counting[i].strain * core.height_mm if i in counting else None

    def shows(i: int) -> str:
        return f"{counting[i].stress_kpa:.1f}" if i in counting else ""

    rate = record.rate_mm_min
    low, high = (s / 100 * core.height_mm for s in (school.least_rate_percent_min, school.most_rate_percent_min))
    return Called(
        key="readings",
        words=f"core {record.specimen}" if record.specimen else "core",
        by="travel",
        unit="mm",
        at=at,
        reads=("force_n",) if record.load_by != "proving ring" else ("ring_div",),
        pace=Pace(rate if known(rate) and rate > 0 else (low + high) / 2, low, high),
        over=over,
        taken=taken_by_travel(record.readings, len(at), travel, shows),
        rows=len(record.readings),
        channels={"force": "force_n", "ring": "ring_div"},
        travel_channels=("travel", "penetration"),
        travel_field="deformation_mm",
        writes_travel=True,
        time_field="elapsed_s",
        moment_field="read_at",
        missed_field="missed",
        note_field="noted",
        notes=("gauge stuck", "slipped"),
        stop_field="stopped",
        stops=("past the peak", "at the stop strain", "called off"),
        shows="stress, kPa",
    )


def facts(record: Record, school: UnconfinedSchool) -> Facts:
    """The facts of a record under a school."""
    core, tin = core_of(record), masses_of(record)
    at = called_mm(core.height_mm, school) if core else ()
    points = points_of(record, core, at) if core else ()
    stop = school.stop_strain_percent / 100
    peak = peak_of(points, stop) if len(points) > 1 else None
    good = peak is not None and peak.stress_kpa > 0
    rate = _rate(record, core, points)
    over = record.stopped is not None or (
        core is not None
        and bool(points)
        and at_least(points[-1].strain * core.height_mm + READ_MM, stop * core.height_mm)
    )
    return Facts(
        record=record,
        core=core,
        tin=tin,
        state=_state(record, core, tin),
        points=points,
        peak=peak,
        half_strain=strain_at_stress(points, peak.stress_kpa / 2) if peak and good else None,
        toe_strain=toe_strain(points, peak) if peak and good and school.toe_correction else None,
        rate_percent_min=rate,
        failure_min=_failure_min(peak, rate, points),
        over=over,
        called=_called(record, core, school, points, over) if core and force_known(record) else None,
    )
