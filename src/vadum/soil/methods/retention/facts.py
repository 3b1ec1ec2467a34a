"""What rings on their plates come to, worked out once: which step each weighing belongs to, what has settled, the water
at mid-height, the curves."""

import math
from datetime import datetime
from functools import lru_cache
from typing import NamedTuple

from vadum.soil.contract import paths
from vadum.soil.contract.called import Called, Taken, at_pace
from vadum.soil.contract.compare import at_most
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import error_of_mean
from vadum.soil.contract.times import minutes_between
from vadum.soil.methods.retention.curve import Bounds, Fitted, fit
from vadum.soil.methods.retention.record import Cell, Record, Step, Weighing
from vadum.soil.methods.retention.school import RetentionSchool
from vadum.soil.shared.pressure_units import KPA_PER_CM, in_cm, in_kpa

DAY_MIN = 1440.0


class Pressure(NamedTuple):
    """A step of the run: applied in kPa and as it was read, or the length of a hanging column in cm."""

    row: int
    kpa: float
    column_cm: float
    words: str


class Weighed(NamedTuple):
    """A weighing with the step it belongs to, None while saturated; the change a day since the one before in its step,
    g, negative where it lost; the core's volume then in cm³ where it was measured anew."""

    row: int
    weighing: Weighing
    step: int
    mass_g: float
    at: datetime | None
    change_g_day: float | None
    volume_cm3: float | None


class Held(NamedTuple):
    """What a cell holds at a step: the water in g and as shares of the present and of the first volume, and of the dry
    mass; suction at mid-height in cm. `settled`: its last days changed little enough; `step` None: saturated."""

    cell: int
    step: int | None
    mass_g: float
    suction_cm: float
    at_mid_height: bool
    water_g: float | None
    theta: float | None
    theta_first: float | None
    w_percent: float | None
    settled: bool


class One(NamedTuple):
    """A cell as it stands: the step it is on, its weighings, what it holds at each step, the days that settled so far,
    whether it may go on, and the day's change. `dry_g` is about until the oven tells."""

    row: int
    cell: Cell
    name: str
    volume_cm3: float | None
    tare_g: float | None
    dry_g: float | None
    weighed: tuple[Weighed, ...]
    held: tuple[Held, ...]
    step: int
    quiet_days: int
    may_go_on: bool
    change_g: float | None
    over: bool

    @property
    def counts(self) -> bool:
        """Whether it is not left out."""
        return not self.cell.excluded_because

    @property
    def now(self) -> Held | None:
        """What it holds at the step it is on."""
        return self.held[-1] if self.held else None


class Facts(NamedTuple):
    """A retention curve as it stands. `fitted` by van Genuchten, `other` by Brooks and Corey; `loose` with its residual
    at the other end of what it may be, where it is fixed; `points` what the fits go through, `typed` those of another
    instrument (suction, share, by what); `between_cells` the standard error of their mean by how far whole cells lie
    off the curve, a share of the volume."""

    record: Record
    pressures: tuple[Pressure, ...]
    ones: tuple[One, ...]
    points: tuple[tuple[float, float], ...]
    typed: tuple[tuple[float, float, str], ...]
    porosity: float | None
    particle_said: bool
    dry_density: float | None
    fitted: Fitted | None
    between_cells: float
    other: Fitted | None
    loose: Fitted | None
    reached_kpa: float
    calls: tuple[Called, ...]

    @property
    def over(self) -> bool:
        """Whether every cell went through every step."""
        counted = [o for o in self.ones if o.counts]
        return bool(counted) and all(o.over for o in counted)


def pressure_of(row: int, step: Step) -> Pressure | None:
    """A step in kPa; None while it or its unit is not said."""
    column = step.column_mm / 10 if known(step.column_mm) else 0.0
    if not known(step.pressure_as_read) or step.pressure_unit is None:
        return Pressure(row, 0.0, column, f"{column:g} cm column") if column else None
    value, unit = step.pressure_as_read, step.pressure_unit
    if unit == "pF" and value > 12:
        return None
    kpa = in_kpa(value, unit)
    read = f"{value:g} {unit}"
    words = read if unit == "kPa" else f"{read} = {kpa:.4g} kPa"
    return Pressure(row, kpa, column, words)


