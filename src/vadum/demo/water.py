"""The demo's water and lime: the meadow's cylinders draining now and its well of yesterday, its topsoil in the third
week on the plates, the wet fill's bottles to be shaken in two minutes."""

import math
from datetime import timedelta
from typing import Any

from vadum.demo.builder import Builder
from vadum.soil.methods.retention.curve import van_genuchten
from vadum.soil.methods.well_permeameter import well
from vadum.soil.shared.apparatus import CALIBRATIONS
from vadum.soil.shared.infiltration import Curve, Cylinder
from vadum.soil.shared.pressure_units import in_cm
from vadum.tape import kit, signatures
from vadum.tape.kit import NewItem

KIT: tuple[tuple[str, str, str, int, int | None, dict[str, Any]], ...] = (
    ("infiltrometer", "M1", "clear tube, 100 mm", 60, None, {"cylinder_radius_mm": 50, "guard_ml": 12}),
    ("infiltrometer", "M2", "clear tube, 100 mm", 60, None, {"cylinder_radius_mm": 50, "guard_ml": 12}),
    ("infiltrometer", "M3", "clear tube, 100 mm", 60, None, {"cylinder_radius_mm": 50, "guard_ml": 12}),
    (
        "reservoir",
        "W1",
        "two tubes on a tripod",
        90,
        730,
        {"both_area_cm2": 35.4, "inner_area_cm2": 2.16, "level_reads_to_mm": 0.5},
    ),
    (
        "rings",
        "DR1",
        "300 and 600 mm, steel",
        200,
        None,
        {"inner_diameter_mm": 300, "inner_outside_diameter_mm": 306, "outer_diameter_mm": 600},
    ),
    *(
        ("pressure_cell", str(n), "ceramic plate, 100 kPa", 120, 730, {"plate_entry_kpa": 100, "outlet_below_mm": 0})
        for n in range(1, 7)
    ),
    ("moisture_probe", "MP1", "pin probe, scale 0 to 10", 80, 365, {"probe_error_percent": 2.3}),
    ("ph_meter", "PH1", "slurry probe, gel", 1, 30, {"ph_slope_percent": 97.8}),
)
DATED = (
    ("buffer", "10.00 a", "10.00 at 25 °C", 9, 30, {"buffer_ph": 10.0}),
    ("buffer", "12.45 c", "saturated lime, 12.45 at 25 °C", 3, 14, {"buffer_ph": 12.45}),
    ("buffer", "12.00 b", "12.00 at 25 °C, as check", 21, 30, {"buffer_ph": 12.0}),
    (
        "lime",
        "L4",
        "hydrated lime, site's own",
        12,
        60,
        {"lime_kind": "hydrated lime", "available_cao_percent": 70.5, "label_cao_percent": 72},
    ),
)
LOAM = (0.0, 0.455, 0.021, 1.27)
STEPS = (1.5, 3.0, 10.0, 20.0, 35.0, 80.0)
ACROSS_MM, HIGH_MM, EMPTY_G, DRY_G = 55.0, 42.1, 412.35, 138.6


def _kit(b: Builder) -> None:
    for kind, code, title, days, interval, data in KIT:
        item = kit.add_item(b.session, NewItem(kind=kind, code=code, title=title, interval_days=interval))
        kit.add_calibration(b.session, item, CALIBRATIONS[kind].model_validate(data), "TO", b.ago(days=days))
    for kind, code, title, days, interval, data in DATED:
        item = kit.add_item(b.session, NewItem(kind=kind, code=code, title=title, interval_days=interval))
        opened = b.ago(days=days)
        seen = data | {f"{kind}_opened_on": opened.date()}
        kit.add_calibration(b.session, item, CALIBRATIONS[kind].model_validate(seen), "TO", opened)


def _levels(k_cm_s: float, suction_cm: float, leaks_cm: float, minutes: int) -> list[float]:
    """A level each minute, mm above the soil."""
    import numpy as np

    curve = Curve(Cylinder(5.0, 5.0, 0.29, 42.0), 0.0)
    times = curve.times_of_one(suction_cm) / k_cm_s
    found = []
    for minute in range(minutes + 1):
        level = float(np.interp(60.0 * minute, times, curve.levels))
        found.append(10 * (level - leaks_cm * (1 - math.exp(-minute / 4))))
    return found


