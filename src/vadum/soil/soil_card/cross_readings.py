"""Cross-readings: one test of a soil held against another. Each is a generator of verdicts, silent without both."""

from collections.abc import Iterator

from vadum.soil.contract.compare import at_most, within
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Verdict
from vadum.soil.contract.verdicts import ruling
from vadum.soil.shared.phases import MOST_SATURATION_PERCENT, saturation_percent
from vadum.soil.shared.physics import WATER_20_MG_M3
from vadum.soil.shared.plasticity import u_line_percent
from vadum.soil.soil_card.bearing import BEARING
from vadum.soil.soil_card.evidence import Evidence, Known
from vadum.soil.soil_card.friction import friction_readings
from vadum.soil.soil_card.limits import FINE_PART_MM, GROUND, activity, limits, liquidity, natural_water
from vadum.soil.soil_card.merged import join_verdict, merged
from vadum.soil.soil_card.stiffness import plate_readings
from vadum.soil.soil_card.strength import core_against_vane, strength_against_liquidity
from vadum.soil.soil_card.water import water_readings


def water_against_limits(evidence: Evidence) -> Iterator[Verdict]:
    """A soil wetter than its liquid limit flows when it is disturbed."""
    grading = merged(evidence)
    found = liquidity(evidence, grading.finer(FINE_PART_MM) if grading else None)
    water = natural_water(evidence)
    if found and water:
        yield ruling(
            "water content against the limits",
            within(found[0], -0.5, 1.0),
            f"w {plain(water.value, 3)} % ({water.code}): liquidity index {plain(found[0], 2)}, {found[1]}",
            "between 0 and 1 for most soils in place",
            "ASTM D4318, ISO 14688-2",
            "Above 1 it flows once disturbed; far below 0 it was dried: say so, and recheck the water content.",
            otherwise="watch",
        )


def plasticity_against_clay(evidence: Evidence) -> Iterator[Verdict]:
    """Plasticity far out of step with the clay content: one of the two is wrong, or the minerals are odd."""
    found = activity(evidence)
    if found:
        low, high = evidence.bands.activity_ratio
        yield ruling(
            "plasticity against clay content",
            within(found[0], low, high),
            f"activity {plain(found[0], 2)}, {found[1]}",
            f"{plain(low)} to {plain(high)}",
            "Skempton (1953); laboratory setting",
            "Recheck limits and hydrometer; odd minerals, or soil that the dispersant did not take apart.",
            otherwise="watch",
        )


def saturation_in_the_ground(evidence: Evidence) -> Iterator[Verdict]:
    """More water than pores is impossible: with the specific gravity measured on this soil."""
    gravity = evidence.known("specific_gravity", "specific_gravity_ratio")
    for method in GROUND:
        dry = evidence.known(method, "dry_density_mg_m3")
        water = evidence.known(method, "water_content_percent")
        if not (dry and water and gravity) or gravity.value * WATER_20_MG_M3 <= dry.value:
            continue
        found = saturation_percent(water.value, dry.value, gravity.value * WATER_20_MG_M3)
        yield ruling(
            "saturation in the ground",
            at_most(found, MOST_SATURATION_PERCENT),
            f"{dry.code} with Gs {gravity.reported} ({gravity.code}): {plain(found, 4)} %",
            "100 %",
            "physics",
            "A mass, the volume or the specific gravity is wrong: find which before either is reported.",
        )


def point_below_the_u_line(evidence: Evidence) -> Iterator[Verdict]:
    """The card's liquid limit against the index of the card's two limits."""
    both = limits(evidence)
    if both is None or both.index_percent is None:
        return
    upper = u_line_percent(both.liquid_percent)
    yield ruling(
        "point below the U-line",
        at_most(both.index_percent, upper),
        f"PI {both.reported} at LL {plain(both.liquid_percent, 3)} ({both.codes})",
        f"{plain(upper, 3)}: 0.9 (LL − 8)",
        "ASTM D2487",
        "Hardly any soil plots there: recheck both limits.",
        otherwise="watch",
    )


def fines_by_two_tests(evidence: Evidence) -> Iterator[Verdict]:
    """The sieve's fines against the hydrometer's."""
    grading = merged(evidence)
    verdict = join_verdict(grading) if grading else None
    if verdict:
        yield verdict


def relative_compaction(evidence: Evidence) -> list[tuple[Known, Known, float]]:
    """For each density in the ground: it, the laboratory maximum, and their ratio in percent.

    The laboratory's own correction belongs to its own sample: a place with other stones corrects the maximum in its
    own run, and that ratio stands there.
    """
    most = evidence.known("compaction", "maximum_dry_density_mg_m3")
    found = []
    for method in GROUND:
        dry = evidence.known(method, "dry_density_mg_m3")
        if dry and most:
            found.append((dry, most, 100 * dry.value / most.value))
    return found


def ground_against_maximum(evidence: Evidence) -> Iterator[Verdict]:
    """Dry density in the ground against the compaction maximum."""
    low, high = evidence.bands.compaction_percent
    for dry, most, share in relative_compaction(evidence):
        yield ruling(
            "ground against the compaction maximum",
            within(share, low, high),
            f"{dry.code} {dry.reported} of {most.code} {most.reported} Mg/m³: {plain(share, 4)} %",
            f"{plain(low)} to {plain(high)} % as ground has it; the job's own figure decides",
            "laboratory setting",
            "Above: another effort, other stones or a wrong volume. Below: loose, or not the same soil.",
            otherwise="watch",
        )


def water_by_two_tests(evidence: Evidence) -> Iterator[Verdict]:
    """The water content of the sample's own test against a density's tin."""
    own = evidence.known("water_content", "water_content_percent")
    for method in GROUND:
        other = evidence.known(method, "water_content_percent")
        if own and other:
            apart = abs(own.value - other.value)
            yield ruling(
                "water content by two tests",
                at_most(apart, evidence.bands.water_points),
                f"{own.code} {own.reported} %, {other.code} {other.reported} %",
                f"{plain(evidence.bands.water_points)} points",
                "laboratory setting",
                "Another day, another place in the pit, or a bag that dried: say which holds.",
                otherwise="watch",
            )


ALL = (
    fines_by_two_tests,
    water_against_limits,
    plasticity_against_clay,
    point_below_the_u_line,
    saturation_in_the_ground,
    ground_against_maximum,
    water_by_two_tests,
)


def cross_readings(evidence: Evidence, symbol: str = "", texture: str = "") -> tuple[Verdict, ...]:
    """Every cross-reading that the runs, the soil's group in the unified system and its texture allow; the gravest
    first."""
    found = [v for reading in ALL for v in reading(evidence)]
    found += core_against_vane(evidence)
    grading = merged(evidence)
    index = liquidity(evidence, grading.finer(FINE_PART_MM) if grading else None)
    found += strength_against_liquidity(evidence, index[0] if index else None, natural_water(evidence))
    found += friction_readings(evidence, symbol)
    found += plate_readings(evidence)
    found += water_readings(evidence, grading, texture)
    found += [v for reading in BEARING for v in reading(evidence, symbol)]
    order = {"stop": 0, "redo": 1, "watch": 2, "fine": 3}
    return tuple(sorted(found, key=lambda v: order[v.level]))
