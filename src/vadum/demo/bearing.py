"""The demo's bearing ratios: a finished mould, one in the water, one under the plunger, and two spots of the apron."""

import random
from datetime import datetime, timedelta
from typing import Any

from vadum.demo.builder import Builder
from vadum.soil.shared.apparatus import CALIBRATIONS
from vadum.soil.shared.bearing.school import QUARTERS
from vadum.soil.shared.load_curve import LoadCurve, load_curve_of
from vadum.soil.shared.proving_ring import Ring, divisions_of, table_of
from vadum.tape import kit, signatures
from vadum.tape.kit import NewItem
from vadum.tape.tables import Run

TABLE = "0 0; 200 2.50; 400 5.02; 800 10.11; 1200 15.26; 1600 20.47; 2000 25.76"
KIT: tuple[tuple[str, str, str, dict[str, Any], int], ...] = (
    ("proving_ring", "R3", "28 kN, in the frame", {"ring_factor_n_div": 12.6, "ring_most_div": 2200}, 120),
    ("proving_ring", "R5", "25 kN, by its table", {"ring_table": TABLE}, 200),
    ("gauge", "G1", "25 mm, in the frame", {"gauge_division_mm": 0.01, "gauge_travel_mm": 25}, 120),
    ("gauge", "G4", "25 mm, on the datum beam", {"gauge_division_mm": 0.01, "gauge_travel_mm": 25}, 340),
    ("plunger", "PL1", "steel, 50 mm", {"plunger_diameter_mm": 49.64}, 90),
    ("surcharge", "D2", "two discs", {"surcharge_kg": 4.0}, 90),
    (
        "mould",
        "C6",
        "bearing ratio, with collar",
        {"mould_mass_g": 8120, "mould_volume_cm3": 2305, "specimen_height_mm": 127},
        80,
    ),
    (
        "mould",
        "C8",
        "bearing ratio, with collar",
        {"mould_mass_g": 8094, "mould_volume_cm3": 2303, "specimen_height_mm": 127},
        80,
    ),
    (
        "mould",
        "C9",
        "bearing ratio, with collar",
        {"mould_mass_g": 8133, "mould_volume_cm3": 2304, "specimen_height_mm": 127},
        80,
    ),
)
# Simulated: they start by themselves when they are first listened to. The frame stands where the bottom end that is
# under the plunger has come to, in the same ground, and can take that push over.
INSTRUMENTS = (
    (
        "FR-1",
        "load frame, simulated",
        "simulated://frame?percent=48&bend_mm=2.7&seated_div=20&start_mm=3.0&seed=4",
        "frame",
    ),
    (
        "PR-1",
        "small press, simulated",
        "simulated://press?a_kn_mm=0.022&bend_mm=2.4&power=2.2&peak_mm=4.4&left_ratio=0.7&seated_div=0&end_mm=14&seed=5",
        "press",
    ),
    (
        "BX-1",
        "shear frame, simulated",
        "simulated://shear?a_kn_mm=0.22&bend_mm=1.4&power=2&peak_mm=2.4&left_ratio=0.87&rate_mm_min=0.25&start_mm=4.1&seed=6",
        "shear",
    ),
    (
        "PC-2",
        "triaxial set of cell 2, simulated",
        "simulated://cell?deviator_kpa=175&failure_ratio=0.09&a_ratio=0.42&cell_kpa=540&back_kpa=340&rate_mm_min=0.05",
        "cell",
    ),
    ("TQ-1", "torque gauge, simulated", "simulated://torque?torque_n_m=29&remoulded_n_m=7", "torque"),
    ("BL-1", "balance by the window, simulated", "simulated://balance?mass_g=168.92", "balance"),
    ("LV-1", "level sensor, simulated", "simulated://level?level_mm=300", "level"),
    (
        "JK-1",
        "jack on a plate, simulated",
        "simulated://plate?gauges=3&noise=0.05&seed=6&speed=10&area_mm2=70686",
        "plate",
    ),
)
R3, R5 = Ring((), 12.6, 2200), Ring(table_of(TABLE), None, None)


