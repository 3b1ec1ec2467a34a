"""The rules that judge a water content."""

from collections.abc import Iterator

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Verdict
from vadum.soil.contract.rules import Judge
from vadum.soil.contract.times import minutes_between, span
from vadum.soil.methods.water_content.drying import constancy, dry_weighings
from vadum.soil.methods.water_content.facts import Facts
from vadum.soil.methods.water_content.school import SPECIMEN_SIZES, WaterContentSchool
from vadum.soil.shared.water_by_tin import balance_in_date, masses_possible


def masses_obey_physics(facts: Facts, school: WaterContentSchool) -> Iterator[Verdict]:
    """No negative, missing-digit or upside-down mass."""
    record = facts.record
    name = f"tin {record.tin}" if record.tin else "tin"
    yield from masses_possible(record.mass_tin_g, record.mass_wet_g, None, "", name)
    for index, row in enumerate(record.weighings):
        for verdict in masses_possible(record.mass_tin_g, record.mass_wet_g, row.mass_dry_g, "", name):
            if any("mass_dry_g" in path for path in verdict.at):
                at = tuple(p.replace("mass_dry_g", f"weighings[{index}].mass_dry_g") for p in verdict.at)
                yield verdict.model_copy(update={"at": at})


def least_mass_g(largest_particle_mm: float, report_to_percent: float) -> float | None:
    """Least wet specimen mass, g, for the largest particle in mm; None above the table.

    Source: ASTM D2216, table 1.

    >>> least_mass_g(4.75, 0.1), least_mass_g(12.5, 1.0), least_mass_g(100, 1)
    (100, 250, None)
    """
    for size, coarse, fine in SPECIMEN_SIZES:
        if largest_particle_mm <= size:
            return fine if report_to_percent < 1 else coarse
    return None


def specimen_large_enough(facts: Facts, school: WaterContentSchool) -> Iterator[Verdict]:
    """The specimen holds enough soil for its largest grain and the precision reported."""
    record = facts.record
    if not (known(record.mass_wet_g) and known(record.mass_tin_g)) or record.mass_wet_g <= record.mass_tin_g:
        return
    wet = record.mass_wet_g - record.mass_tin_g
    report_to = record.report_to_percent if known(record.report_to_percent) else 1.0
    least, source = None, "ASTM D2216, table 1"
    if school.least_mass_g:
        least, source = school.least_mass_g, "laboratory setting"
    elif known(record.largest_particle_mm):
        least = least_mass_g(record.largest_particle_mm, report_to)
        if least is None:
            yield Verdict(
                rule="specimen large enough for its largest grain",
                level="watch",
                found=f"largest particle {plain(record.largest_particle_mm)} mm",
                limit="the table ends at 75 mm",
                source=source,
                remedy="Agree the specimen's size with whoever asked for the test.",
                at=("largest_particle_mm",),
            )
            return
    if least is None:
        return
    enough = wet >= least
    yield Verdict(
        rule="specimen large enough for its largest grain",
        level="fine" if enough else "watch",
        found=f"{plain(wet)} g wet soil",
        limit=f"{plain(least, 6)} g or more" + ("" if school.least_mass_g else f", reporting to {plain(report_to)} %"),
        source=source,
        remedy="" if enough else "Take a larger specimen, or report to the coarser step and say so.",
        at=("mass_wet_g",),
    )


def temperature_within_band(facts: Facts, school: WaterContentSchool) -> Iterator[Verdict]:
    """The oven stood within the school's band."""
    record = facts.record
    if school.temperature_c is None or not known(record.oven_temperature_c):
        return
    low, high = school.temperature_c
    held = low <= record.oven_temperature_c <= high
    yield Verdict(
        rule="oven temperature within its band",
        level="fine" if held else "watch",
        found=f"{plain(record.oven_temperature_c)} °C",
        limit=f"{plain(low)} to {plain(high)} °C",
        source=school.standard,
        remedy="" if held else "Reset the oven; too hot burns organic matter and drives water out of gypsum.",
        at=("oven_temperature_c",),
    )


def dried_long_enough(facts: Facts, school: WaterContentSchool) -> Iterator[Verdict]:
    """The first weighing came no earlier than the school's least time, or a second one shows constancy."""
    record = facts.record
    weighings = dry_weighings(record)
    if not weighings or weighings[-1].drying_h is None or constancy(record, school):
        return
    minutes = weighings[-1].drying_h * 60
    if minutes < 0:
        yield Verdict(
            rule="weighed after drying began",
            level="stop",
            found=f"weighed {span(-minutes)} before drying began",
            limit="after",
            source="physics",
            remedy="One of the two times is wrong; strike it.",
            at=("in_oven_at", f"weighings[{weighings[-1].row}].weighed_at"),
        )
        return
    enough = minutes >= school.first_min
    yield Verdict(
        rule="dried long enough",
        level="fine" if enough else "redo",
        found=span(minutes),
        limit=f"{span(school.first_min)} or more",
        source=school.standard,
        remedy="" if enough else "Put it back and weigh again.",
        at=("weighings[0].weighed_at",),
    )


