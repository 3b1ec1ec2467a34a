"""The demo's triaxial cells: the lake clay consolidated undrained, its second specimen draining now; a quick trio."""

import math
from collections.abc import Iterable
from datetime import datetime, timedelta
from typing import Any

from vadum.demo.builder import Builder
from vadum.soil.methods.triaxial.facts import called_mm
from vadum.soil.methods.triaxial.school import SCHOOLS
from vadum.soil.methods.triaxial.virtual import Clay
from vadum.soil.shared.apparatus import CALIBRATIONS
from vadum.soil.shared.consolidation import settled_percent
from vadum.tape import kit, signatures
from vadum.tape.kit import NewItem
from vadum.tape.tables import Run

KIT: tuple[tuple[str, str, str, dict[str, Any]], ...] = (
    ("triaxial_cell", "C1", "cell 1, 50 mm", {"cell_rating_kpa": 1000}),
    ("triaxial_cell", "C2", "cell 2, 50 mm", {"cell_rating_kpa": 1000}),
    ("load_cell", "LC3", "5 kN, in the triaxial frame", {"load_cell_most_n": 5000}),
)
LAKE = Clay(26.5, 6.0, 0.42, 0.075, 0.03, 46.0, 0.9)
SOFT = Clay(25.0, 4.0, 0.6, 0.065, 0.03, 34.0, 0.88)
HEIGHT_MM, DIAMETER_MM, BACK_KPA = 100.2, 50.1, 340.0
SIZES = (
    ("diameter_top_mm", "50.0"),
    ("diameter_middle_mm", "50.2"),
    ("diameter_bottom_mm", "50.1"),
    ("height_1_mm", "100.1"),
    ("height_2_mm", "100.3"),
    ("height_3_mm", "100.2"),
)
# Cell to, pore pressure that answered, back pressure after it, kPa.
STEPS = ((60, 31, 50), (100, 78.5, 90), (150, 131, 140), (200, 186, 190), (250, 238.2, 240), (300, 287.4, 290))
LAST = (350, 338.4, 340)


class Acts:
    """What is done to several specimens that stand in their cells at one time: put down in any order, written as the
    clock went."""

    def __init__(self, b: Builder) -> None:
        self.builder, self.dice = b, b.dice
        self.acts: list[tuple[datetime, tuple[str, Any]]] = []

    def read(self, run: Run, at: datetime, values: Iterable[tuple[str, Any]]) -> None:
        """Readings one after the other, twenty seconds apart."""
        self.acts += [(at + timedelta(seconds=20 * i), value) for i, value in enumerate(values)]

    def write(self, run: Run) -> None:
        """All of them, by the clock; none that is still to come."""
        for at, value in sorted(self.acts, key=lambda act: act[0]):
            if at <= self.builder.now:
                self.builder.read(run, at, [value])


def _kit(b: Builder) -> None:
    for kind, code, title, seen in KIT:
        item = kit.add_item(
            b.session, NewItem.model_validate({"kind": kind, "code": code, "title": title, "interval_days": 365})
        )
        kit.add_calibration(b.session, item, CALIBRATIONS[kind].model_validate(seen), "TO", b.ago(days=120))


def _set(b: Builder, sample: str, school: str, cell: str, at: datetime, steps: Iterable[str]) -> Run:
    run = b.start(sample, "triaxial", school, at)
    b.steps(run, steps, at)
    values = [
        ("direction", "compression"),
        ("staging", "single"),
        ("sample_type", "tube"),
        ("soil_state", "as received"),
        ("largest_particle_mm", "1"),
        ("particle_density_mg_m3", "2.72"),
        ("particle_density_from", "measured"),
        ("water_before_percent", "31.4"),
        ("triaxial_cell", cell),
        ("load_cell", "LC3"),
        ("piston_zeroed", "yes"),
        ("side_drains", "no"),
        ("membrane_modulus_kpa", "1350"),
        ("membrane_modulus_from", "measured"),
    ]
    b.read(run, at, values)
    return run


def _saturate(b: Acts, run: Run, way: str, at: datetime) -> None:
    cell = pore = 0.0
    for n, (to, answered, back) in enumerate((*STEPS, LAST)):
        row = {
            "cell_from_kpa": f"{cell:g}",
            "cell_to_kpa": f"{to:g}",
            "pore_from_kpa": f"{pore:g}",
            "pore_to_kpa": f"{answered:g}",
        }
        moment = at + timedelta(minutes=70 * n)
        b.read(run, moment, [(f"{way}increments[]", row)])
        b.read(run, moment + timedelta(minutes=20), [(f"{way}increments[{n}].back_kpa", f"{back:g}")])
        cell, pore = float(to), float(back)
    ended = at + timedelta(minutes=70 * len(STEPS) + 45)
    b.read(run, ended, [(f"{way}saturated", "yes"), (f"{way}saturation_shortening_mm", "0.06")])


def _drain(b: Acts, run: Run, way: str, start: datetime, out: float, upto_min: float) -> None:
    b.read(run, start, [(f"{way}drained_from_at", start.isoformat(timespec="seconds"))])
    for minutes in (m for m in SCHOOLS["d4767"].consolidation_min if m <= upto_min):
        moved = out * settled_percent(LAKE.per_min * minutes) / 100
        row = {"volume_cm3": f"{moved:.2f}", "shortening_mm": f"{0.17 * moved:.3f}"}
        b.read(run, start + timedelta(minutes=minutes), [(f"{way}consolidation[]", row)])


