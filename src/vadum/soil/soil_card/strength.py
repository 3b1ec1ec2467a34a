"""Strengths held against each other: a core against the vane beside it, either against the liquidity index."""

from collections.abc import Iterator

from vadum.soil.contract.compare import at_least, within
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Verdict
from vadum.soil.contract.verdicts import ruling
from vadum.soil.shared.sensitivity import remoulded_by_liquidity_kpa
from vadum.soil.soil_card.evidence import Evidence, Known, Told


def _depth_of_core(told: Told) -> float | None:
    depth: float | None = getattr(told.record, "depth_m", None)
    return depth


def vane_beside(evidence: Evidence, depth_m: float) -> tuple[str, float, float, float | None] | None:
    """The vane test nearest to a depth: its run, its depth in m, its strength and its remoulded strength in kPa."""
    found: list[tuple[float, str, float, float, float | None]] = []
    for told in evidence.of("field_vane"):
        rows = [r for r in told.outcome.series.get("profile", ()) if r["state"] == "counts"]
        weak = {r["trial"]: float(r["strength_kpa"] or 0) for r in rows if r["kind"] == "remoulded"}
        for row in rows:
            if row["kind"] == "undisturbed":
                at = float(row["depth_m"] or 0)
                found.append(
                    (abs(at - depth_m), told.code, at, float(row["strength_kpa"] or 0), weak.get(row["trial"]))
                )
    if not found:
        return None
    apart, code, at, strength, remoulded = min(found, key=lambda f: f[0])
    return (code, at, strength, remoulded) if apart <= evidence.bands.depths_m else None


def core_against_vane(evidence: Evidence) -> Iterator[Verdict]:
    """Half a core's strength against the vane's at its depth."""
    for told in evidence.of("unconfined_compression"):
        half, depth = evidence.known("unconfined_compression", "shear_strength_kpa"), _depth_of_core(told)
        vane = vane_beside(evidence, depth) if depth is not None else None
        if half is None or vane is None or half.code != told.code or vane[2] <= 0:
            continue
        code, at, strength, _ = vane
        ratio = half.value / strength
        yield ruling(
            "unconfined strength against the vane",
            within(ratio, *evidence.bands.core_to_vane_ratio),
            f"{half.code} {half.reported} kPa at {depth:g} m, {code} {strength:.1f} kPa at {at:g} m: {plain(ratio, 2)}",
            "{:g} to {:g} of it".format(*evidence.bands.core_to_vane_ratio),
            "laboratory setting",
            "Lower: a disturbed or fissured core. Higher: it dried, or the vane met sand. Say which is believed.",
            otherwise="watch",
        )


def _remoulded(evidence: Evidence) -> tuple[str, float] | None:
    for told in evidence.of("field_vane"):
        rows = told.outcome.series.get("profile", ())
        weak = [float(r["strength_kpa"] or 0) for r in rows if r["kind"] == "remoulded" and r["state"] == "counts"]
        if weak:
            return told.code, sum(weak) / len(weak)
    core = evidence.known("unconfined_compression", "remoulded_strength_kpa")
    return (core.code, core.value / 2) if core else None


def strength_against_liquidity(evidence: Evidence, liquidity: float | None, water: Known | None) -> Iterator[Verdict]:
    """Remoulded strength against what the liquidity index makes likely; no clay in place is weaker than that."""
    if liquidity is None or water is None:
        return
    likely = remoulded_by_liquidity_kpa(liquidity)
    words = f"LI {plain(liquidity, 2)} ({water.code}) makes {plain(likely, 2)} kPa likely"
    remoulded = _remoulded(evidence)
    if remoulded and remoulded[1] > 0:
        code, value = remoulded
        yield ruling(
            "remoulded strength against the liquidity index",
            within(value / likely, 1 / evidence.bands.liquidity_times, evidence.bands.liquidity_times),
            f"{code} {value:.1f} kPa remoulded; {words}",
            f"within {evidence.bands.liquidity_times:g} times, an order of magnitude",
            "170 exp(-4.6 LI), fairly sure",
            "Another water content than the tested soil's, or turns that did not remould it.",
            otherwise="watch",
        )
    for method in ("unconfined_compression", "field_vane", "triaxial"):
        whole = evidence.known(method, "shear_strength_kpa")
        if whole:
            yield ruling(
                "strength against the liquidity index",
                at_least(whole.value, likely / evidence.bands.liquidity_times),
                f"{whole.code} {whole.reported} kPa; {words} even remoulded",
                f"at least a {evidence.bands.liquidity_times:g}th of it",
                "170 exp(-4.6 LI), fairly sure",
                "Weaker than remoulded soil at this water content: disturbed, fissured, or not the same soil.",
                otherwise="watch",
            )
