"""The demo's plates: three on the bus apron, one short of the job's ratio, one on its fourth rung; the pylon's, too."""

from datetime import datetime, timedelta

from vadum.demo.builder import Builder
from vadum.soil.methods.plate_modulus.school import SCHOOLS
from vadum.soil.shared.plate import load as loads
from vadum.soil.shared.plate.ground import Ground, held_readings, rest_times
from vadum.tape import kit, signatures
from vadum.tape.kit import NewItem
from vadum.tape.tables import Run

KIT = (
    (
        "plate",
        "P3",
        "300 mm, with its ball seat",
        {"plate_shape": "round", "plate_width_mm": 300, "plate_thickness_mm": 25},
    ),
    ("plate", "P6", "600 mm, two men", {"plate_shape": "round", "plate_width_mm": 600, "plate_thickness_mm": 25}),
    ("plate", "P4", "450 mm", {"plate_shape": "round", "plate_width_mm": 450, "plate_thickness_mm": 25}),
    ("jack", "J2", "200 kN, hand pump", {"piston_cm2": 20, "jack_most_bar": 700}),
)
AREA_MM2, PISTON_CM2 = loads.area_mm2(300.0, False), 20.0
FIRM = Ground(3.9, 1.6, 0.55, 2.02, 0.06, 0.5)
LOOSE = Ground(5.9, 3.0, 0.62, 2.25, 0.09, 0.5)
NOW = Ground(4.1, 1.1, 0.55, 2.0, 0.19, 0.5, tilts_ratio=0.035)
LAKE = Ground(21.0, 12.0, 0.8, 0.0, 0.5, 0.3, 0.03, 0.24, 90.0)
FIRST = (0.07, 0.14, 0.21, 0.28, 0.35, 0.42, 0.50)
DOWN = (0.25, 0.125, 0.01)


def _begun(b: Builder, sample: str, chainage: str, at: datetime, gauges: str) -> Run:
    run = b.start(sample, "plate_modulus", "din_rest", at)
    b.steps(run, ("reaction", "plate", "preload", "first"), at)
    values = [
        ("place", "bus apron, frost blanket"),
        ("layer", "frost blanket"),
        ("chainage_m", chainage),
        ("least_ev2_mn_m2", "100"),
        ("most_ev_ratio", "2.5"),
        ("reaction", "wheeled loader, 12 t"),
        ("reaction_kn", "62"),
        ("supports_mm", "920"),
        ("datum_legs_mm", "1550"),
        ("ground", "gravel"),
        ("largest_grain_mm", "32"),
        ("crust_removed", "yes"),
        ("levelling", "dry sand"),
        ("frozen", "no"),
        ("tilt_degrees", "1"),
        ("plate", "P3"),
        ("jack", "J2"),
        ("force_by", "pump gauge"),
        ("gauges_count", gauges),
        ("zeroed", "set to zero"),
    ]
    b.read(run, at, values if gauges == "1" else [*values, ("gauge_circle_mm", "260")])
    return run


def _step(
    b: Builder,
    run: Run,
    row: int,
    sigma: float,
    sinks: float,
    creep: float,
    at: datetime,
    gauges: int,
    times: list[float],
    tilts: float = 0.0,
) -> datetime:
    """One rung: pumped to, and read at its times; when the last was read."""
    bar = loads.pump_for_bar(loads.load_for_kn(1000 * sigma, AREA_MM2), PISTON_CM2)
    b.read(run, at, [(f"steps[{row}].pump_bar", f"{bar:.1f}")])
    for reading, t in zip(held_readings(sinks, creep, times, gauges, tilts, b.dice), times, strict=True):
        value = {k: f"{v:.2f}" for k, v in reading.model_dump(exclude_none=True).items() if k != "elapsed_min"}
        b.read(run, at + timedelta(minutes=t), [(f"steps[{row}].readings[]", value)])
    return at + timedelta(minutes=times[-1])


def _tested(b: Builder, sample: str, chainage: str, ground: Ground, at: datetime) -> Run:
    """A whole test with one gauge."""
    school = SCHOOLS["din_rest"]
    run = _begun(b, sample, chainage, at, "1")
    now = _step(b, run, 0, 0.01, 0.0, 0.0, at + timedelta(minutes=12), 1, [0.5])
    row = 1
    for sigma in FIRST:
        creep = ground.creeps_mm(sigma)
        times = rest_times(creep, school.rest_mm_min or 0.02, school.read_min, 1.0)
        now = _step(b, run, row, sigma, ground.first_mm(sigma), creep, now + timedelta(minutes=1), 1, times)
        row += 1
    for sigma in DOWN:
        now = _step(b, run, row, sigma, ground.back_mm(sigma, 0.5), 0.0, now + timedelta(minutes=1), 1, [1.0, 2.0])
        row += 1
    for sigma in FIRST[:-1]:
        sinks = ground.again_at_mm(sigma, 0.01, 0.5)
        now = _step(b, run, row, sigma, sinks, 0.01, now + timedelta(minutes=1), 1, [1.0, 2.0])
        row += 1
    b.read(run, now + timedelta(minutes=3), [("dry_density_beside_mg_m3", "2.14"), ("soil_state", "as received")])
    return run


