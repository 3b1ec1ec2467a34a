"""Cross-readings of water and lime: conductivity against the grading, retention against pores and texture, lime demand
against clay and plasticity.

Each is a watch, never a result. The bands are laboratory settings (`bands`).
"""

from collections.abc import Iterator

from vadum.soil.contract.compare import at_least, at_most, within
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Verdict
from vadum.soil.contract.verdicts import ruling
from vadum.soil.shared.conductivity import MM_H
from vadum.soil.shared.physics import WATER_20_MG_M3
from vadum.soil.soil_card.evidence import Evidence, Known
from vadum.soil.soil_card.limits import GROUND, limits
from vadum.soil.soil_card.merged import Merged

CONDUCTIVITY = ("well_permeameter", "falling_head")
CLAY_MM = 0.002
# Water at 33 kPa by the texture's class, % of the volume: Rawls, Brakensiek and Saxton 1982.
AT_33_KPA = {
    "sand": 9.1,
    "loamy sand": 12.5,
    "sandy loam": 20.7,
    "loam": 27.0,
    "silt loam": 33.0,
    "silt": 33.0,
    "sandy clay loam": 25.5,
    "clay loam": 31.8,
    "silty clay loam": 36.6,
    "sandy clay": 33.9,
    "silty clay": 38.7,
    "clay": 39.6,
}


def conductivity_by_size_mm_h(d10_mm: float, c: float) -> float:
    """The conductivity that a clean sand's finest tenth tells.

    Parameters: D10 in mm; C, K in cm/s over D10² in mm².
    Returns: mm/h.
    Source: Hazen 1892, `K = C D10^2`, K in cm/s and D10 in mm, C about 1 (0.4 to 1.5).

    >>> round(conductivity_by_size_mm_h(0.1, 1.0))
    360
    """
    return MM_H * c * d10_mm**2


def against_grading(evidence: Evidence, grading: Merged | None) -> Iterator[Verdict]:
    """Conductivity in the ground beside that of its grading."""
    d10 = grading.ten_percent if grading else None
    if d10 is None or d10[0] <= 0:
        return
    told = conductivity_by_size_mm_h(d10[0], evidence.bands.hazen_c)
    for method in CONDUCTIVITY:
        known = evidence.known(method, "kfs_mm_h")
        if known is None or known.value <= 0:
            continue
        times = max(known.value / told, told / known.value)
        yield ruling(
            "conductivity against the grading",
            at_most(times, evidence.bands.conductivity_times),
            f"{known.code} {known.reported} mm/h, by D10 {plain(d10[0], 2)} mm {plain(told, 2)} mm/h",
            f"{evidence.bands.conductivity_times:g} times apart",
            "Hazen (1892), of clean sands alone; laboratory setting",
            "Structure, roots or cracks carry more than the grains tell; air and smear less: say which was seen.",
            otherwise="watch",
        )


def hand_texture(evidence: Evidence, texture: str) -> Iterator[Verdict]:
    """The texture that a hand said beside the one that was sieved and settled."""
    if not texture:
        return
    for method in ("falling_head", "retention"):
        for told in evidence.of(method):
            said = told.record.texture
            if said in AT_33_KPA:
                yield ruling(
                    "texture by hand against the grading",
                    said == texture,
                    f"{told.code} {said} by hand, {texture} by its grading",
                    "one class",
                    "USDA Soil Survey Manual, chapter 3",
                    "The suction of a hand's class stands in the conductivity: take the grading's.",
                    otherwise="watch",
                )


def porosity_of(evidence: Evidence) -> tuple[float, Known, Known] | None:
    """Porosity by a density in the ground and the specific gravity, a share of the volume; None without both."""
    gravity = evidence.known("specific_gravity", "specific_gravity_ratio")
    for method in GROUND:
        dry = evidence.known(method, "dry_density_mg_m3")
        if dry is not None and gravity is not None and gravity.value > 0:
            share = 1 - dry.value / (gravity.value * WATER_20_MG_M3)
            if 0 < share < 1:
                return share, dry, gravity
    return None


def saturated_against_porosity(evidence: Evidence) -> Iterator[Verdict]:
    """Saturated water of the rings beside the pores of the ground."""
    water, pores = evidence.known("retention", "saturated_percent"), porosity_of(evidence)
    if water is None or pores is None:
        return
    share = water.value / (100 * pores[0])
    ground = f"pores {plain(100 * pores[0], 3)} % ({pores[1].code})"
    yield ruling(
        "saturated water against the pores of the ground",
        within(share, *evidence.bands.filled_ratio),
        f"{water.code} {water.reported} %, {ground}: {plain(share, 2)} of it",
        "{:g} to {:g}".format(*evidence.bands.filled_ratio),
        "laboratory setting",
        "Another core, air that stayed in it, or a tare: look which.",
        otherwise="watch",
    )


def capacity_against_texture(evidence: Evidence, texture: str) -> Iterator[Verdict]:
    """Water at 33 kPa beside what soils of that texture hold."""
    known, usual = evidence.known("retention", "theta_33_percent"), AT_33_KPA.get(texture)
    if known is None or usual is None:
        return
    apart = abs(known.value - usual)
    yield ruling(
        "water at 33 kPa against the texture",
        at_most(apart, evidence.bands.capacity_points),
        f"{known.code} {known.reported} %, {texture} {plain(usual)} % as a rule",
        f"{evidence.bands.capacity_points:g} points apart",
        "Rawls, Brakensiek and Saxton (1982); laboratory setting",
        "Humus and structure hold more, stones less; or the plate was not re-seated: look at the curve.",
        otherwise="watch",
    )


def lime_against_clay(evidence: Evidence, grading: Merged | None) -> Iterator[Verdict]:
    """Lime demand beside clay and plasticity."""
    lime = evidence.known("lime_demand", "demand_hydrated_percent")
    if lime is None:
        return
    clay = grading.finer(CLAY_MM) if grading else None
    if clay:
        share = lime.value / clay
        yield ruling(
            "lime demand against clay",
            within(share, *evidence.bands.lime_over_clay),
            f"{lime.code} {lime.reported} % of hydrated lime, {plain(clay, 2)} % clay: {plain(share, 2)} a percent",
            "{:g} to {:g}".format(*evidence.bands.lime_over_clay),
            "laboratory setting",
            "Much lime for little clay: organic matter, sulphate, or a lime that has carbonated. Recheck the meter.",
            otherwise="watch",
        )
    both = limits(evidence)
    index = both.index_percent if both else None
    if index is not None:
        least, much = evidence.bands.least_lime_pi, evidence.bands.much_lime_percent
        odd = not at_least(index, least) and lime.value > much
        yield ruling(
            "lime demand against plasticity",
            not odd,
            f"{lime.code} {lime.reported} % of hydrated lime at a plasticity index of {plain(index, 3)}",
            f"at most {much:g} % below a plasticity index of {least:g}",
            "laboratory setting",
            "So little clay should not ask for so much: organic matter, or the wrong sample.",
            otherwise="watch",
        )


def water_readings(evidence: Evidence, grading: Merged | None, texture: str) -> Iterator[Verdict]:
    """Everything that water and lime say beside the other tests of their soil."""
    yield from against_grading(evidence, grading)
    yield from hand_texture(evidence, texture)
    yield from saturated_against_porosity(evidence)
    yield from capacity_against_texture(evidence, texture)
    yield from lime_against_clay(evidence, grading)
