"""The demo's shear boxes: the wall's sand in three stages, signed, and a second one in its second stage now."""

from datetime import datetime, timedelta

from vadum.demo.builder import Builder
from vadum.soil.methods.direct_shear.box import called_mm, hanger_for_kg, normal_kpa
from vadum.soil.methods.direct_shear.record import Record
from vadum.soil.methods.direct_shear.school import SCHOOLS
from vadum.soil.methods.direct_shear.virtual import Ground
from vadum.tape import signatures
from vadum.tape.tables import Run

CAP_KG, LEVER, WIDTH_MM = 1.42, 1.0, 60.0
AREA_MM2 = WIDTH_MM**2
WASHED = Ground(36.4, 31.8, 0.0, 2.2, 5.6, 0.035, 40.0, "clean sand")
SILTY = Ground(34.6, 30.9, 1.0, 2.4, 4.0, 0.05, 40.0, "silty sand")
RATE_MM_MIN = 0.25


def _begun(b: Builder, sample: str, soil: str, at: datetime) -> Run:
    run = b.start(sample, "direct_shear", "d3080", at)
    b.steps(run, ("box", "load", "screws", "shear", "dry"), at)
    values = [
        ("soil", soil),
        ("soil_state", "as received"),
        ("drainage", "drained"),
        ("largest_particle_mm", "2"),
        ("water_before_percent", "0.4"),
        ("particle_density_mg_m3", "2.65"),
        ("particle_density_from", "measured"),
        ("shear_box", "B2"),
        ("box_shape", "square"),
        ("box_width_mm", "60"),
        ("cap_kg", f"{CAP_KG:g}"),
        ("lever_ratio", f"{LEVER:g}"),
        ("lever_balanced", "yes"),
        ("ridges_across", "yes"),
        ("load_by", "load cell"),
        ("load_cell_most_n", "2000"),
    ]
    b.read(run, at, values)
    return run


def _stage(b: Builder, run: Run, n: int, wanted: float, mass_g: str, at: datetime, settles: bool) -> float:
    """A specimen made, loaded, its screws out; the normal stress it came to."""
    hanger = round(hanger_for_kg(wanted, CAP_KG, LEVER, AREA_MM2), 1)
    way = f"stages[{n}]."
    values = [
        ("wanted_kpa", f"{wanted:g}"),
        ("height_mm", "20"),
        ("mass_g", mass_g),
        ("hanger_kg", f"{hanger:g}"),
        ("flooded", "yes" if settles else "no"),
    ]
    b.read(run, at, [(way + field, value) for field, value in values])
    load = at + timedelta(minutes=4)
    if settles:
        b.read(run, load, [(f"{way}loaded_at", load.isoformat(timespec="seconds"))])
        whole = 0.09 + 0.0006 * wanted
        for minutes, share in ((0.1, 0.42), (0.25, 0.62), (0.5, 0.8), (1, 0.91), (2, 0.985), (4, 0.999), (8, 1.0)):
            moment = load + timedelta(minutes=minutes)
            b.read(run, moment, [(f"{way}settlement[]", {"settlement_mm": f"{whole * share:.3f}"})])
        b.read(run, load + timedelta(minutes=9), [(f"{way}consolidated", "yes")])
    ready = at + timedelta(minutes=14)
    gap = [] if n == 0 and settles else [("gap_mm", "0.7")]
    zeroed = [("screws_out", "yes"), *gap, ("zeroed", "yes"), ("rate_mm_min", f"{RATE_MM_MIN:g}")]
    b.read(run, ready, [(way + field, value) for field, value in zeroed])
    return normal_kpa(CAP_KG, hanger, LEVER, AREA_MM2)


def _shear(b: Builder, run: Run, n: int, ground: Ground, normal: float, start: datetime, upto_mm: float) -> None:
    curve = ground.curve(normal, AREA_MM2)
    for at in (m for m in called_mm(Record(box_width_mm=WIDTH_MM), SCHOOLS["d3080"]) if m <= upto_mm):
        force = max(0.0, 1000 * curve.force_kn(at) + (b.dice.gauss(0, 0.4) if at else 0.0))
        row = {"travel_mm": f"{at:.2f}", "force_n": f"{force:.1f}", "vertical_mm": f"{ground.vertical_mm(at):.3f}"}
        b.read(run, start + timedelta(minutes=at / RATE_MM_MIN), [(f"stages[{n}].shear[]", row)])


def shearing(b: Builder) -> None:
    """Both of them."""
    began = b.ago(days=2, hours=7)
    run = _begun(b, "S2 B2", "clean sand", began)
    for n, (wanted, mass) in enumerate(((50.0, "120.6"), (100.0, "120.9"), (200.0, "120.4"))):
        at = began + timedelta(minutes=20 + 75 * n)
        normal = _stage(b, run, n, wanted, mass, at, settles=False)
        _shear(b, run, n, WASHED, normal, at + timedelta(minutes=16), 9.0)
        b.read(run, at + timedelta(minutes=58), [(f"stages[{n}].stopped", "past the peak")])
    signed = began + timedelta(hours=5)
    signatures.sign(b.session, run, b.people["IM"], signed, signatures.tape_end(b.session, run))

    # In the frame now: the silty sand's second stage, past its peak.
    run = _begun(b, "S2 B1", "silty sand", b.ago(minutes=150))
    at = b.ago(minutes=140)
    normal = _stage(b, run, 0, 50.0, "119.4", at, settles=True)
    _shear(b, run, 0, SILTY, normal, at + timedelta(minutes=16), 6.5)
    b.read(run, at + timedelta(minutes=50), [("stages[0].stopped", "past the peak")])
    at = b.ago(minutes=34)
    normal = _stage(b, run, 1, 100.0, "120.1", at, settles=True)
    _shear(b, run, 1, SILTY, normal, at + timedelta(minutes=16), 4.1)
