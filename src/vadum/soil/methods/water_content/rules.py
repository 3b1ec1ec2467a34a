"""The rules that judge a water content."""

from collections.abc import Iterator
from typing import Any

from vadum.soil.contract import compare
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Verdict
from vadum.soil.contract.rules import LABORATORY, PHYSICS, Judge, Rule, Seen, at_least, at_most, said, within
from vadum.soil.contract.times import minutes_between, span
from vadum.soil.methods.water_content.facts import Facts
from vadum.soil.methods.water_content.school import WaterContentSchool
from vadum.soil.shared.water_by_tin import balance_in_date, masses_possible, tin_registered


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


def specimen_large_enough(facts: Facts, school: WaterContentSchool) -> Iterator[Verdict]:
    """The specimen holds enough soil for its largest grain and the precision reported."""
    record, wet, step = facts.record, facts.wet_g, facts.step
    if wet is None:
        return
    if school.least_mass_g:
        seen = at_least(wet, school.least_mass_g, "g", "{} wet soil")
        source = LABORATORY
    elif not known(record.largest_particle_mm) or not school.sizes:
        return
    elif step.whole_g is None or step.tenth_g is None:
        grain, last = f"largest particle {plain(record.largest_particle_mm)} mm", school.sizes[-1][0]
        do = "Agree the specimen's size with whoever asked for the test."
        seen = said(False, grain, f"the table ends at {plain(last)} mm", ("largest_particle_mm",), do)
        source = school.sizes_source
    else:
        source = school.sizes_source
        least = step.tenth_g if step.percent < 1 else step.whole_g
        other = step.whole_g if step.percent < 1 else step.tenth_g
        words = f"{{}} or more, reporting to {plain(step.percent)} %"
        if other != least:
            words += f" ({plain(other)} g to {plain(1.0 if step.percent < 1 else 0.1)} %)"
        seen = at_least(wet, least, "g", "{} wet soil", limit_words=words)
    rule = Rule(
        "specimen large enough for its largest grain",
        lambda f, s: seen,
        at=("mass_wet_g",),
        source=source,
        level="watch",
        do="Take a larger specimen, or report to the coarser step and say so.",
    )
    yield from rule(facts, school)


def dried_long_enough(facts: Facts, school: WaterContentSchool) -> Iterator[Verdict]:
    """The first weighing came no earlier than the school's least time, or a second one shows constancy."""
    last = facts.weighings[-1] if facts.weighings else None
    if last is None or last.drying_h is None or facts.change:
        return
    minutes = last.drying_h * 60
    if minutes < 0:
        yield Verdict(
            rule="weighed after drying began",
            level="stop",
            found=f"weighed {span(-minutes)} before drying began",
            limit="after",
            source=PHYSICS,
            remedy="One of the two times is wrong; strike it.",
            at=("in_oven_at", f"weighings[{last.row}].weighed_at"),
        )
        return
    long_enough = Rule(
        "dried long enough",
        lambda f, s: said(minutes >= s.first_min, span(minutes), f"{span(s.first_min)} or more"),
        at=("weighings[0].weighed_at",),
        do="Put it back and weigh again.",
    )
    yield from long_enough(facts, school)


def mass_constant(facts: Facts, school: WaterContentSchool) -> Iterator[Verdict]:
    """Two successive weighings differ by no more than the limit."""
    change = facts.change
    if change is None:
        if facts.weighings and school.second_weighing:
            yield Verdict(
                rule="dry mass constant",
                level="redo",
                found="one dry weighing",
                limit="two that agree",
                source=school.standard,
                remedy=f"Heat for another {span(school.again_min)} and weigh again.",
                at=(f"weighings[{len(facts.record.weighings)}].mass_dry_g",),
            )
        return
    moved = abs(change.after_g - change.before_g)
    at = (f"weighings[{facts.weighings[-1].row}].mass_dry_g",)
    if change.too_soon_min is not None and compare.at_most(moved, change.limit_g):
        yield Verdict(
            rule="dry mass constant",
            level="redo",
            found=f"weighed again after {span(change.too_soon_min)}",
            limit=f"{span(school.again_min)} in the heat between",
            source=school.standard,
            remedy=f"Back into the heat for {span(school.again_min)}: without it both weighings say the same.",
            at=at,
        )
        return
    # A dry mass that grows was never only drying: it took up water, or something else stood on the balance.
    grows = change.after_g > change.before_g and not change.holds
    share = f" ({plain(school.constant_percent)} % of the wet soil)"
    yield Verdict(
        rule="dry mass does not grow" if grows else "dry mass constant",
        level="fine" if change.holds else "redo",
        found=f"{plain(moved)} g heavier than before" if grows else f"{plain(moved)} g between the last two weighings",
        limit=f"{plain(change.limit_g)} g" + ("" if grows else share),
        source=PHYSICS if grows else f"laboratory setting, {school.standard}",
        remedy=""
        if change.holds
        else "Something else was weighed, or it took up water: dry it and weigh again."
        if grows
        else f"Not constant: back into the heat for {span(school.again_min)}.",
        at=at,
    )


