"""The demo's gradings, densities and compactions: some done, some in the middle, cylinders that fall due."""

import math
from collections.abc import Iterable
from datetime import datetime, timedelta
from typing import Any

from vadum.demo.builder import Builder
from vadum.soil.methods.hydrometer.record import Record as Suspension
from vadum.soil.methods.hydrometer.school import SCHOOLS as HYDROMETER
from vadum.soil.methods.hydrometer.virtual import correction_g_l, reading_at
from vadum.soil.methods.sieve.school import SCHOOLS as SIEVE
from vadum.soil.shared.apparatus import CALIBRATIONS
from vadum.soil.shared.grading import log_normal_percent
from vadum.soil.shared.phases import cylinder_cm3
from vadum.tape import kit, signatures
from vadum.tape.kit import NewItem
from vadum.tape.tables import Run

Soil = tuple[float, float]
LAKE_CLAY: Soil = (0.0045, 2.1)
FILL: Soil = (0.009, 2.2)
KIT: tuple[tuple[str, str, str, dict[str, Any]], ...] = (
    ("mould", "M1", "944 cm³, split", {"mould_mass_g": 4215, "mould_volume_cm3": 944.2}),
    ("mould", "M4", "2124 cm³", {"mould_mass_g": 6483, "mould_volume_cm3": 2121}),
    ("ring", "R1", "steel, sharpened", {"ring_diameter_mm": 72.3, "ring_height_mm": 60.1}),
    ("ring", "R2", "steel, sharpened", {"ring_diameter_mm": 72.2, "ring_height_mm": 60.0}),
    ("pycnometer", "P1", "500 mL", {"mass_pycnometer_g": 178.42, "mass_full_g": 676.98, "full_at_c": 21.3}),
    ("pycnometer", "P2", "500 mL", {"mass_pycnometer_g": 181.07, "mass_full_g": 680.24, "full_at_c": 21.3}),
)
BULB = {"bulb_length_cm": 14.0, "bulb_volume_cm3": 67.0, "stem_zero_cm": 10.5, "stem_step_cm": 0.164}


def apparatus(b: Builder) -> None:
    """Moulds, rings, pycnometers, hydrometers and sieves with their calibrations."""
    rows = list(KIT)
    for code, kind in (("H1", "152H"), ("H2", "152H"), ("H3", "151H")):
        rows.append(("hydrometer", code, kind, {"hydrometer_type": kind, **BULB}))
    for aperture in (75, 50, 37.5, 25, 19, 9.5, 4.75, 2, 0.85, 0.425, 0.25, 0.15, 0.106, 0.075):
        seen = {"sieve_diameter_mm": 300 if aperture >= 4.75 else 200, "sieve_state": "sound"}
        rows.append(("sieve", f"S{aperture:g}", f"{aperture:g} mm", seen))
    for i, (kind, code, title, seen) in enumerate(rows):
        item = kit.add_item(
            b.session, NewItem.model_validate({"kind": kind, "code": code, "title": title, "interval_days": 365})
        )
        read = CALIBRATIONS[kind].model_validate(seen)
        kit.add_calibration(b.session, item, read, "TO", b.ago(days=60 + 7 * i))


def _sieved(b: Builder, total: float, finer: Any, apertures: Iterable[float], washed: float) -> list[str]:
    """Masses on each sieve as a balance reads them, in the order that a run begins with; the pan last."""
    named, above = list(apertures), total
    masses = {}
    for aperture in sorted(named, reverse=True):
        passes = total * finer(aperture) / 100
        masses[aperture] = f"{max(0.0, (above - passes) * (1 - b.dice.uniform(0, 0.0012))):.1f}"
        above = passes
    return [*(masses[a] for a in named), f"{max(0.0, above - washed):.1f}"]