def suction_of(cell: Cell, pressure: Pressure | None) -> tuple[float, bool]:
    """Suction at the core's mid-height.

    Parameters: a cell, its core's height and its outlet in mm; the pressure applied, None for none.
    Returns: cm of water, and whether it is that; as applied where the heights are not known.
    Source: `h = p / (rho_w g) + z_mid - z_out`, heights upwards from the plate's face.
    """
    applied = in_cm(pressure.kpa) + pressure.column_cm if pressure is not None else 0.0
    if not known(cell.core_height_mm) or not known(cell.outlet_below_mm):
        return applied, False
    return applied + cell.core_height_mm / 20 + cell.outlet_below_mm / 10, True


def volume_cm3(diameter_mm: float | None, height_mm: float | None) -> float | None:
    """The volume of a round core.

    Parameters: mm.
    Returns: cm³; None while not measured.
    Source: geometry.
    """
    if not known(diameter_mm) or not known(height_mm) or diameter_mm <= 0 or height_mm <= 0:
        return None
    return math.pi / 4 * diameter_mm**2 * height_mm / 1000


def weighed_of(cell: Cell) -> tuple[Weighed, ...]:
    """The weighings in their steps: each *goes on* leads to the next step."""
    found: list[Weighed] = []
    step = 0
    for i, one in enumerate(cell.weighings):
        if known(one.mass_g) and not one.excluded_because:
            before = found[-1] if found and found[-1].step == step else None
            change = None
            if before is not None and before.at is not None and one.weighed_at is not None:
                days = minutes_between(before.at, one.weighed_at) / DAY_MIN
                change = (one.mass_g - before.mass_g) / days if days > 1e-3 else None
            across = one.present_diameter_mm if known(one.present_diameter_mm) else cell.ring_diameter_mm
            present = volume_cm3(across, one.present_height_mm) if known(one.present_height_mm) else None
            found.append(Weighed(i, one, step, one.mass_g, one.weighed_at, change, present))
        step += one.then == "goes on" and not one.excluded_because
    return tuple(found)


def quiet_days_of(weighed: list[Weighed], water_g: float | None, school: RetentionSchool) -> int:
    """How many of the last days of a step changed little enough, in a row."""
    most = school.settled_g
    if water_g is not None:
        most = max(most, school.settled_percent / 100 * water_g)
    days = 0
    for one in reversed(weighed):
        if one.change_g_day is None or not at_most(abs(one.change_g_day), most):
            break
        days += 1
    return days


def _held(
    row: int,
    cell: Cell,
    step: int | None,
    mass: float,
    pressure: Pressure | None,
    tare: float | None,
    dry_g: float | None,
    volumes: tuple[float | None, float | None],
    blank_g: float,
    settled: bool,
    school: RetentionSchool,
) -> Held:
    suction, mid = suction_of(cell, pressure)
    first, present = volumes
    water = theta = theta_first = w = None
    if tare is not None and dry_g is not None:
        water = mass - tare - dry_g - blank_g
        w = 100 * water / dry_g if dry_g > 0 else None
        if first:
            theta_first = water / (school.water_mg_m3 * first)
            theta = water / (school.water_mg_m3 * (present or first))
    return Held(row, step, mass, suction, mid, water, theta, theta_first, w, settled)


