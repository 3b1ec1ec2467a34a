"""Strengths of one soil by several tests, held against each other and against what its limits and grading make likely.

Each is a watch, never a result. The bands are laboratory settings (`bands`).
"""

import math
import re
from collections.abc import Iterator
from itertools import combinations

from vadum.soil.contract.compare import at_most, within
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Verdict
from vadum.soil.contract.verdicts import ruling
from vadum.soil.soil_card.evidence import Evidence, Known, Told, usable
from vadum.soil.soil_card.limits import GROUND, limits

UNDRAINED = (
    ("field_vane", "vane"),
    ("unconfined_compression", "unconfined"),
    ("triaxial", "triaxial"),
)
DRAINED = (("direct_shear", "phi_peak_degrees", "c_peak_kpa"), ("triaxial", "phi_degrees", "c_kpa"))
# Group of the unified system -> friction angle of such a soil, degrees, from loose to dense.
BY_GROUP = {
    "GW": (32.0, 50.0),
    "GP": (31.0, 48.0),
    "SW": (30.0, 47.0),
    "SP": (28.0, 45.0),
    "SM": (26.0, 42.0),
    "SC": (24.0, 40.0),
}


def _of_each(told: Told, figure: str) -> list[float]:
    """A figure of each specimen of a run, or of its only one: `s1_dry_mg_m3`, `t2_e50_mpa`, `e50_mpa`."""
    wanted = re.compile(rf"(?:[a-z]\d+_)?{figure}")
    return [v.value for v in told.outcome.values if v.value is not None and usable(v) and wanted.fullmatch(v.key)]


def undrained(evidence: Evidence) -> list[tuple[str, Known]]:
    """Undrained shear strengths, each with the kind of test it is by."""
    found = []
    for method, word in UNDRAINED:
        known = evidence.known(method, "shear_strength_kpa")
        if known and known.value > 0:
            found.append((word, known))
    return found + [("consolidated, at the stress in the ground", k) for k in consolidated(evidence)]


def consolidated(evidence: Evidence) -> list[Known]:
    """Undrained strength at the stress in the ground, kPa: the mean ratio of the specimens that were consolidated to
    a known stress, times that of the ground."""
    for told in evidence.of("triaxial"):
        stress = told.record.in_situ_kpa
        ratios = _of_each(told, "su_ratio")
        if stress and stress > 0 and ratios:
            value = stress * sum(ratios) / len(ratios)
            return [Known(value, None, told.code, False, plain(value, 3), "kPa", "undrained strength", "s_u")]
    return []


def by_two_tests(evidence: Evidence) -> Iterator[Verdict]:
    """Undrained strengths of one soil by two tests; the core beside its vane is held to a band of its own."""
    for (word, a), (other, b) in combinations(undrained(evidence), 2):
        if {word, other} == {"vane", "unconfined"}:
            continue
        ratio = b.value / a.value
        yield ruling(
            "undrained strength by two tests",
            within(ratio, *evidence.bands.strength_ratio),
            f"{a.code} {a.reported} kPa ({word}), {b.code} {b.reported} kPa ({other}): {plain(ratio, 2)}",
            "{:g} to {:g} of it".format(*evidence.bands.strength_ratio),
            "laboratory setting",
            "Disturbance, fissures, rate or another soil: say which is believed.",
            otherwise="watch",
        )


def against_stress(evidence: Evidence) -> Iterator[Verdict]:
    """Undrained strength against the effective stress in the ground, where the newest run that knows it says it."""
    known_kpa = (getattr(told.record, "in_situ_kpa", None) for told in evidence.told)
    stress = next((kpa for kpa in known_kpa if kpa and kpa > 0), None)
    for word, known in undrained(evidence) if stress else ():
        assert stress is not None
        ratio = known.value / stress
        yield ruling(
            "undrained strength against the stress in the ground",
            within(ratio, *evidence.bands.stress_ratio),
            f"{known.code} {known.reported} kPa ({word}) over {plain(stress)} kPa: {plain(ratio, 2)}",
            "{:g} to {:g}".format(*evidence.bands.stress_ratio),
            "laboratory setting",
            "Below: disturbed, or still consolidating. Above: overconsolidated, dried, or another depth. Say which.",
            otherwise="watch",
        )


def angles(evidence: Evidence) -> list[tuple[Known, Known | None]]:
    """Effective friction angles with their cohesion."""
    found = []
    for method, phi, c in DRAINED:
        angle = evidence.known(method, phi)
        if angle:
            found.append((angle, evidence.known(method, c)))
    return found


def angle_by_two_tests(evidence: Evidence) -> Iterator[Verdict]:
    """The friction angle of the box against the cell's."""
    for (a, _), (b, _) in combinations(angles(evidence), 2):
        yield ruling(
            "friction angle by two tests",
            at_most(abs(a.value - b.value), evidence.bands.angles_degrees),
            f"{a.code} {a.reported}°, {b.code} {b.reported}°",
            f"{evidence.bands.angles_degrees:g}° apart",
            "laboratory setting",
            "A forced plane, other stresses or other densities: say which is used, and over which stresses.",
            otherwise="watch",
        )