def _sieve_run(b: Builder, sample: str, school: str, at: datetime, total: float, finer: Any, upto: int = 99) -> Run:
    its = SIEVE[school]
    run = b.start(sample, "sieve", school, at)
    b.steps(run, ("soil", "wash", "shake", "weigh"), at)
    edge = its.wash_over_mm or 0.075
    washed = 0.985 * total * finer(edge) / 100
    head = [("balance", "B1"), ("mass_total_g", f"{total:.1f}"), ("weighed_as", "oven-dry")]
    b.read(run, at, head)
    b.read(run, at + timedelta(minutes=40), [("in_oven_at", (at + timedelta(minutes=40)).isoformat())])
    dry = at + timedelta(hours=17)
    b.read(run, dry, [("mass_washed_g", f"{total - washed:.1f}")])
    masses = _sieved(b, total, finer, its.apertures_mm, washed)
    if upto <= 0:
        return run
    b.read(run, dry + timedelta(minutes=5), [("shaken_from_at", (dry + timedelta(minutes=5)).isoformat())])
    rows = [(f"sieves[{i}].mass_retained_g", mass) for i, mass in enumerate(masses[:-1])]
    b.read(
        run, dry + timedelta(minutes=16), [*rows[:upto], *([("mass_pan_g", masses[-1])] if upto >= len(rows) else [])]
    )
    return run


def _gradings(b: Builder) -> None:
    def clay(size: float) -> float:
        return 100.0 if size >= 4.75 else log_normal_percent(size, *LAKE_CLAY)

    _sieve_run(b, "TP2 B4", "astm_soil", b.ago(days=3), 262.4, clay)

    _gravel(b)

    # The stack that is in the shaker now.
    def fill(size: float) -> float:
        return 100.0 if size >= 9.5 else log_normal_percent(size, *FILL)

    run = _sieve_run(b, "F3 B1", "astm_soil", b.ago(hours=18), 310.6, fill, upto=0)
    shaken = b.ago(minutes=5, seconds=30)
    b.read(run, shaken, [("shaken_from_at", shaken.isoformat())])


def _gravel(b: Builder) -> None:
    """Base gravel, split at 4.75 mm, against its envelope: one sieve is outside."""

    def finer(size: float) -> float:
        return 100.0 if size >= 37.5 else min(100.0, 100 * (size / 34) ** 0.52)

    at, total, part = b.ago(days=2), 5200.0, 486.0
    run = b.start("TP1 B1", "sieve", "astm_soil", at)
    b.steps(run, ("soil", "wash", "shake", "weigh"), at)
    below = total * finer(4.75) / 100
    washed = 0.98 * part * finer(0.075) / finer(4.75)
    masses = [
        ("split_at_mm", "4.75"),
        ("largest_particle_mm", "34"),
        ("weighed_as", "oven-dry"),
        ("mass_coarse_g", f"{total - below:.1f}"),
    ]
    masses += [("mass_finer_g", f"{below:.1f}"), ("mass_part_g", f"{part:.1f}")]
    b.read(run, at, masses)
    b.read(run, at + timedelta(minutes=30), [("in_oven_at", (at + timedelta(minutes=30)).isoformat())])
    dry = at + timedelta(hours=17)
    b.read(run, dry, [("mass_washed_g", f"{part - washed:.1f}"), ("shaken_from_at", dry.isoformat())])
    values: list[tuple[str, Any]] = []
    above = total
    named = SIEVE["astm_soil"].apertures_mm
    for aperture in sorted(named, reverse=True):
        i = named.index(aperture)
        passes = total * finer(aperture) / 100
        kept = above - passes if aperture >= 4.75 else (above - passes) * part / below
        values += [(f"sieves[{i}].sieve", f"S{aperture:g}"), (f"sieves[{i}].mass_retained_g", f"{0.9992 * kept:.1f}")]
        if aperture == 4.75:
            values.append((f"sieves[{i}].in_portions", "yes"))
        above = passes
    pan = above * part / below - washed
    b.read(run, dry + timedelta(minutes=15), [*values, ("mass_pan_g", f"{pan:.1f}")])
    limits = ((19, 70, 90), (9.5, 52, 72), (4.75, 30, 50), (0.425, 10, 22), (0.075, 2, 8))
    rows: list[tuple[str, Any]] = [("envelope_name", "apron base")]
    for i, (size, least, most) in enumerate(limits):
        limit = {"aperture_mm": str(size), "least_percent": str(least), "most_percent": str(most)}
        rows.append((f"envelope[{i}]", limit))
    b.read(run, b.ago(days=1), rows)