def bearing_kit(b: Builder) -> None:
    """Rings, gauges, plunger, discs and moulds with their calibrations."""
    for kind, code, title, seen, days in KIT:
        new = {"kind": kind, "code": code, "title": title, "interval_days": 365}
        item = kit.add_item(b.session, NewItem.model_validate(new))
        kit.add_calibration(b.session, item, CALIBRATIONS[kind].model_validate(seen), "TO", b.ago(days=days))


def instruments(b: Builder) -> None:
    """The simulated instruments, registered as real ones are."""
    for code, title, address, profile in INSTRUMENTS:
        item = kit.add_item(b.session, NewItem(kind="instrument", code=code, title=title))
        read = CALIBRATIONS["instrument"].model_validate({"address": address, "profile": profile})
        kit.add_calibration(b.session, item, read, "TO", b.ago(days=30))


def _push(
    b: Builder,
    run: Run,
    path: str,
    ground: LoadCurve,
    ring: Ring,
    seated: float,
    start: datetime,
    upto: int = 31,
    gone: tuple[int, ...] = (),
    most_kn: float = 99.0,
) -> None:
    """Called readings at a steady hand's pace."""
    dice = random.Random(len(run.code) + upto)
    for i, at_mm in enumerate(QUARTERS[:upto]):
        at = start + timedelta(seconds=15 * i + (dice.uniform(-0.7, 0.7) if i else 0))
        if i in gone:
            b.read(run, at, [(f"{path}[{i}].missed", "missed")])
            continue
        divisions = seated + divisions_of(ring, min(ground.force_kn(at_mm), most_kn))
        b.read(run, at, [(f"{path}[{i}].ring_div", f"{round(2 * divisions) / 2:g}")])


def _mould(b: Builder, sample: str, mould: str, at: datetime, mass: float, soaked: bool, tin: str) -> Run:
    """Compacted, weighed, a tin of the trimmings, and set to soak."""
    run = b.start(sample, "cbr", "bs_light", at)
    b.steps(run, ("mould", "soil", "compact", "soak", "top", "bottom", "dry"), at)
    _, wet, dry = b.tin(tin, 7.6, 118.0)
    values: list[tuple[str, Any]] = [
        ("balance", "B2"),
        ("mould", mould),
        ("maximum_dry_density_mg_m3", "2.06"),
        ("optimum_water_percent", "7.4"),
        ("target_percent", "95"),
        ("oversize_percent", "9"),
        ("oversize_replaced", "left out"),
        ("mass_portion_g", "6000"),
        ("portion_water_percent", "3.1"),
        ("water_added_ml", "255"),
        ("mass_with_soil_g", f"{mass:.0f}"),
        ("tins[0].tin", tin),
        ("tins[0].mass_wet_g", wet),
        ("condition", "soaked" if soaked else "unsoaked"),
        ("surcharge", "D2"),
    ]
    b.read(run, at, values)
    if soaked:
        into = at + timedelta(minutes=40)
        b.read(run, into, [("swell_zero_mm", "1.00"), ("soak_started_at", into.isoformat(timespec="minutes"))])
    if b.now - at > timedelta(hours=20):
        b.read(run, at + timedelta(hours=19), [("tins[0].mass_dry_g", dry)])
    return run


def _swell(b: Builder, run: Run, start: datetime, readings: tuple[str, ...]) -> None:
    for day, reading in enumerate(readings, 1):
        b.read(run, start + timedelta(days=day, minutes=6 * day), [(f"swell[{day - 1}].gauge_mm", reading)])


def _frame(b: Builder, run: Run, at: datetime, expected: str) -> None:
    b.read(run, at, [("proving_ring", "R3"), ("gauge", "G1"), ("plunger", "PL1"), ("expected_percent", expected)])