def mass_constant(facts: Facts, school: WaterContentSchool) -> Iterator[Verdict]:
    """Two successive weighings differ by no more than the limit."""
    record = facts.record
    weighings = dry_weighings(record)
    change = constancy(record, school)
    if change is None:
        if weighings and school.second_weighing:
            yield Verdict(
                rule="dry mass constant",
                level="redo",
                found="one dry weighing",
                limit="two that agree",
                source=school.standard,
                remedy=f"Heat for another {span(school.again_min)} and weigh again.",
                at=(f"weighings[{len(record.weighings)}].mass_dry_g",),
            )
        return
    moved = abs(change.after_g - change.before_g)
    at = (f"weighings[{weighings[-1].row}].mass_dry_g",)
    if change.after_g > change.before_g and not change.holds:
        yield Verdict(
            rule="dry mass does not grow",
            level="redo",
            found=f"{plain(moved)} g heavier than before",
            limit=f"{plain(change.limit_g)} g",
            source="physics",
            remedy="Something else was weighed, or it took up water: dry it and weigh again.",
            at=at,
        )
        return
    yield Verdict(
        rule="dry mass constant",
        level="fine" if change.holds else "redo",
        found=f"{plain(moved)} g between the last two weighings",
        limit=f"{plain(change.limit_g)} g ({plain(school.constant_percent)} % of the wet soil)",
        source=f"laboratory setting, {school.standard}",
        remedy="" if change.holds else f"Not constant: back into the heat for {span(school.again_min)}.",
        at=at,
    )


def tare_agrees(facts: Facts, school: WaterContentSchool) -> Iterator[Verdict]:
    """The tin weighed today agrees with its register."""
    record = facts.record
    if not (known(record.mass_tin_g) and known(record.mass_tin_register_g)):
        return
    drift = abs(record.mass_tin_g - record.mass_tin_register_g)
    held = drift <= school.tare_drift_g + 1e-9
    yield Verdict(
        rule="tin agrees with its register",
        level="fine" if held else "watch",
        found=f"{plain(drift, 3)} g apart",
        limit=f"{plain(school.tare_drift_g)} g",
        source="laboratory setting",
        remedy="" if held else "Clean, dry and weigh the tin; correct the register.",
        at=("mass_tin_g",),
    )


def balance_fine_enough(facts: Facts, school: WaterContentSchool) -> Iterator[Verdict]:
    """The balance's step is small against the specimen."""
    record = facts.record
    if not (known(record.balance_readability_g) and known(record.mass_wet_g) and known(record.mass_tin_g)):
        return
    wet = record.mass_wet_g - record.mass_tin_g
    if wet <= 0:
        return
    share = 100 * record.balance_readability_g / wet
    held = share <= school.balance_error_percent
    yield Verdict(
        rule="balance fine enough for the mass",
        level="fine" if held else "watch",
        found=f"{plain(record.balance_readability_g)} g is {plain(share, 2)} % of {plain(wet)} g",
        limit=f"{plain(school.balance_error_percent)} %",
        source="ASTM D2216",
        remedy="" if held else "Use a finer balance or more soil.",
        at=("balance_readability_g",),
    )


def weighed_fresh(facts: Facts, school: WaterContentSchool) -> Iterator[Verdict]:
    """Not weighed late after sampling unless it was sealed."""
    record = facts.record
    if record.sampled_at is None or record.weighed_wet_at is None:
        return
    hours = minutes_between(record.sampled_at, record.weighed_wet_at) / 60
    held = hours <= school.most_hours_since_sampling or record.sealed == "yes"
    yield Verdict(
        rule="weighed soon after sampling, or sealed",
        level="fine" if held else "watch",
        found=f"{span(hours * 60)} after sampling" + (", sealed" if record.sealed == "yes" else ""),
        limit=f"{plain(school.most_hours_since_sampling)} h unless sealed",
        source="laboratory setting",
        remedy="" if held else "Water may be lost: say so on the sheet.",
        at=("sampled_at",),
    )


def cooled_before_weighing(facts: Facts, school: WaterContentSchool) -> Iterator[Verdict]:
    """Hot soil lifts the balance pan."""
    record = facts.record
    if not known(record.cooled_min):
        return
    held = record.cooled_min >= school.cool_min
    yield Verdict(
        rule="cooled before weighing",
        level="fine" if held else "watch",
        found=span(record.cooled_min),
        limit=f"{span(school.cool_min)} or more, lid on",
        source="laboratory setting",
        remedy="" if held else "Hot soil reads light: cool it with the lid on and weigh again.",
        at=("cooled_min",),
    )


def no_fog_on_the_mirror(facts: Facts, school: WaterContentSchool) -> Iterator[Verdict]:
    """Over direct heat the mirror was clear at the last weighing."""
    record = facts.record
    rows = [(i, row.mirror) for i, row in enumerate(record.weighings) if row.mirror]
    if school.dried_by != "direct heat" or not rows:
        return
    index, mirror = rows[-1]
    yield Verdict(
        rule="no fog on a cool mirror",
        level="fine" if mirror == "clear" else "redo",
        found=f"mirror {mirror}",
        limit="clear",
        source="ASTM D4959",
        remedy="" if mirror == "clear" else "Still losing water: stir over the heat and look again.",
        at=(f"weighings[{index}].mirror",),
    )


def soil_suits_the_heat(facts: Facts, school: WaterContentSchool) -> Iterator[Verdict]:
    """Gypsum and organic soil are dried cooler."""
    record = facts.record
    if record.gypsum_or_organic != "yes":
        return
    cool = school.temperature_c is not None and school.temperature_c[1] <= 80
    yield Verdict(
        rule="drying heat suits the soil",
        level="fine" if cool else "watch",
        found="gypsum or much organic matter",
        limit="60 to 80 °C",
        source=school.standard,
        remedy="" if cool else "Dry a second specimen at 60 °C and compare.",
        at=("gypsum_or_organic",),
    )


RULES: tuple[Judge, ...] = (
    masses_obey_physics,
    mass_constant,
    dried_long_enough,
    no_fog_on_the_mirror,
    specimen_large_enough,
    temperature_within_band,
    soil_suits_the_heat,
    tare_agrees,
    balance_fine_enough,
    weighed_fresh,
    cooled_before_weighing,
    balance_in_date,
)