def _cylinder(
    b: Builder, sample: str, school: str, name: str, hydrometer: str, soaked: datetime, mixed: bool = True
) -> Run:
    run = b.start(sample, "hydrometer", school, soaked - timedelta(minutes=20))
    b.steps(run, ("soil",), soaked - timedelta(minutes=16))
    made = (b.now - timedelta(days=12)).date().isoformat()
    b.read(
        run,
        soaked - timedelta(minutes=15),
        [
            ("hydrometer", hydrometer),
            ("cylinder", name),
            ("mass_dry_g", f"{50.3 + len(name):.2f}"),
            ("specific_gravity_ratio", "2.70"),
            ("specific_gravity_from", "measured" if sample == "TP2 B4" else "assumed"),
            ("dispersant_made_on", made),
            ("tested_on", b.now.date().isoformat()),
            ("came_through_mm", "2"),
            ("passing_percent", "100"),
        ],
    )
    b.read(run, soaked, [("soaked_from_at", soaked.isoformat())])
    if mixed:
        b.steps(run, ("mix", "blank", "start"), soaked + timedelta(hours=17))
        b.read(run, soaked + timedelta(hours=17), [("mixed_min", "10")])
        for i, warm in enumerate((21.0, 19.0)):
            row = f"blanks[{i}]."
            value = f"{round(2 * correction_g_l(warm)) / 2:g}"
            b.read(
                run,
                soaked + timedelta(hours=17, minutes=4 + i),
                [(f"{row}reading_g_l", value), (f"{row}temperature_c", f"{warm:g}")],
            )
    return run


def _run_cylinder(b: Builder, run: Run, school: str, soil: Soil, start: datetime, until: datetime, mass: float) -> None:
    its = HYDROMETER[school]
    b.read(run, start, [("started_at", start.isoformat())])
    shape = Suspension(hydrometer_type="152H", mass_dry_g=mass, specific_gravity_ratio=2.70)
    for row, minutes in enumerate(its.schedule_min):
        at = start + timedelta(minutes=minutes)
        if at > until:
            break
        warm = 20.6 - 0.12 * math.log1p(minutes)
        inserted = at - timedelta(seconds=29)
        reading = f"{round(2 * reading_at(minutes, warm, shape, its, soil)) / 2:g}"
        b.read(run, inserted, [(f"readings[{row}].inserted_at", inserted.isoformat())])
        late = timedelta(seconds=4 if minutes != 30 else 55)
        b.read(run, at + late, [(f"readings[{row}].reading_g_l", reading)])
        b.read(run, at + late + timedelta(seconds=15), [(f"readings[{row}].temperature_c", f"{warm:.1f}")])


def _cylinders(b: Builder) -> None:
    run = _cylinder(b, "TP2 B4", "d422", "A", "H1", b.ago(days=3))
    _run_cylinder(b, run, "d422", LAKE_CLAY, b.ago(days=2, hours=6), b.now, 51.3)
    signatures.sign(b.session, run, b.people["IM"], b.ago(hours=3), signatures.tape_end(b.session, run))
    # Two that run now: B falls due in two minutes, C a little later; D is mixed and waits; E still soaks.
    run = _cylinder(b, "F3 B1", "teaching", "B", "H2", b.ago(hours=18))
    _run_cylinder(b, run, "teaching", FILL, b.ago(minutes=6), b.now, 51.3)
    run = _cylinder(b, "TP4 T1", "teaching", "C", "H1", b.ago(hours=18, minutes=30))
    _run_cylinder(b, run, "teaching", LAKE_CLAY, b.ago(minutes=26, seconds=30), b.now, 51.3)
    _cylinder(b, "TP4 B2", "teaching", "D", "H2", b.ago(hours=18, minutes=10))
    _cylinder(b, "BH1 T2", "d422", "E", "H1", b.ago(hours=4), mixed=False)