def dry_of(
    cell: Cell, tare_g: float | None, volume: float | None, particle_mg_m3: float, school: RetentionSchool
) -> float | None:
    """The dry mass of a ring: by the oven, or, until then, what makes its pores as full as they usually come.

    Parameters: tare in g and volume in cm³, None while not known; particle density in Mg/m³.
    Returns: g; None while nothing tells it.
    Source: `M_s - M_a = rho_s (1 - n) V + f rho_w n V` solved for the porosity n.
    """
    if known(cell.dry_g):
        return float(cell.dry_g)
    if tare_g is None or volume is None or not known(cell.saturated_g):
        return None
    filled = school.usual_filled_ratio * school.water_mg_m3
    porosity = (particle_mg_m3 - (cell.saturated_g - tare_g) / volume) / (particle_mg_m3 - filled)
    return particle_mg_m3 * (1 - porosity) * volume if 0 < porosity < 1 else None


def _one(row: int, cell: Cell, pressures: tuple[Pressure, ...], particle: float, school: RetentionSchool) -> One:
    weighed = weighed_of(cell)
    volume = volume_cm3(cell.ring_diameter_mm, cell.core_height_mm)
    tare = cell.apparatus_g + (cell.ring_g if known(cell.ring_g) else 0.0) if known(cell.apparatus_g) else None
    dry = dry_of(cell, tare, volume, particle, school)
    held: list[Held] = []
    if known(cell.saturated_g):
        held.append(_held(row, cell, None, cell.saturated_g, None, tare, dry, (volume, None), 0.0, True, school))
    step = sum(w.then == "goes on" and not w.excluded_because for w in cell.weighings)
    blank = 0.0
    present = None
    for k in range(len(pressures)):
        mine = [w for w in weighed if w.step == k]
        if not mine:
            continue
        blank = math.fsum(w.weighing.blank_plate_g for w in weighed if w.step <= k and known(w.weighing.blank_plate_g))
        present = next((w.volume_cm3 for w in reversed(mine) if w.volume_cm3), present)
        mass = mine[-1].mass_g
        rough = mass - tare - dry if tare is not None and dry is not None else None
        settled = quiet_days_of(mine, rough, school) >= school.settled_days
        held.append(_held(row, cell, k, mass, pressures[k], tare, dry, (volume, present), blank, settled, school))
    here = [w for w in weighed if w.step == step]
    last = here[-1] if here else None
    rough = last.mass_g - tare - dry if last and tare is not None and dry is not None else None
    quiet = quiet_days_of(here, rough, school)
    over = bool(pressures) and step >= len(pressures)
    name = cell.pressure_cell or f"cell {row + 1}"
    change = last.change_g_day if last else None
    return One(
        row,
        cell,
        name,
        volume,
        tare,
        dry,
        weighed,
        tuple(held),
        min(step, max(len(pressures) - 1, 0)),
        quiet,
        not over and quiet >= school.settled_days,
        change,
        over,
    )


@lru_cache(maxsize=128)
def curves_of(
    points: tuple[tuple[float, float], ...], school: RetentionSchool
) -> tuple[Fitted | None, Fitted | None, Fitted | None]:
    """The curves through settled points: van Genuchten, Brooks-Corey, and van Genuchten with the residual at the other
    end of what it may be. Kept, for every page of a run asks for the same."""
    if not points:
        return None, None, None
    h, w = [p[0] for p in points], [p[1] for p in points]
    bounds = Bounds(school.most_n, school.alpha_band_per_cm)
    free = max(h) >= in_cm(school.residual_free_from_kpa) * 0.98
    fixed = None if free else school.residual_percent / 100
    main = fit("van Genuchten", h, w, bounds, fixed)
    other = fit("Brooks-Corey", h, w, bounds, fixed)
    loose = None if free else fit("van Genuchten", h, w, bounds, 0.9 * min(w))
    return main, other, loose


