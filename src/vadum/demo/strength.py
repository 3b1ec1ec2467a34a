"""The demo's strengths: a core that is finished and one in the press, a profile of vane tests and one under way."""

import random
from datetime import datetime, timedelta
from typing import Any

from vadum.demo.builder import Builder
from vadum.soil.methods.unconfined_compression.core import called_mm
from vadum.soil.methods.unconfined_compression.school import SCHOOLS
from vadum.soil.shared.apparatus import CALIBRATIONS
from vadum.soil.shared.load_curve import LoadCurve
from vadum.tape import kit, signatures
from vadum.tape.kit import NewItem
from vadum.tape.tables import Run

KIT: tuple[tuple[str, str, str, dict[str, Any], int], ...] = (
    ("load_cell", "LC2", "500 N, in the small press", {"load_cell_most_n": 500}, 90),
    (
        "vane",
        "V1",
        "for soft clay",
        {"vane_diameter_mm": 65, "vane_height_mm": 130, "area_ratio_percent": 10.5, "torque_most_n_m": 100},
        150,
    ),
)
SOFT = LoadCurve(22.0 / 1000, 2.4, 2.2, 0.0, 4.4, 0.7)
FIRM = LoadCurve(46.0 / 1000, 2.1, 2.2, 0.0, 3.6, 0.6)
RATE_MM_MIN = 1.0
HEIGHT_MM = 76.2


def _kit(b: Builder) -> None:
    for kind, code, title, seen, days in KIT:
        new = {"kind": kind, "code": code, "title": title, "interval_days": 365}
        item = kit.add_item(b.session, NewItem.model_validate(new))
        kit.add_calibration(b.session, item, CALIBRATIONS[kind].model_validate(seen), "TO", b.ago(days=days))


def _core(b: Builder, sample: str, at: datetime, mass: str, depth: str) -> Run:
    """A core cut, measured and set into the press."""
    run = b.start(sample, "unconfined_compression", "d2166", at)
    b.steps(run, ("core", "frame", "compress", "dry"), at)
    values = [
        ("specimen", "a"),
        ("depth_m", depth),
        ("sample_type", "tube"),
        ("disturbance_class", "1"),
        ("orientation", "vertical"),
        ("preparation", "trimmed"),
        ("extruded_at", at.isoformat(timespec="minutes")),
        ("diameters_at", "top, middle, bottom"),
        ("diameter_top_mm", "38.0"),
        ("diameter_middle_mm", "38.2"),
        ("diameter_bottom_mm", "38.1"),
        ("height_1_mm", "76.2"),
        ("height_2_mm", "76.3"),
        ("height_3_mm", "76.1"),
        ("mass_g", mass),
        ("largest_particle_mm", "1"),
        ("ends_square", "yes"),
        ("balance", "B1"),
        ("load_by", "load cell"),
        ("load_cell", "LC2"),
        ("rate_mm_min", f"{RATE_MM_MIN:g}"),
    ]
    b.read(run, at, values)
    return run


def _series(b: Builder, run: Run, core: LoadCurve, start: datetime, upto_mm: float) -> None:
    """Readings at the called shortenings, by a steady hand."""
    dice = random.Random(len(run.code))
    for i, at_mm in enumerate(m for m in called_mm(HEIGHT_MM, SCHOOLS["d2166"]) if m <= upto_mm):
        moment = start + timedelta(minutes=at_mm / RATE_MM_MIN)
        force = max(0.0, 1000 * core.force_kn(at_mm) + (dice.gauss(0, 0.1) if at_mm else 0.0))
        row = {"deformation_mm": f"{at_mm:.3f}", "force_n": f"{force:.1f}"}
        b.read(run, moment, [(f"readings[{i}]", row)])