def angle_of_a_sand(evidence: Evidence, symbol: str) -> Iterator[Verdict]:
    """A sand's or gravel's angle against its group; a cohesion in one without fines."""
    group = symbol.partition("-")[0]
    band = BY_GROUP.get(group)
    for angle, cohesion in angles(evidence) if band else ():
        assert band is not None
        yield ruling(
            "friction angle against the grading",
            within(angle.value, *band),
            f"{angle.code} {angle.reported}° of a soil {symbol}",
            "{:g} to {:g}°, loose to dense".format(*band),
            "laboratory setting",
            "Look at the lever, the density of the specimens and the class.",
            otherwise="watch",
        )
        if cohesion and "M" not in symbol and "C" not in symbol:
            yield ruling(
                "no cohesion in a clean sand",
                at_most(cohesion.value, evidence.bands.sand_cohesion_kpa),
                f"{cohesion.code} {cohesion.reported} kPa of a soil {symbol}",
                f"{evidence.bands.sand_cohesion_kpa:g} kPa",
                "laboratory setting",
                "Friction of the box, a zero that was off, or a curved envelope: not a cohesion to build on.",
                otherwise="watch",
            )


def angle_at_its_density(evidence: Evidence) -> Iterator[Verdict]:
    """The dry density of the specimens that gave an angle against that of the ground: an angle belongs to a density."""
    for method in ("direct_shear", "triaxial"):
        for told in evidence.of(method)[:1]:
            dry = _of_each(told, "dry_mg_m3")
            for ground in filter(None, (evidence.known(m, "dry_density_mg_m3") for m in GROUND)):
                if not dry or ground.value <= 0:
                    continue
                mean = sum(dry) / len(dry)
                yield ruling(
                    "sheared at the density of the ground",
                    within(mean / ground.value, *evidence.bands.density_ratio),
                    f"{told.code} {plain(mean, 3)} Mg/m³, {ground.code} {ground.reported} Mg/m³",
                    "{:g} to {:g} of it".format(*evidence.bands.density_ratio),
                    "laboratory setting",
                    "A denser specimen gives a greater angle than the ground has: say which density the angle is of.",
                    otherwise="watch",
                )


def likely_sine(plasticity_percent: float) -> float:
    """`sin phi' = 0.8 - 0.094 ln PI`, what a clay of that plasticity is likely to have.

    Parameters: `plasticity_percent` PI in %, above 0.
    Returns: a ratio.
    Source: Mitchell (1976), after Kenney (1959); fairly sure.

    >>> round(likely_sine(20.0), 3)
    0.518
    """
    return 0.8 - 0.094 * math.log(plasticity_percent)


def angle_against_plasticity(evidence: Evidence) -> Iterator[Verdict]:
    """A clay's friction angle against its plasticity index."""
    both = limits(evidence)
    if both is None or both.index_percent is None or both.index_percent <= 0:
        return
    likely = likely_sine(both.index_percent)
    for angle, _ in angles(evidence):
        sine = math.sin(math.radians(angle.value))
        low, high = likely - evidence.bands.sine_of_angle, likely + evidence.bands.sine_of_angle
        yield ruling(
            "friction angle against the plasticity",
            within(sine, low, high),
            f"{angle.code} {angle.reported}°, sin φ′ {plain(sine, 2)}; PI {both.reported} ({both.codes})",
            f"{plain(low, 2)} to {plain(high, 2)}: 0.8 − 0.094 ln PI",
            "Mitchell (1976), fairly sure",
            "Below: sheared too fast, or a slip plane. Above: another soil, or partly saturated.",
            otherwise="watch",
        )


def _moduli(evidence: Evidence) -> Iterator[tuple[str, float, float]]:
    """Run, secant modulus in kPa, undrained strength in kPa of one specimen or of one run's mean."""
    for method in ("unconfined_compression", "triaxial"):
        for told in evidence.of(method):
            strength = told.outcome.value("shear_strength_kpa")
            moduli = [1000 * mpa for mpa in _of_each(told, "e50_mpa")]
            if strength and strength.value and usable(strength) and strength.value > 0 and moduli:
                yield told.code, sum(moduli) / len(moduli), strength.value
                break


def stiffness_against_strength(evidence: Evidence) -> Iterator[Verdict]:
    """The secant modulus of a core or of quick specimens over their undrained strength."""
    for code, modulus, strength in _moduli(evidence):
        ratio = modulus / strength
        yield ruling(
            "modulus against strength",
            within(ratio, *evidence.bands.stiffness_ratio),
            f"{code} E50 {plain(modulus / 1000, 3)} MPa over {plain(strength, 3)} kPa: {plain(ratio, 3)}",
            "{:g} to {:g}".format(*evidence.bands.stiffness_ratio),
            "laboratory setting",
            "Low: bedding of the ends, disturbance. High: a dry crust, or a slip of the digits.",
            otherwise="watch",
        )


def friction_readings(evidence: Evidence, symbol: str) -> Iterator[Verdict]:
    """All of them."""
    for reading in (by_two_tests, against_stress, angle_by_two_tests, angle_at_its_density, angle_against_plasticity):
        yield from reading(evidence)
    yield from stiffness_against_strength(evidence)
    yield from angle_of_a_sand(evidence, symbol)