def _shear(
    b: "Acts | Builder",
    run: Run,
    way: str,
    clay: Clay,
    height: float,
    area: float,
    q: float,
    start: datetime,
    rate: float,
    upto: float,
    back: float | None,
) -> None:
    columns: dict[str, list[str | int | float | None]] = {"deformation_mm": [], "force_n": [], "elapsed_s": []}
    if back is not None:
        columns["pore_kpa"] = []
    for at in called_mm(height, SCHOOLS["d4767"]):
        strain = at / height
        if strain > upto:
            break
        now = q * clay.share(strain)
        columns["deformation_mm"].append(f"{at:.2f}")
        columns["force_n"].append(
            f"{max(0.0, now * area / (1 - strain) / 1000 + (b.dice.gauss(0, 0.3) if at else 0)):.1f}"
        )
        columns["elapsed_s"].append(f"{60 * at / rate:.0f}")
        if back is not None:
            columns["pore_kpa"].append(f"{back + clay.a_ratio * now + b.dice.gauss(0, 0.2):.1f}")
    units = {"deformation_mm": "mm", "force_n": "N", "elapsed_s": "s", "pore_kpa": "kPa"}
    block = {"columns": columns, "units": {name: units[name] for name in columns}}
    b.read(run, start, [(f"{way}shear[]", block)])


def _consolidated(b: Builder) -> None:
    began = b.ago(days=4, hours=2)
    run = _set(b, "BH1 T2", "d4767", "C2", began, ("ready", "trim", "mount", "saturate", "pressure", "shear", "dry"))
    acts = Acts(b)
    area = math.pi * DIAMETER_MM**2 / 4
    for n, (pressure, soaked, mass) in enumerate(
        (
            (100.0, began + timedelta(minutes=8), "384.6"),
            (200.0, b.ago(days=2, hours=21), "383.8"),
            (400.0, b.ago(hours=18, minutes=41), ""),
        )
    ):
        way = f"specimens[{n}]."
        ready = [
            ("number", f"{n + 1}"),
            ("wanted_kpa", f"{pressure:g}"),
            ("discs_boiled_at", (soaked + timedelta(minutes=10)).isoformat(timespec="minutes")),
            ("discs_vacuum_from_at", (soaked + timedelta(minutes=65)).isoformat(timespec="minutes")),
            ("membrane", f"{n + 2}"),
            ("membrane_thickness_mm", "0.25"),
            ("membrane_soaked_from_at", soaked.isoformat(timespec="minutes")),
            ("lines_flushed", "yes"),
        ]
        acts.read(run, soaked, [(way + name, value) for name, value in ready])
        if n == 2:
            break
        trimmed = soaked + timedelta(hours=16)
        acts.read(run, trimmed, [(way + name, value) for name, value in (*SIZES, ("mass_g", mass))])
        mounted = soaked + timedelta(hours=17)
        acts.read(run, mounted, [(f"{way}mounted_at", mounted.isoformat(timespec="minutes"))])
        _saturate(acts, run, way, mounted + timedelta(hours=1))
        pressed = mounted + timedelta(hours=10)
        values = [("cell_kpa", f"{BACK_KPA + pressure:g}"), ("back_kpa", f"{BACK_KPA:g}")]
        acts.read(run, pressed, [(way + name, value) for name, value in values])
        if n == 1:
            _drain(acts, run, way, b.ago(minutes=75), 8.9, 60.0)
            continue
        out = 5.85
        _drain(acts, run, way, pressed + timedelta(minutes=5), out, 480.0)
        height = HEIGHT_MM - 0.06 - 1.0
        started = pressed + timedelta(hours=12)
        rate = 0.06 * height / 100
        values = [("consolidated", "yes"), ("consolidation_shortening_mm", "1.00"), ("rate_mm_min", f"{rate:.3f}")]
        acts.read(run, started, [(way + name, value) for name, value in values])
        q = LAKE.deviator_kpa(pressure, "CIU")
        left = (area * HEIGHT_MM / 1000 - out) * 1000 / height
        _shear(acts, run, way, LAKE, height, left, q, started + timedelta(minutes=4), rate, 0.115, BACK_KPA)
        ended = started + timedelta(hours=4)
        acts.read(run, ended, [(f"{way}stopped", "past the peak"), (f"{way}failed_by", "bulge")])
    acts.write(run)


def _quick(b: Builder) -> None:
    began = b.ago(days=6, hours=3)
    run = _set(b, "TP4 T1", "d2850", "C1", began, ("trim", "pressure", "shear", "dry"))
    area = math.pi * DIAMETER_MM**2 / 4
    for n, (pressure, mass, su) in enumerate(((100.0, "381.2", 33.1), (200.0, "382.0", 34.6), (300.0, "380.7", 33.8))):
        at, way = began + timedelta(minutes=20 + 55 * n), f"specimens[{n}]."
        values = [
            ("number", f"{n + 1}"),
            ("wanted_kpa", f"{pressure:g}"),
            *SIZES,
            ("mass_g", mass),
            ("membrane", "6"),
            ("membrane_thickness_mm", "0.25"),
            ("cell_kpa", f"{pressure:g}"),
            ("under_pressure_from_at", (at + timedelta(minutes=4)).isoformat(timespec="minutes")),
        ]
        b.read(run, at, [(way + name, value) for name, value in values])
        start = at + timedelta(minutes=16)
        b.read(run, start, [(f"{way}rate_mm_min", "1.0")])
        _shear(b, run, way, SOFT, HEIGHT_MM, area, 2 * su, start, 1.0, 0.105, None)
        ended = [("stopped", "past the peak"), ("failed_by", "bulge")]
        b.read(run, start + timedelta(minutes=12), [(way + name, value) for name, value in ended])
    signed = began + timedelta(hours=4)
    signatures.sign(b.session, run, b.people["IM"], signed, signatures.tape_end(b.session, run))


def triaxial(b: Builder) -> None:
    """Both of them."""
    _kit(b)
    _consolidated(b)
    _quick(b)