def _cylinders(b: Builder) -> None:
    """Three of them draining now; M2 leaks round its base."""
    at = b.ago(minutes=52)
    run = b.start("M1 R1", "falling_head", "by_texture", at)
    b.steps(run, ("place", "cylinders"), at)
    b.read(
        run,
        at,
        [
            ("place", "meadow, 20 m above the ditch"),
            ("texture", "sandy loam"),
            ("cover", "grass, cut short"),
            ("frozen", "no"),
            ("cracks", "none seen"),
            ("rain", "dry for two days"),
            ("moisture_by", "scale of 0 to 10"),
            ("porosity_percent", "46.5"),
            ("cylinders_count", "3"),
            ("water_below_m", "1.6"),
        ],
    )
    for n, (name, minutes, k, leaks) in enumerate(
        (("M1", 26, 3.1e-3, 0.0), ("M2", 22, 3.4e-3, 10.0), ("M3", 18, 1.3e-3, 0.0))
    ):
        way = f"cylinders[{n}]."
        set_at = b.ago(minutes=minutes + 6)
        values = [
            ("infiltrometer", name),
            ("before_index", "3"),
            ("insertion_mm", "50"),
            ("zero_above_soil_mm", "0"),
            ("seal", "tight"),
            ("latitude_degrees", f"{46.51 + 0.00004 * n:.5f}"),
            ("longitude_degrees", f"{8.13 + 0.00006 * n:.5f}"),
            ("position_within_m", "4"),
            ("position_by", "the device"),
        ]
        b.read(run, set_at, [(way + field, value) for field, value in values])
        began = b.ago(minutes=minutes)
        b.read(run, began, [(f"{way}started_at", began.isoformat())])
        for minute, level in enumerate(_levels(k, 11.0, leaks, minutes)):
            if level < 3:
                break
            row = {"level_mm": f"{level + b.dice.gauss(0, 0.4):.0f}", "elapsed_s": f"{60 * minute}"}
            b.read(run, began + timedelta(minutes=minute), [(f"{way}readings[]", row)])


def _well(b: Builder) -> None:
    """Yesterday's well by two heads, signed."""
    at = b.ago(days=1, hours=2)
    run = b.start("M1 R1", "well_permeameter", "band_10", at)
    b.steps(run, ("place", "auger"), at)
    values = [
        ("place", "meadow, 24 m above the ditch"),
        ("ground", "structured or sandy loam"),
        ("water_below_m", "1.2"),
        ("layer_below_m", "2.0"),
        ("hole_radius_mm", "30"),
        ("radius_by", "sizing auger"),
        ("hole_depth_m", "0.45"),
        ("wall", "brushed"),
        ("reservoir", "W1"),
        ("plumb", "yes"),
        ("bubbling", "regular"),
        ("safety_ratio", "2.5"),
    ]
    b.read(run, at, values)
    for n, head_cm in enumerate((5.0, 10.0)):
        way = f"heads[{n}]."
        began = at + timedelta(minutes=15 + 40 * n)
        shape = well.shape_factor(head_cm, 3.0, 0.12)
        whole = 2 * math.pi * head_cm**2 + math.pi * 9.0 * shape + 2 * math.pi * head_cm / 0.12
        rate = 600 * 3.1e-4 * whole / shape / 35.4
        b.read(run, began, [(f"{way}head_mm", f"{10 * head_cm:g}"), (f"{way}reservoir_used", "both")])
        b.read(run, began + timedelta(minutes=1), [(f"{way}lifted_at", (began + timedelta(minutes=1)).isoformat())])
        for i in range(16):
            t = 2.0 * i
            level = 30 + rate * (t + 5 * (1 - math.exp(-t / 5))) + b.dice.gauss(0, 0.05)
            row = {"level_mm": f"{level:.1f}", "elapsed_min": f"{t:g}", "temperature_c": "11.5"}
            b.read(run, began + timedelta(minutes=1 + t), [(f"{way}readings[]", row)])
        b.read(run, began + timedelta(minutes=34), [(f"{way}steady", "taken as steady")])
    b.read(run, at + timedelta(minutes=92), [("enough", "two heads"), ("soil_state", "as received")])
    signed = at + timedelta(minutes=100)
    signatures.sign(b.session, run, b.people["IM"], signed, signatures.tape_end(b.session, run))


def _mass_g(cell: int, suction_cm: float) -> float:
    volume = math.pi / 4 * ACROSS_MM**2 * HIGH_MM / 1000
    return EMPTY_G + DRY_G + (van_genuchten(suction_cm, *LOAM) + 0.004 * (cell % 3 - 1)) * volume * 0.9982