def _cores(b: Builder) -> None:
    began = b.ago(days=3, hours=2)
    run = _core(b, "TP4 T1", began, "160.42", "1.8")
    _series(b, run, SOFT, began + timedelta(minutes=20), 7.2)
    after = began + timedelta(minutes=32)
    _, wet, dry = b.tin("14", 34.6, 119.2)
    told = [
        ("stopped", "past the peak"),
        ("failure_mode", "one plane"),
        ("plane_degrees", "56"),
        ("fissures", "no"),
        ("stones", "no"),
        ("tin", "14"),
        ("mass_wet_g", wet),
        ("water_from", "specimen"),
        ("in_oven_at", (after + timedelta(minutes=4)).isoformat(timespec="minutes")),
    ]
    b.read(run, after, told)
    weighed = after + timedelta(hours=19)
    values = [("mass_dry_g", dry), ("particle_density_mg_m3", "2.69"), ("particle_density_from", "assumed")]
    b.read(run, weighed, values)
    b.steps(run, ("beside",), weighed)
    signed = weighed + timedelta(minutes=20)
    signatures.sign(b.session, run, b.people["IM"], signed, signatures.tape_end(b.session, run), "no limits known yet")

    # In the press now, a little past its peak.
    run = _core(b, "BH1 T2", b.ago(minutes=26), "162.91", "3.4")
    _series(b, run, FIRM, b.ago(minutes=6), 4.6)


def _profile(b: Builder, sample: str, at: datetime, first: str, last: str, water: str) -> Run:
    run = b.start(sample, "field_vane", "d2573", at)
    b.steps(run, ("site", "test"), at)
    values = [
        ("services_located", "yes"),
        ("placed", "pushed"),
        ("water_depth_m", water),
        ("vane", "V1"),
        ("read_by", "torque wrench"),
        ("coupling", "slip coupling"),
        ("first_m", first),
        ("step_m", "0.5"),
        ("last_m", last),
    ]
    b.read(run, at, values)
    return run


def _depth(b: Builder, run: Run, i: int, at: datetime, read: tuple[str, ...], noted: str = "") -> None:
    """A depth: greatest torque, minutes to it, rod friction, turns, remoulded; as far as it was read."""
    fields = ("peak_n_m", "peak_min", "friction_n_m", "turns_count", "remoulded_n_m")
    row = f"depths[{i}]."
    b.read(run, at, [(f"{row}pushed_at", at.isoformat(timespec="minutes"))])
    if noted:
        b.read(run, at + timedelta(minutes=2), [(f"{row}noted", noted)])
    values = [(f"{row}{field}", value) for field, value in zip(fields, read, strict=False)]
    b.read(run, at + timedelta(minutes=4), values)


def _profiles(b: Builder) -> None:
    began = b.ago(days=4, hours=5)
    run = _profile(b, "TP4 T1", began, "0.8", "2.8", "1.1")
    depths = (
        ("40.2", "2.9", "0.8", "10", "8.9"),
        ("28.4", "3.1", "1.0", "10", "7.2"),
        ("27.9", "3.4", "1.2", "10", "6.6"),
        ("31.0", "3.0", "1.5", "10", "7.4"),
        ("34.6", "3.3", "1.7", "10", "8.4"),
    )
    for i, read in enumerate(depths):
        _depth(b, run, i, began + timedelta(minutes=15 + 22 * i), read)
    done = began + timedelta(hours=3)
    b.read(run, done, [("unit_weight_kn_m3", "17.2")])
    signatures.sign(b.session, run, b.people["IM"], done, signatures.tape_end(b.session, run))

    # At the borehole now: sand at the second depth, the fourth is being turned.
    run = _profile(b, "BH1 T2", b.ago(minutes=75), "1.0", "4.0", "1.4")
    _depth(b, run, 0, b.ago(minutes=66), ("52.6", "2.6", "0.9", "10", "13.1"))
    _depth(b, run, 1, b.ago(minutes=46), (), noted="sand")
    _depth(b, run, 2, b.ago(minutes=32), ("38.8", "3.1", "1.4", "10", "8.2"))
    _depth(b, run, 3, b.ago(minutes=8), ("41.7", "2.8", "1.6"))


def strength(b: Builder) -> None:
    """All of them."""
    _kit(b)
    _cores(b)
    _profiles(b)