def _moulds(b: Builder) -> None:
    top, bottom = load_curve_of(51, 13.2, 2.5, 2.6, 0.16), load_curve_of(48, 13.2, 2.5, 2.7, 0.0)
    # Finished and signed: base gravel, soaked, both ends.
    began = b.ago(days=6, hours=3)
    run = _mould(b, "TP1 B1", "C8", began, 13050, True, "5")
    _swell(b, run, began + timedelta(minutes=40), ("1.06", "1.09", "1.11", "1.11"))
    out = began + timedelta(days=4, hours=1, minutes=5)
    b.read(run, out, [("soak_ended_at", out.isoformat(timespec="minutes"))])
    _frame(b, run, out + timedelta(minutes=20), "45")
    b.read(run, out + timedelta(minutes=25), [("top_seating_n", "250"), ("top_seated_div", "20")])
    _push(b, run, "top", top, R3, 20, out + timedelta(minutes=28))
    b.read(run, out + timedelta(minutes=42), [("bottom_seating_n", "250"), ("bottom_seated_div", "20")])
    _push(b, run, "bottom", bottom, R3, 20, out + timedelta(minutes=45), gone=(22,))
    tins = [(tin, *b.tin(tin, end, 124.0)[1:]) for tin, end in (("6", 8.4), ("8", 8.1))]
    for i, (tin, wet, _) in enumerate(tins, 1):
        b.read(run, out + timedelta(minutes=56 + i), [(f"tins[{i}].tin", tin), (f"tins[{i}].mass_wet_g", wet)])
    for i, (_, _, dry) in enumerate(tins, 1):
        b.read(run, out + timedelta(hours=19, minutes=i), [(f"tins[{i}].mass_dry_g", dry)])
    signatures.sign(b.session, run, b.people["IM"], out + timedelta(hours=20), signatures.tape_end(b.session, run))

    # In the water: the third day's swell falls due this afternoon.
    began = b.ago(days=2, hours=21, minutes=30)
    run = _mould(b, "F3 B1", "C9", began, 12790, True, "10")
    _swell(b, run, began + timedelta(minutes=40), ("1.42", "1.71"))

    # Under the plunger: the top is done, the bottom stands at its thirteenth call.
    began = b.ago(hours=2)
    run = _mould(b, "TP1 B1", "C6", began, 13082, False, "37")
    _frame(b, run, b.ago(minutes=30), "45")
    b.read(run, b.ago(minutes=28), [("top_seating_n", "250"), ("top_seated_div", "20")])
    _push(b, run, "top", top, R3, 20, b.ago(minutes=26))
    b.read(run, b.ago(minutes=8), [("bottom_seating_n", "250"), ("bottom_seated_div", "20")])
    _push(b, run, "bottom", bottom, R3, 20, b.ago(minutes=6), upto=13, gone=(4,))


def _spot(b: Builder, sample: str, at: datetime, expected: str, axle: str) -> Run:
    run = b.start(sample, "field_cbr", "bs_in_place", at)
    b.steps(run, ("yard", "raise", "set_up", "wind", "strip"), at)
    b.read(
        run,
        at,
        [
            ("expected_percent", expected),
            ("axle_kn", axle),
            ("wanted_mm", "5"),
            ("vehicle", "tipper, half loaded"),
            ("proving_ring", "R5"),
            ("gauge", "G4"),
            ("plunger", "PL1"),
            ("springs", "raised clear"),
            ("stands", "bear"),
            ("surcharge", "D2"),
            ("datum_legs_mm", "1400"),
            ("depth_m", "0.3"),
        ],
    )
    return run


def _spots(b: Builder) -> None:
    began = b.ago(days=1, hours=2)
    run = _spot(b, "TP1 B1", began, "35", "9.5")
    b.read(run, began + timedelta(minutes=20), [("seating_n", "250"), ("seated_div", "20"), ("vehicle_zero_mm", "0")])
    _push(
        b, run, "readings", load_curve_of(44, 13.2, 2.5, 3.4, 0.0), R5, 20, began + timedelta(minutes=22), 19, (), 7.35
    )
    b.read(
        run,
        began + timedelta(minutes=30),
        [("readings[18].vehicle_mm", "1.8"), ("stopped", "reaction lifted"), ("ring_after_div", "0")],
    )
    run = _spot(b, "F3 B1", b.ago(minutes=25), "6", "9.5")
    b.read(run, b.ago(minutes=10), [("seating_n", "50"), ("seated_div", "4"), ("vehicle_zero_mm", "0")])
    _push(b, run, "readings", load_curve_of(6.4, 13.2, 2.5, 2.6, 0.3), R5, 4, b.ago(minutes=5), upto=9)


def bearing(b: Builder) -> None:
    """All of them."""
    bearing_kit(b)
    instruments(b)
    _moulds(b)
    _spots(b)