def _pylon(b: Builder) -> None:
    """The pylon's plate on lake clay, at its fourth step now: four gauges, held to 0.02 mm/min."""
    at = b.ago(hours=3)
    run = b.start("TP4 T1", "plate_bearing", "is1888", at)
    b.steps(run, ("reaction", "ground", "plate", "preload", "first"), at)
    values = [
        ("place", "pylon footing, pit floor"),
        ("layer", "lake clay"),
        ("pit_width_m", "2.4"),
        ("depth_m", "1.6"),
        ("expected_ultimate_kpa", "300"),
        ("design_kpa", "90"),
        ("reaction", "kentledge platform"),
        ("reaction_kn", "62"),
        ("supports_mm", "2600"),
        ("datum_legs_mm", "2550"),
        ("ground", "clay"),
        ("largest_grain_mm", "2"),
        ("behaves_as", "clay"),
        ("water_depth_m", "0.9"),
        ("layer_below_m", "3.5"),
        ("datum_before_c", "9"),
        ("plate", "P4"),
        ("jack", "J2"),
        ("force_by", "pump gauge"),
        ("gauges_count", "4"),
        ("gauge_circle_mm", "380"),
        ("zeroed", "set to zero"),
        ("footing_width_m", "1.6"),
    ]
    b.read(run, at, values)
    now = b.ago(minutes=132)
    area = loads.area_mm2(450.0, False)
    for row, (kpa, minutes) in enumerate(((7.0, 0.5), (45.0, 25.0), (90.0, 25.0), (135.0, 40.0), (180.0, 9.0))):
        times = [t for t in (1.0, 2.25, 4.0, 6.25, 9.0, 16.0, 25.0, 40.0) if t <= minutes] or [0.5]
        bar = loads.pump_for_bar(loads.load_for_kn(kpa, area), PISTON_CM2)
        began = now if row < 4 else b.ago(minutes=11)
        b.read(run, began, [(f"steps[{row}].pump_bar", f"{bar:.1f}")])
        sinks = 0.0 if row == 0 else LAKE.first_mm(kpa / 1000)
        for reading, t in zip(held_readings(sinks, 0.5 * kpa / 180, times, 4, 0.03, b.dice), times, strict=True):
            value = {k: f"{v:.2f}" for k, v in reading.model_dump(exclude_none=True).items() if k != "elapsed_min"}
            b.read(run, began + timedelta(minutes=t), [(f"steps[{row}].readings[]", value)])
        now = began + timedelta(minutes=minutes + 1)


def plates(b: Builder) -> None:
    """All of them."""
    for kind, code, title, data in KIT:
        item = kit.add_item(b.session, NewItem(kind=kind, code=code, title=title, interval_days=365))
        kit.add_event(b.session, item, "calibration", data, "TO", b.ago(days=80))
    began = b.ago(days=1, hours=4)
    run = _tested(b, "A1 B1", "12", FIRM, began)
    signatures.sign(b.session, run, b.people["IM"], b.ago(days=1, hours=1), signatures.tape_end(b.session, run))
    _tested(b, "A2 B1", "31", LOOSE, b.ago(days=1))
    # On its fourth rung now, with three gauges.
    at = b.ago(minutes=58)
    run = _begun(b, "A3 B1", "48", at, "3")
    now = _step(b, run, 0, 0.01, 0.0, 0.0, b.ago(minutes=26), 3, [0.5], NOW.tilts_ratio)
    for row, (sigma, minutes) in enumerate(zip(FIRST[:3], (3.0, 4.0, 5.0), strict=True), start=1):
        times = [float(i) for i in range(1, int(minutes) + 1)]
        creep = 0.02 * 2.3 * minutes * 0.45
        now = _step(
            b, run, row, sigma, NOW.first_mm(sigma), creep, now + timedelta(minutes=1), 3, times, NOW.tilts_ratio
        )
    _pylon(b)
    _step(b, run, 4, FIRST[3], 1.21, 0.28, b.ago(minutes=4), 3, [1.0, 2.0, 3.0], NOW.tilts_ratio)