def facts(record: Record, school: RetentionSchool) -> Facts:
    """The facts of a record under a school."""
    pressures = tuple(p for i, s in enumerate(record.steps) if (p := pressure_of(i, s)) is not None)
    said = known(record.particle_density_mg_m3)
    particle = float(record.particle_density_mg_m3 or 0) if said else school.usual_particle_mg_m3
    ones = tuple(_one(i, c, pressures, particle, school) for i, c in enumerate(record.cells))
    counted = [o for o in ones if o.counts]
    points = [(h.suction_cm, h.theta) for o in counted for h in o.held if h.settled and h.theta is not None]
    densities = [o.dry_g / o.volume_cm3 for o in counted if o.volume_cm3 and o.dry_g is not None]
    density = math.fsum(densities) / len(densities) if densities else None
    others: list[tuple[float, float, str]] = []
    for row in record.points:
        if not known(row.suction_as_read) or not known(row.water_percent) or row.excluded_because or density is None:
            continue
        typed = pressure_of(0, Step(pressure_as_read=row.suction_as_read, pressure_unit=row.suction_unit))
        if typed is not None:
            share = row.water_percent / 100 * density / school.water_mg_m3
            others.append((in_cm(typed.kpa), share, row.by or "typed"))
    points += [(suction, share) for suction, share, _ in others]
    porosity = 1 - density / particle if density is not None and particle > 0 else None
    main, other, loose = curves_of(tuple(points), school)
    reached = max((p[0] for p in points), default=0.0)
    calls = tuple(called_of(o, pressures, school) for o in counted)
    return Facts(
        record,
        pressures,
        ones,
        tuple(points),
        tuple(others),
        porosity,
        said,
        density,
        main,
        between_cells_of(counted, main),
        other,
        loose,
        reached * KPA_PER_CM,
        calls,
    )


def between_cells_of(ones: list[One], fitted: Fitted | None) -> float:
    """How well the mean of the cells is known: a cell that lies off the curve does so at every step.

    Parameters: the cells that count; the curve through all of them.
    Returns: the standard error of the cells' mean, a share of the volume; 0 below two cells.
    Source: scatter of each cell's mean distance from the curve.
    """
    if fitted is None:
        return 0.0
    means = []
    for one in ones:
        off = [h.theta - fitted.water(h.suction_cm) for h in one.held if h.settled and h.theta is not None]
        if off:
            means.append(math.fsum(off) / len(off))
    return error_of_mean(means) or 0.0


def called_of(one: One, pressures: tuple[Pressure, ...], school: RetentionSchool) -> Called:
    """A cell's weighing once a day at its hour, for as long as it stands on a line."""
    cell = one.cell
    began = cell.saturated_at
    every = school.weigh_every_h * 60
    taken = []
    if began is not None:
        for w in one.weighed:
            # Weighed within an hour before its time, it stands for that day.
            at = minutes_between(began, w.at) if w.at is not None else None
            day = None if at is None else max(at, round((at + school.same_day_min) / every - 0.5) * every)
            taken.append(Taken(w.row, day, w.at, shows=f"{w.change_g_day:+.2f} g/day" if w.change_g_day else ""))
    last = max((t.at or 0.0 for t in taken), default=0.0)
    many = max(2, math.floor(last / every + 1e-6) + 2)
    return Called(
        key=paths.at("cells", one.row, "weighings"),
        words=one.name,
        by="clock",
        unit="min",
        at=at_pace((every,), every, every * many),
        reads=("mass_g",),
        began_at=began,
        after_s=120,
        over=one.over,
        taken=tuple(taken),
        rows=len(cell.weighings),
        channels={"mass": "mass_g"},
        begin_field=paths.at("cells", one.row, "saturated_at"),
        ready=False,
        name=one.name,
        begins="weigh {} saturated",
        how="Tap shut, pressure let out, then the cell off its line.",
        does="weigh",
        drawn="cell",
        filled=filled_of(one),
        shows="change",
    )


def filled_of(one: One) -> float | None:
    """How much of its first water a cell still holds, as it is drawn; None before it was weighed."""
    if not one.held:
        return None
    first, now = one.held[0], one.held[-1]
    if first.water_g and now.water_g is not None:
        return max(0.0, min(1.0, now.water_g / first.water_g))
    return max(0.3, 1.0 - (first.mass_g - now.mass_g) / 40.0)
