"""The rules that judge a bearing ratio in the mould."""

from collections.abc import Iterator

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Verdict
from vadum.soil.contract.rules import Judge
from vadum.soil.contract.times import minutes_between, span
from vadum.soil.contract.verdicts import possible, ruling
from vadum.soil.methods.cbr.facts import Facts
from vadum.soil.methods.cbr.school import MouldSchool
from vadum.soil.methods.cbr.specimen import compacted_percent, dry_density, swells
from vadum.soil.shared.bearing.checks import SHARED
from vadum.soil.shared.bearing.ends import all_found, governing
from vadum.soil.shared.water_by_tin import balance_in_date, masses_possible

SETTING = "laboratory setting"
BULK = ("density_mg_m3", "dry_density_mg_m3", "compaction_percent")


def masses_obey_physics(facts: Facts, school: MouldSchool) -> Iterator[Verdict]:
    """Masses, volume and height are numbers that can be."""
    record = facts.record
    yield from possible(
        [
            ("mould_mass_g", "empty mould", record.mould_mass_g),
            ("mould_volume_cm3", "volume", record.mould_volume_cm3),
            ("mass_portion_g", "soil for the mould", record.mass_portion_g),
            ("mass_with_soil_g", "mould + soil", record.mass_with_soil_g),
        ],
        strictly=True,
        affects=BULK,
    )
    full, empty = record.mass_with_soil_g, record.mould_mass_g
    if known(full) and known(empty) and full <= empty:
        yield Verdict(
            rule="the full mould weighs more than the empty one",
            level="stop",
            found=f"{plain(full, 6)} ≤ {plain(empty, 6)} g",
            limit="full > empty",
            source="physics",
            remedy="Look at the digits; was the collar on? Strike the wrong one.",
            at=("mass_with_soil_g", "mould_mass_g"),
            affects=BULK,
        )
    for i, tin in enumerate(record.tins):
        yield from masses_possible(tin.mass_tin_g, tin.mass_wet_g, tin.mass_dry_g, f"tins[{i}].", f"tin {i + 1}")


def few_stones_screened_out(facts: Facts, school: MouldSchool) -> Iterator[Verdict]:
    """The stones that were left out were few."""
    record = facts.record
    if known(record.oversize_percent):
        yield ruling(
            "few stones screened out",
            record.oversize_percent <= school.most_oversize_percent,
            f"{plain(record.oversize_percent, 3)} %",
            f"{plain(school.most_oversize_percent)} %",
            "BS 1377-4",
            "The mould does not stand for this soil: test in place, or say so on the sheet.",
            ("oversize_percent",),
            otherwise="watch",
        )


def near_the_optimum(facts: Facts, school: MouldSchool) -> Iterator[Verdict]:
    """The soil was compacted near the wanted water content."""
    record = facts.record
    water, wanted = compacted_percent(record), record.optimum_water_percent
    if water is None or not known(wanted) or record.mass_with_soil_g is None:
        return
    apart = abs(water[0] - wanted)
    yield ruling(
        "compacted near the wanted water content",
        apart <= school.most_water_gap_percent,
        f"{'about ' if water[1] else ''}{plain(water[0], 3)} %, wanted {plain(wanted, 3)} %",
        f"± {plain(school.most_water_gap_percent)} points",
        SETTING,
        "The ratio belongs to the water content it was compacted at: say so on the sheet.",
        ("optimum_water_percent",),
        otherwise="watch",
    )


def dense_as_wanted(facts: Facts, school: MouldSchool) -> Iterator[Verdict]:
    """The specimen has the wanted share of the maximum dry density."""
    record = facts.record
    dry, most, target = dry_density(record), record.maximum_dry_density_mg_m3, record.target_percent
    if dry is None or not known(most) or most <= 0 or not known(target):
        return
    reached = 100 * dry[0] / most
    yield ruling(
        "as dense as wanted",
        abs(reached - target) <= school.most_target_gap_percent,
        f"{plain(reached, 4)} % of the maximum",
        f"{plain(target)} ± {plain(school.most_target_gap_percent)} %",
        SETTING,
        "Compact another with more or fewer blows, or bracket the wanted density with three.",
        ("target_percent",),
        otherwise="watch",
    )


def soaked_long_enough(facts: Facts, school: MouldSchool) -> Iterator[Verdict]:
    """A soaked specimen stood in water for its days, and its swell was read."""
    record = facts.record
    if record.condition != "soaked" or record.soak_started_at is None or record.soak_ended_at is None:
        return
    soaked = minutes_between(record.soak_started_at, record.soak_ended_at)
    yield ruling(
        "soaked for its days",
        soaked >= school.least_soak_share * school.soak_days * 1440 and bool(swells(record)),
        f"{span(soaked)}, {len(swells(record))} swell readings",
        f"{plain(school.soak_days)} days",
        school.standard,
        "Report it as soaked for the time it was; or soak another.",
        ("soak_ended_at",),
        otherwise="watch",
    )


def swells_little(facts: Facts, school: MouldSchool) -> Iterator[Verdict]:
    """The swell is small, and does not run backward."""
    record = facts.record
    found = swells(record)
    if not found:
        return
    _, last = found[-1]
    sinks = last < -0.1
    yield ruling(
        "swell small",
        last <= school.most_swell_percent and not sinks,
        f"{plain(last, 2)} %",
        f"from 0 to {plain(school.most_swell_percent)} %",
        SETTING,
        "It sank: look whether the gauge was moved." if sinks else "A swelling soil: say so beside the ratio.",
        tuple(f"swell[{i}].gauge_mm" for i, _ in found[-1:]),
        otherwise="watch",
    )


def ends_agree(facts: Facts, school: MouldSchool) -> Iterator[Verdict]:
    """Both ends give nearly the same ratio."""
    record = facts.record
    found = all_found(record, school)
    ratios = [g.percent for f in found if f.over and (g := governing(f, record, school)) and not g.more_than]
    if len(ratios) < 2 or sum(ratios) <= 0:
        return
    mean = sum(ratios) / 2
    apart = 100 * abs(ratios[0] - mean) / mean
    yield ruling(
        "both ends agree",
        apart <= school.average_within_percent,
        f"top {plain(ratios[0], 3)}, bottom {plain(ratios[1], 3)} %: {plain(apart, 2)} % from their mean",
        f"{plain(school.average_within_percent)} % of the mean",
        school.standard,
        "Both are reported, no mean; look for a harder layer or a soaked end.",
        ("bottom",),
        otherwise="watch",
    )


RULES: tuple[Judge, ...] = (
    masses_obey_physics,
    few_stones_screened_out,
    near_the_optimum,
    dense_as_wanted,
    soaked_long_enough,
    swells_little,
    ends_agree,
    balance_in_date,
    *SHARED,
)