def _gravity(b: Builder) -> None:
    run = b.start("TP2 B4", "specific_gravity", "astm", b.ago(days=4))
    rows: list[tuple[str, Any]] = [("came_through_mm", "4.75"), ("deaired_by", "vacuum"), ("deaired_min", "130")]
    for i, (code, with_soil, warm) in enumerate((("P1", "715.25", "24.7"), ("P2", "716.99", "24.9"))):
        at = f"determinations[{i}]."
        rows += [(f"{at}pycnometer", code), (f"{at}mass_with_soil_g", with_soil), (f"{at}temperature_c", warm)]
    b.read(run, b.ago(days=4), rows)
    b.read(run, b.ago(days=4, minutes=-30), [("in_oven_at", b.ago(days=4, minutes=-30).isoformat())])
    dry = [(f"determinations[{i}].mass_dry_soil_g", mass) for i, mass in enumerate(("61.35", "58.91"))]
    b.read(run, b.ago(days=3, hours=5), dry)


def _ring(
    b: Builder, sample: str, ring: str, size: Soil, dry: float, water: float, at: datetime, tin: str, dried: bool
) -> None:
    run = b.start(sample, "ring_density", "headspace", at)
    b.steps(run, ("drive", "weigh"), at)
    heads = (6.0, 7.5, 8.0, 6.5)
    soil = cylinder_cm3(size[0], size[1] - sum(heads) / 4) * dry * (1 + water / 100)
    taken = at - timedelta(hours=5)
    rows: list[tuple[str, Any]] = [("ring", ring), ("sampled_at", taken.isoformat()), ("sealed", "yes")]
    rows += [(f"headspaces[{i}].headspace_mm", f"{h:g}") for i, h in enumerate(heads)]
    rows += [("outside_headspace_mm", "6"), ("mass_container_g", "11.4"), ("mass_with_soil_g", f"{11.4 + soil:.1f}")]
    number, wet, dry_mass = b.tin(tin, water, 48.0)
    b.read(run, at, [*rows, ("tin", number), ("mass_wet_g", wet)])
    b.read(run, at + timedelta(minutes=12), [("in_oven_at", (at + timedelta(minutes=12)).isoformat())])
    if dried:
        later = [("mass_dry_g", dry_mass), ("particle_density_mg_m3", "2.70"), ("particle_density_from", "measured")]
        b.read(run, at + timedelta(hours=19), later)


def _pit(b: Builder) -> None:
    at = b.ago(days=2, hours=2)
    run = b.start("TP1 B1", "pit_density", "sand", at)
    b.steps(run, ("dig", "separate", "water"), at)
    dry, water, stones, hole = 1.94, 6.2, 0.24, 2480.0
    coarse = hole * stones * 2.65
    fines = hole * dry - coarse
    sand = [("sand_density_mg_m3", "1.42"), ("mass_sand_cone_g", "1468"), ("mass_sand_before_g", "9120")]
    b.read(run, at, [("mass_soil_field_g", f"{hole * dry * (1 + water / 100):.0f}"), *sand])
    b.read(run, at + timedelta(minutes=6), [("mass_sand_after_g", f"{9120 - 1468 - 1.42 * hole:.0f}")])
    b.read(run, at + timedelta(hours=4), [("mass_soil_lab_g", f"{hole * dry * (1 + water / 100) * 0.997:.0f}")])
    rows = [("mass_coarse_g", f"{coarse:.0f}"), ("mass_fines_g", f"{fines * 1.021:.0f}")]
    number, wet, dry_mass = b.tin("30", 2.1, 58.0)
    b.read(run, b.ago(days=1, hours=2), [*rows, ("tin", number), ("mass_wet_g", wet)])
    b.read(run, b.ago(days=1, hours=1), [("in_oven_at", b.ago(days=1, hours=1).isoformat())])
    b.read(run, b.ago(hours=3), [("mass_dry_g", dry_mass)])