def _temperature(f: Facts, s: WaterContentSchool) -> Seen | None:
    read = f.record.oven_temperature_c
    return within(read, s.temperature_c, "°C") if s.temperature_c is not None and known(read) else None


def _metal(f: Facts, s: WaterContentSchool) -> Seen | None:
    if s.dried_by != "microwave" or f.record.tin_is is None:
        return None
    return said(f.record.tin_is != "metal", f"a dish of {f.record.tin_is}", "no metal")


def _usual(f: Facts, s: WaterContentSchool) -> Seen | None:
    if f.masses is None or f.record.organic_by_eye == "peat":
        return None
    at = tuple(f"weighings[{w.row}].mass_dry_g" for w in f.weighings[-1:])
    return at_most(f.masses.water_percent, s.most_usual_percent, "%", "w {}", digits=3, at=("mass_wet_g", *at))


def _balance(f: Facts, s: WaterContentSchool) -> Seen | None:
    step, wet = f.record.balance_readability_g, f.wet_g
    if not known(step) or wet is None:
        return None
    share = 100 * step / wet
    words = f"{plain(step)} g is {{}} of {plain(wet)} g"
    return at_most(share, s.balance_error_percent, "%", words, digits=2)


def fresh(sampled: Any, weighed: Any, sealed: bool, most_h: float) -> Seen | None:
    """Whether soil was weighed soon after sampling, or sealed meanwhile."""
    if sampled is None or weighed is None:
        return None
    hours = minutes_between(sampled, weighed) / 60
    found = f"{span(hours * 60)} after sampling" + (", sealed" if sealed else "")
    return said(hours <= most_h or sealed, found, f"{plain(most_h)} h unless sealed")


def _mirror(f: Facts, s: WaterContentSchool) -> Seen | None:
    rows = [(i, row.mirror) for i, row in enumerate(f.record.weighings) if row.mirror]
    if s.dried_by != "direct heat" or not rows:
        return None
    index, mirror = rows[-1]
    return said(mirror == "clear", f"mirror {mirror}", "clear", (f"weighings[{index}].mirror",))


def _heat(f: Facts, s: WaterContentSchool) -> Seen | None:
    if f.record.gypsum_or_organic != "yes":
        return None
    cool = s.temperature_c is not None and s.temperature_c[1] <= 80
    return said(cool, "gypsum or much organic matter", "60 to 80 °C")


def _cooled(f: Facts, s: WaterContentSchool) -> Seen | None:
    read = f.record.cooled_min
    return said(read >= s.cool_min, span(read), f"{span(s.cool_min)} or more, lid on") if known(read) else None


RULES: tuple[Judge, ...] = (
    masses_obey_physics,
    mass_constant,
    dried_long_enough,
    Rule(
        "no fog on a cool mirror",
        _mirror,
        source="ASTM D4959",
        do="Still losing water: stir over the heat and look again.",
    ),
    specimen_large_enough,
    Rule(
        "oven temperature within its band",
        # Above it clay, gypsum and organic matter lose more than water for good; below it water stays.
        _temperature,
        at=("oven_temperature_c",),
        do="Reset the oven and dry a fresh specimen: too hot drives out more than water, too cool leaves some in.",
    ),
    Rule(
        "drying heat suits the soil",
        _heat,
        at=("gypsum_or_organic",),
        level="watch",
        do="Dry a second specimen at 60 °C and compare.",
    ),
    tin_registered("tin"),
    Rule(
        "no metal in a microwave",
        _metal,
        at=("tin_is",),
        source="ASTM D4643",
        level="stop",
        do="Take a glass or paper dish.",
    ),
    Rule(
        # Peat holds more; in other soil it is a tare, a digit or the wrong tin.
        "a water content that soils have",
        _usual,
        at=("mass_dry_g", "mass_wet_g"),
        source=LABORATORY,
        level="watch",
        do="Peat? Say so. Else look at the tin's number and the digits.",
    ),
    Rule(
        "balance fine enough for the mass",
        _balance,
        at=("balance_readability_g",),
        source="ASTM D2216",
        level="watch",
        do="Use a finer balance or more soil.",
    ),
    Rule(
        "weighed soon after sampling, or sealed",
        lambda f, s: fresh(
            f.record.sampled_at, f.record.weighed_wet_at, f.record.sealed == "yes", s.most_hours_since_sampling
        ),
        at=("sampled_at",),
        source=LABORATORY,
        level="watch",
        do="Water may be lost: say so on the sheet.",
    ),
    Rule(
        # Warm air rising from hot soil lifts the balance's pan: it reads light.
        "cooled before weighing",
        _cooled,
        at=("cooled_min",),
        source=LABORATORY,
        level="watch",
        do="Hot soil reads light: cool it with the lid on and weigh again.",
    ),
    balance_in_date,
)