def _retention(b: Builder) -> None:
    """Six rings in their third week; today's round is half done."""
    began = b.ago(days=18, minutes=35)
    run = b.start("M1 R1", "retention", "iso", began)
    b.steps(run, ("weighings",), began)
    values = [
        ("cells_count", "6"),
        ("texture", "loam"),
        ("particle_density_mg_m3", "2.63"),
        ("soaked_in", "0.01 M calcium chloride"),
        ("lids", "on"),
    ]
    b.read(run, began, values)
    middle = HIGH_MM / 20
    for n in range(6):
        way = f"cells[{n}]."
        sizes = [
            ("pressure_cell", str(n + 1)),
            ("apparatus_g", f"{EMPTY_G}"),
            ("ring_diameter_mm", f"{ACROSS_MM}"),
            ("core_height_mm", f"{HIGH_MM}"),
        ]
        b.read(run, began + timedelta(minutes=n), [(way + field, value) for field, value in sizes])
    for n in range(6):
        at = began + timedelta(minutes=10 + 3 * n)
        b.read(run, at, [(f"cells[{n}].saturated_g", f"{_mass_g(n, middle):.2f}")])
    cells = [_Cell(n, middle) for n in range(6)]
    for day in range(1, 19):
        for n, cell in enumerate(cells):
            at = began + timedelta(days=day, minutes=10 + 3 * n)
            if at <= b.now and not (day == 18 and n > 1):
                b.read(run, at, cell.day(b))


class _Cell:
    """One cell's weeks: slower ones need longer for a step; the second's lid is not tight."""

    def __init__(self, n: int, middle: float) -> None:
        self.n, self.middle = n, middle
        self.before, self.step, self.days, self.quiet, self.rows = _mass_g(n, middle), 0, 0, 0, 0
        self.last: float | None = None

    def day(self, b: Builder) -> list[tuple[str, str]]:
        """The day's weighing, and whether it goes on."""
        self.days += 1
        settled = _mass_g(self.n, in_cm(STEPS[self.step]) + self.middle)
        slow = (1.3, 1.5, 1.1, 1.4, 1.2, 1.6)[self.n]
        evaporates = 0.31 * self.days if self.n == 1 and self.step == 3 else 0.0
        mass = settled + (self.before - settled) * math.exp(-slow * self.days) - evaporates + b.dice.gauss(0, 0.01)
        way = f"cells[{self.n}].weighings[{self.rows}]."
        values = [(f"{way}mass_g", f"{mass:.2f}")]
        self.rows += 1
        self.quiet = self.quiet + 1 if self.last is not None and abs(mass - self.last) <= 0.1 else 0
        self.last = mass
        if self.quiet >= 2 and self.step < len(STEPS) - 1:
            values.append((f"{way}then", "goes on"))
            self.before, self.step, self.days, self.quiet, self.last = settled, self.step + 1, 0, 0, None
        return values


def _lime(b: Builder) -> None:
    """Six bottles some minutes after the water: shaken once, the next round in nearly three minutes."""
    at = b.ago(minutes=58)
    run = b.start("F3 B1", "lime_demand", "d6276", at)
    b.steps(run, ("lime", "hour"), at)
    values = [
        ("sulphate_known", "measured"),
        ("sulphate_mg_kg", "800"),
        ("drying", "air-dried"),
        ("prepared_g", "384"),
        ("water_percent", "4.2"),
        ("finer_0425_percent", "88"),
        ("plasticity_index_percent", "24.5"),
        ("untreated_ph", "7.6"),
        ("lime", "L4"),
    ]
    b.read(run, at, values)
    for row, (lime, soil) in enumerate(
        (
            ("2.003", ""),
            ("0.501", "26.05"),
            ("0.749", "26.04"),
            ("1.002", "26.06"),
            ("1.251", "26.05"),
            ("1.498", "26.04"),
        )
    ):
        pair = [("lime_g", lime)] if not soil else [("soil_g", soil), ("lime_g", lime)]
        b.read(run, b.ago(minutes=50 - 4 * row), [(f"bottles[{row}].{field}", value) for field, value in pair])
    water = b.ago(minutes=17, seconds=10)
    b.read(run, water, [("water_in_at", water.isoformat())])
    b.read(run, b.ago(minutes=7), [("shakes[0].shaken_at", b.ago(minutes=7).isoformat())])
    b.read(run, b.ago(minutes=6), [("bath_c", "24.8"), ("ph_meter", "PH1")])
    for row, (part, bottle, read) in enumerate(
        (("set to it", "10.00 a", ""), ("set to it", "12.45 c", ""), ("check", "12.00 b", "12.01"))
    ):
        way = f"buffers[{row}]."
        values = [(f"{way}part", part), (f"{way}buffer", bottle)]
        if read:
            values.append((f"{way}buffer_read_ph", read))
        b.read(run, b.ago(minutes=5 - row), values)


def water(b: Builder) -> None:
    """All of them."""
    _kit(b)
    _cylinders(b)
    _well(b)
    _retention(b)
    _lime(b)