def _compacted(
    b: Builder,
    sample: str,
    mould: str,
    school: str,
    top: Soil,
    bend: float,
    steps: tuple[float, ...],
    at: datetime,
    dried: bool,
) -> Run:
    """Points of a curve with its top at (water content, dry density)."""
    run = b.start(sample, "compaction", school, at)
    b.steps(run, ("mould", "soil", "points"), at)
    coarse = sample == "TP1 B1"
    portion = 5600.0 if coarse else 2450.0
    rows: list[tuple[str, Any]] = [("mould", mould), ("balance", "B2"), ("mass_portion_g", f"{portion:.0f}")]
    rows += [("portion_water_percent", "2.4"), ("specific_gravity_ratio", "2.66" if coarse else "2.70")]
    rows += [("specific_gravity_from", "assumed")]
    if coarse:
        rows += [("oversize_percent", "14"), ("oversize_gravity_ratio", "2.65"), ("oversize_water_percent", "0.8")]
    b.read(run, at, rows)
    item = kit.find(b.session, "mould", mould)
    assert item is not None
    seen = dict(kit.brought_by(b.session, "mould", mould, b.now.date()))
    dry_portion = portion / 1.024
    masses = []
    for i, away in enumerate(steps):
        w = top[0] + away
        density = top[1] - bend * away**2 + b.dice.gauss(0, 0.0015)
        soil = density * (1 + w / 100) * float(seen["mould_volume_cm3"])
        moment = at + timedelta(minutes=30 + 26 * i)
        number, wet, dry_mass = b.tin(str(18 + i + (16 if coarse else 0)), w, 84.0 + 3 * i)
        masses.append((f"points[{i}].mass_dry_g", dry_mass))
        b.read(run, moment, [(f"points[{i}].water_added_ml", f"{dry_portion * (w - 2.4) / 100:.0f}")])
        full = f"{float(seen['mould_mass_g']) + soil:.0f}"
        values = [
            (f"points[{i}].mass_with_soil_g", full),
            (f"points[{i}].tin", number),
            (f"points[{i}].mass_wet_g", wet),
        ]
        b.read(run, moment + timedelta(minutes=15), values)
    if dried:
        into = at + timedelta(hours=3)
        b.read(run, into, [("in_oven_at", into.isoformat())])
        b.read(run, into + timedelta(hours=17), masses)
    return run


def _compactions(b: Builder) -> None:
    five = (-3.2, -1.7, -0.2, 1.4, 3.0)
    _compacted(b, "TP1 B1", "M4", "modified_2124", (7.4, 2.06), 0.0062, five, b.ago(days=3), True)
    # In the middle: three points about, the densest just passed.
    _compacted(
        b, "F3 B1", "M1", "standard_944", (18.6, 1.688), 0.0055, (-3.4, -1.2, 0.9), b.ago(hours=2, minutes=5), False
    )


def index_tests(b: Builder) -> None:
    """All of them."""
    apparatus(b)
    _gravity(b)
    _gradings(b)
    _cylinders(b)
    _ring(b, "TP2 B4", "R1", (72.3, 60.1), 1.29, 38.4, b.ago(days=3), "34", True)
    _ring(b, "M1 R1", "R2", (72.2, 60.0), 1.12, 31.0, b.ago(hours=19), "27", False)
    _pit(b)
    _compactions(b)
