"""Cross-readings of the bearing ratio: against the class, in place against the mould, swell against plasticity."""

from collections.abc import Iterator

from vadum.soil.contract.compare import at_most, within
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Verdict
from vadum.soil.contract.verdicts import ruling
from vadum.soil.soil_card.evidence import Evidence, Known
from vadum.soil.soil_card.limits import limits, nonplastic

# Bearing ratio in percent that the groups of the unified classification usually give, as pavement manuals tabulate it.
USUAL_RATIO: dict[str, tuple[float, float]] = {
    "GW": (40, 80),
    "GP": (30, 60),
    "GM": (20, 60),
    "GC": (20, 40),
    "SW": (20, 40),
    "SP": (10, 40),
    "SM": (10, 40),
    "SC": (5, 20),
    "ML": (2, 15),
    "CL": (2, 15),
    "OL": (1, 5),
    "MH": (1, 10),
    "CH": (1, 15),
    "OH": (1, 5),
}
# Swell in percent of the height that a plasticity index leaves room for: laboratory setting.
SWELL_BY_PLASTICITY = ((7.0, 1.0), (20.0, 3.0), (35.0, 6.0))
MOULD, GROUND = "cbr", "field_cbr"


def ratio_of(evidence: Evidence, method: str) -> Known | None:
    """The newest governing bearing ratio, %, of the mould or of the ground."""
    return evidence.known(method, "bearing_ratio_percent")


def usual_ratio(symbol: str) -> tuple[float, float] | None:
    """The usual range, %, of a group or of both halves of a dual one; None for a group the table does not hold.

    >>> usual_ratio("SC"), usual_ratio("SW-SM"), usual_ratio("PT")
    ((5, 20), (10, 40), None)
    """
    ranges = [USUAL_RATIO[s] for s in symbol.split("-") if s in USUAL_RATIO]
    return (min(low for low, _ in ranges), max(high for _, high in ranges)) if ranges else None


def ratio_against_class(evidence: Evidence, symbol: str) -> Iterator[Verdict]:
    """A bearing ratio far outside what soils of its class give."""
    usual = usual_ratio(symbol)
    for method in (MOULD, GROUND):
        found = ratio_of(evidence, method)
        if found is None or usual is None:
            continue
        (low, high), times = usual, evidence.bands.usual_ratio_times
        yield ruling(
            "bearing ratio against the class" if method == MOULD else "bearing ratio in place against the class",
            within(found.value, low / times, high * times),
            f"CBR {found.reported} % ({found.code}) of {symbol}",
            f"{plain(low)} to {plain(high)} % are usual for {symbol}; remarked on beyond {plain(times)} times",
            "pavement design manuals; laboratory setting",
            "High: dried out, cemented, or a stone beneath. Low: wet, loose, or another soil than was classed.",
            otherwise="watch",
        )


def ground_against_mould(evidence: Evidence, symbol: str) -> Iterator[Verdict]:
    """The ratio in place beside the laboratory's, with the waters that may explain a difference."""
    mould, ground = ratio_of(evidence, MOULD), ratio_of(evidence, GROUND)
    if not (mould and ground) or min(mould.value, ground.value) <= 0:
        return
    times = ground.value / mould.value
    beside = evidence.known(GROUND, "water_content_percent")
    after = evidence.known(MOULD, "after_top_percent") or evidence.known(MOULD, "water_content_percent")
    waters = f"; w {beside.reported} % in place, {after.reported} % in the mould" if beside and after else ""
    yield ruling(
        "bearing ratio in place against the mould",
        within(times, 1 / evidence.bands.mould_to_ground_times, evidence.bands.mould_to_ground_times),
        f"{ground.code} {ground.reported} %, {mould.code} {mould.reported} %{waters}",
        f"within {plain(evidence.bands.mould_to_ground_times)} times of each other",
        "laboratory setting",
        "Compare water content and density of both before either is used: a soaked mould and dry ground differ.",
        otherwise="watch",
    )


def swell_against_plasticity(evidence: Evidence, symbol: str) -> Iterator[Verdict]:
    """Soils of little plasticity hardly swell: a large swell there is a gauge that moved."""
    swell = evidence.known(MOULD, "swell_percent")
    both, loose = limits(evidence), nonplastic(evidence)
    if swell is None or not (both or loose):
        return
    plasticity = 0.0 if loose or both is None else both.index_percent or 0.0
    most = next((most for limit, most in SWELL_BY_PLASTICITY if plasticity < limit), None)
    if most is None:
        return
    said = "a nonplastic soil" if loose or both is None else f"PI {both.reported} ({both.codes})"
    yield ruling(
        "swell against plasticity",
        at_most(swell.value, most),
        f"swell {swell.reported} % ({swell.code}) at {said}",
        f"{plain(most)} % at most",
        "laboratory setting",
        "Look at the swell gauge's stand and its first reading; then at the limits.",
        otherwise="watch",
    )


BEARING = (ratio_against_class, ground_against_mould, swell_against_plasticity)
