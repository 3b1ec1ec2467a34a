"""Cross-readings of plates: against the bearing ratio, the compaction beside, the quick strength, and each other.

Each is a watch, never a result. The bands are laboratory settings (`bands`).
"""

from collections.abc import Iterator

from vadum.soil.contract.compare import at_least, at_most, within
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Verdict
from vadum.soil.contract.verdicts import ruling
from vadum.soil.soil_card.evidence import Evidence, Known, Told, usable

MODULUS = "plate_modulus"


def _in(told: Told, key: str) -> float | None:
    found = next((v for v in told.outcome.values if v.key == key and usable(v)), None)
    return None if found is None else found.value


def modulus_against_ratio(evidence: Evidence) -> Iterator[Verdict]:
    """A second modulus beside the bearing ratio of the same ground."""
    found = evidence.known(MODULUS, "ev2_mn_m2")
    for method in ("field_cbr", "cbr"):
        ratio: Known | None = evidence.known(method, "bearing_ratio_percent")
        if found is None or ratio is None or ratio.value <= 0:
            continue
        times = found.value / ratio.value
        yield ruling(
            "plate modulus against the bearing ratio",
            within(times, *evidence.bands.modulus_over_ratio),
            f"{found.code} {found.reported} MN/m², {ratio.code} {ratio.reported} %: {plain(times, 2)} MN/m² a percent",
            "{:g} to {:g}".format(*evidence.bands.modulus_over_ratio),
            "laboratory setting",
            "Look whether both stood on the same layer and water: a crust, a stone or a soaked mould parts them.",
            otherwise="watch",
        )
        return


def modulus_against_compaction(evidence: Evidence) -> Iterator[Verdict]:
    """A ratio of the moduli as of loose ground where the density beside says it is dense."""
    for told in evidence.of(MODULUS):
        dense, ratio = told.record.compaction_beside_percent, _in(told, "ev_ratio")
        if dense is None:
            known = evidence.known("pit_density", "relative_compaction_percent")
            dense = known.value if known else None
        if dense is None or ratio is None:
            continue
        odd = at_least(dense, evidence.bands.dense_percent) and not at_most(ratio, evidence.bands.loose_modulus_ratio)
        yield ruling(
            "plate against the compaction",
            not odd,
            f"{told.code}: ratio {plain(ratio, 3)} at a compaction of {plain(dense, 3)} %",
            f"at most {evidence.bands.loose_modulus_ratio:g} from {evidence.bands.dense_percent:g} % on",
            "laboratory setting",
            "Dense by mass and loose by the plate: look at the water, at fines between the grains, at the layer below.",
            otherwise="watch",
        )


def strength_under_the_plate(evidence: Evidence) -> Iterator[Verdict]:
    """The quick strength that a plate on clay gives beside that of a core or a vane."""
    plate = evidence.known("plate_bearing", "undrained_strength_kpa")
    for method in ("unconfined_compression", "field_vane", "triaxial"):
        other = evidence.known(method, "shear_strength_kpa")
        if plate is None or other is None or other.value <= 0:
            continue
        times = plate.value / other.value
        yield ruling(
            "strength under the plate against another test",
            within(times, *evidence.bands.plate_strength_ratio),
            f"{plate.code} {plate.reported} kPa, {other.code} {other.reported} kPa: {plain(times, 2)} of it",
            "{:g} to {:g}".format(*evidence.bands.plate_strength_ratio),
            "laboratory setting",
            "Look at fissures and at the pit's floor: a plate feels what a small core misses, and a softened floor.",
            otherwise="watch",
        )


def plate_readings(evidence: Evidence) -> Iterator[Verdict]:
    """Everything that plates say beside the other tests of their ground."""
    yield from modulus_against_ratio(evidence)
    yield from modulus_against_compaction(evidence)
    yield from strength_under_the_plate(evidence)
