"""The rules that judge a plastic limit and its indices."""

from collections.abc import Iterator

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import mean, plain
from vadum.soil.contract.outcome import Verdict
from vadum.soil.methods.plastic_limit.record import Record
from vadum.soil.methods.plastic_limit.schools import PlasticLimitSchool
from vadum.soil.methods.plastic_limit.threads import counting, nonplastic_because
from vadum.soil.shared.plasticity import u_line_percent
from vadum.soil.shared.water_by_tin import balance_in_date, masses_possible


def masses_obey_physics(record: Record, school: PlasticLimitSchool) -> Iterator[Verdict]:
    """No impossible mass in a determination that is not left out."""
    for i, row in enumerate(record.determinations):
        if not row.excluded_because:
            at, name = f"determinations[{i}].", f"determination {i + 1}"
            yield from masses_possible(row.mass_tin_g, row.mass_wet_g, row.mass_dry_g, at, name)


def percentages_possible(record: Record, school: PlasticLimitSchool) -> Iterator[Verdict]:
    """Figures taken from other tests are numbers that can be."""
    for field, words, high in (
        ("liquid_limit_percent", "liquid limit", 1000.0),
        ("natural_water_content_percent", "natural water content", 1000.0),
        ("finer_than_2um_percent", "finer than 2 µm", 100.0),
    ):
        value = getattr(record, field)
        if value is not None and not (known(value) and 0 <= value <= high):
            yield Verdict(
                rule="figures from other tests are possible",
                level="stop",
                found=f"{words} reads {value}",
                limit=f"0 to {plain(high)} %",
                source="physics",
                remedy="Strike it and look it up again.",
                at=(field,),
            )


def soil_is_plastic(record: Record, school: PlasticLimitSchool) -> Iterator[Verdict]:
    """Nonplastic by any of the rules is reported as NP, never as a negative index."""
    why = nonplastic_because(record)
    if why:
        yield Verdict(
            rule="soil is plastic",
            level="watch",
            found=why,
            limit="threads roll, LL exists, PL < LL",
            source="ASTM D4318, AASHTO T 90",
            remedy="Report NP.",
            at=("cannot_be_rolled",),
        )


def determinations_agree(record: Record, school: PlasticLimitSchool) -> Iterator[Verdict]:
    """The determinations lie within the school's limit."""
    contents = [content for _, content in counting(record)]
    if len(contents) < 2:
        return
    apart = max(contents) - min(contents)
    limit = school.most_apart_percent
    words = f"{plain(limit or 0)} points"
    if school.most_apart_of_mean_percent is not None:
        limit = school.most_apart_of_mean_percent / 100 * mean(contents)
        words = f"{plain(limit, 3)} points ({plain(school.most_apart_of_mean_percent)} % of the mean)"
    held = apart <= (limit or 0) + 1e-9
    yield Verdict(
        rule="determinations agree",
        level="fine" if held else "redo",
        found=f"{plain(apart, 3)} points apart",
        limit=words,
        source=school.standard,
        remedy="" if held else "Roll another tin of threads and compare.",
        at=("determinations",),
    )


def enough_threads(record: Record, school: PlasticLimitSchool) -> Iterator[Verdict]:
    """Each tin holds enough moist soil for its water content to mean something."""
    for i, row in enumerate(record.determinations):
        if row.excluded_because or not (known(row.mass_wet_g) and known(row.mass_tin_g)):
            continue
        moist = row.mass_wet_g - row.mass_tin_g
        if moist <= 0:
            continue
        held = moist >= school.least_moist_g
        yield Verdict(
            rule="enough threads in the tin",
            level="fine" if held else "watch",
            found=f"determination {i + 1}: {plain(moist, 3)} g",
            limit=f"{plain(school.least_moist_g)} g or more",
            source=school.standard,
            remedy="" if held else "Gather more threads in this tin before it goes to the oven.",
            at=(f"determinations[{i}].mass_wet_g",),
        )


def below_the_u_line(record: Record, school: PlasticLimitSchool) -> Iterator[Verdict]:
    """A point above the U-line is hardly ever a soil: one of the two limits is suspect."""
    contents = [content for _, content in counting(record)]
    liquid = record.liquid_limit_percent
    if not contents or not known(liquid) or mean(contents) >= liquid:
        return
    index = liquid - mean(contents)
    upper = u_line_percent(liquid)
    held = index <= upper
    yield Verdict(
        rule="below the U-line",
        level="fine" if held else "redo",
        found=f"PI {plain(index, 3)} at LL {plain(liquid, 3)} %",
        limit=f"{plain(upper, 3)}: 0.9 (LL − 8)",
        source="ASTM D2487",
        remedy="" if held else "Recheck both limits: tins, tares, sums.",
        at=("liquid_limit_percent",),
        affects=("plasticity_index_percent", "liquidity_index", "consistency_index", "activity"),
    )


ALL = (
    masses_obey_physics,
    percentages_possible,
    soil_is_plastic,
    determinations_agree,
    below_the_u_line,
    enough_threads,
    balance_in_date,
)


def checks(record: Record, school: PlasticLimitSchool) -> Iterator[Verdict]:
    """Every rule in turn."""
    for check in ALL:
        yield from check(record, school)
