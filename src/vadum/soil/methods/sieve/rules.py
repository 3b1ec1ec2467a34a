"""The rules that judge a sieve analysis."""

import itertools
import math
from collections.abc import Iterator
from typing import NamedTuple

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Verdict
from vadum.soil.contract.rules import Judge
from vadum.soil.contract.verdicts import possible, ruling
from vadum.soil.methods.sieve.facts import Facts
from vadum.soil.methods.sieve.record import Limit, Record
from vadum.soil.methods.sieve.school import SieveSchool
from vadum.soil.methods.sieve.stack import curve, losses, passing, total_dry_g, weighed
from vadum.soil.shared.grading import GradePoint, finer_percent
from vadum.soil.shared.water_by_tin import balance_in_date

PLAINLY_MORE = 1.05  # beyond any loss or gain of sieving: a mass typed twice or with its bowl; laboratory setting
MASSES = (
    "mass_total_g",
    "mass_coarse_g",
    "mass_finer_g",
    "mass_part_g",
    "mass_washed_g",
    "mass_pan_g",
    "further_minute_g",
)


def readings_possible(facts: Facts, school: SieveSchool) -> Iterator[Verdict]:
    """Masses and apertures that can be; a part is no more than the whole."""
    record = facts.record
    fields = type(record).model_fields
    yield from possible([(f, str(fields[f].title), getattr(record, f)) for f in MASSES], unit="g")
    yield from possible([("water_content_percent", "water content", record.water_content_percent)], high=1000, unit="%")
    for field in ("split_at_mm", "washed_over_mm", "largest_particle_mm"):
        yield from possible([(field, str(fields[field].title), getattr(record, field))], strictly=True, unit="mm")
    for i, s in enumerate(record.sieves):
        name = f"sieve {s.aperture_mm:g} mm" if known(s.aperture_mm) else f"sieve {i + 1}"
        yield from possible([(f"sieves[{i}].mass_retained_g", f"{name}: retained", s.mass_retained_g)], unit="g")
        yield from possible(
            [(f"sieves[{i}].aperture_mm", f"{name}: aperture", s.aperture_mm)], strictly=True, high=500, unit="mm"
        )
    for i, limit in enumerate(record.envelope):
        pairs = (("least_percent", limit.least_percent), ("most_percent", limit.most_percent))
        yield from possible([(f"envelope[{i}].{f}", f"specification line {i + 1}", v) for f, v in pairs], high=100)
    whole = total_dry_g(record)
    after, words = record.mass_washed_g, "dry after washing"
    part = record.mass_part_g if known(record.mass_part_g) else None
    before = part if part is not None else (record.mass_finer_g if known(record.split_at_mm) else record.mass_total_g)
    if known(after) and known(before) and after > before:
        yield Verdict(
            rule="a part is no more than the whole",
            level="stop",
            found=f"{words} {plain(after, 6)} > {plain(before, 6)} g before it",
            limit="after <= before",
            source="physics",
            remedy="Look at the digits; strike the wrong one.",
            at=("mass_washed_g",),
        )
    if known(part) and known(record.mass_finer_g) and part > record.mass_finer_g:
        yield Verdict(
            rule="a part is no more than the whole",
            level="stop",
            found=f"riffled part {plain(part, 6)} > {plain(record.mass_finer_g, 6)} g finer",
            limit="part <= finer",
            source="physics",
            remedy="Look at the digits; strike the wrong one.",
            at=("mass_part_g",),
        )
    if whole is not None and sum(max(s.mass_g, 0.0) for s in weighed(record)) > PLAINLY_MORE * whole:
        yield Verdict(
            rule="a part is no more than the whole",
            level="stop",
            found=f"{plain(sum(s.mass_g for s in weighed(record)), 6)} g on the sieves, {plain(whole, 6)} g taken",
            limit="sum <= whole",
            source="physics",
            remedy="A mass was typed twice, or with its bowl: find it and strike it.",
            at=tuple(f"sieves[{s.row}].mass_retained_g" for s in weighed(record)),
        )


def sum_of_parts(facts: Facts, school: SieveSchool) -> Iterator[Verdict]:
    """What came off the sieves weighs what went on."""
    record = facts.record
    for loss in losses(record):
        word = "lost" if loss.percent >= 0 else "gained"
        yield ruling(
            "sum of parts against the start",
            abs(loss.percent) <= school.most_loss_percent + 1e-9,
            f"{loss.part}: {plain(abs(loss.percent), 2)} % {word}",
            f"{plain(school.most_loss_percent)} %",
            school.standard,
            "Brush the sieves, weigh again; a sieve may have been weighed twice or not at all.",
            ("mass_pan_g",),
        )


def load_limit_g(aperture_mm: float, diameter_mm: float, school: SieveSchool) -> float:
    """Greatest mass on a sieve at the end, g: 7 kg/m2 below 4.75 mm, 2.5 kg/m2 for each mm of aperture above.

    Source: ASTM C136. A 200 mm sieve finer than 4.75 mm: about 220 g.
    """
    area_m2 = math.pi * (diameter_mm / 1000) ** 2 / 4
    load = school.coarse_load_kg_m2_per_mm * aperture_mm if aperture_mm >= 4.75 else school.fine_load_kg_m2
    return 1000 * load * area_m2


def sieve_not_overloaded(facts: Facts, school: SieveSchool) -> Iterator[Verdict]:
    """An overloaded sieve lets no grain find its opening."""
    record = facts.record
    worst = None
    for s in weighed(record):
        diameter = record.sieves[s.row].sieve_diameter_mm
        limit = load_limit_g(s.aperture_mm, diameter if known(diameter) else school.sieve_diameter_mm, school)
        if s.mass_g > limit:
            yield ruling(
                "sieve not overloaded",
                False,
                f"{s.aperture_mm:g} mm holds {plain(s.mass_g)} g",
                f"{plain(limit, 3)} g",
                "ASTM C136",
                "Sieve that fraction again in parts, or put a sieve between.",
                (f"sieves[{s.row}].mass_retained_g",),
            )
        elif worst is None or s.mass_g / limit > worst[1]:
            worst = (s, s.mass_g / limit, limit)
    if worst:
        yield ruling(
            "sieve not overloaded",
            True,
            f"fullest {worst[0].aperture_mm:g} mm: {plain(worst[0].mass_g)} g",
            f"{plain(worst[2], 3)} g",
            "ASTM C136",
            "",
        )


def passing_falls(facts: Facts, school: SieveSchool) -> Iterator[Verdict]:
    """Less passes each finer sieve, and never less than nothing."""
    record = facts.record
    rows = passing(record)
    if len(rows) < 2:
        return
    rising = [(a, b) for a, b in itertools.pairwise(rows) if b.finer_percent > a.finer_percent + 1e-9]
    below = [r for r in rows if r.finer_percent < -0.5]
    if not rising and not below:
        yield ruling(
            "passing falls from sieve to sieve", True, f"{len(rows)} sieves", "each finer passes less", "physics", ""
        )
    for a, b in rising:
        found = f"{plain(a.finer_percent)} % at {a.aperture_mm:g}, {plain(b.finer_percent)} % at {b.aperture_mm:g} mm"
        yield ruling(
            "passing falls from sieve to sieve",
            False,
            found,
            "each finer passes less",
            "physics",
            "Recheck the masses of the split and of these sieves.",
            (f"sieves[{b.row}].mass_retained_g",),
        )
    for r in below:
        yield ruling(
            "passing falls from sieve to sieve",
            False,
            f"{plain(r.finer_percent)} % at {r.aperture_mm:g} mm",
            "0 % or more",
            "physics",
            "More lies on the sieves than went on: recheck the start mass.",
            (f"sieves[{r.row}].mass_retained_g",),
        )


def largest_grain_mm(record: Record) -> float | None:
    """The largest grain: as typed, or the coarsest sieve that held some."""
    if known(record.largest_particle_mm):
        return record.largest_particle_mm
    held = [s.aperture_mm for s in weighed(record) if s.mass_g > 0]
    return max(held) if held else None


def soil_enough(facts: Facts, school: SieveSchool) -> Iterator[Verdict]:
    """The sample is large enough for its largest grain."""
    record = facts.record
    whole, grain = total_dry_g(record), largest_grain_mm(record)
    if whole is None or grain is None:
        return
    least = next((mass for size, mass in school.least_mass if grain <= size * 1.001), school.least_mass[-1][1])
    yield ruling(
        "soil enough for its largest grain",
        whole >= least,
        f"{plain(whole)} g, grains to {plain(grain)} mm",
        f"{plain(least)} g",
        school.standard,
        "Take more soil; else say on the sheet that the coarse end is uncertain.",
        ("mass_total_g",),
        otherwise="watch",
    )


def sieves_sound(facts: Facts, school: SieveSchool) -> Iterator[Verdict]:
    """No broken or blinded sieve was used."""
    record = facts.record
    for i, s in enumerate(record.sieves):
        if s.sieve_state:
            yield ruling(
                "sieve sound",
                s.sieve_state == "sound",
                f"{s.aperture_mm:g} mm {s.sieve or ''} {s.sieve_state}" if known(s.aperture_mm) else s.sieve_state,
                "sound",
                "laboratory setting",
                "Sieve again over a sound one; take this one out of use.",
                (f"sieves[{i}].sieve_state",),
            )


def shaken_to_the_end(facts: Facts, school: SieveSchool) -> Iterator[Verdict]:
    """In a further minute little more passes."""
    record = facts.record
    further = record.further_minute_g
    held = [s.mass_g for s in weighed(record) if s.mass_g > 0]
    if not known(further) or not held:
        return
    share = 100 * further / max(held)
    yield ruling(
        "shaken to the end",
        share <= school.end_point_percent + 1e-9,
        f"{plain(share, 2)} % passed in a further minute",
        f"{plain(school.end_point_percent)} %",
        school.standard,
        "Shake on, and look again.",
        ("further_minute_g",),
    )


class Met(NamedTuple):
    """How a curve stands to one line of a specification."""

    passing: float | None
    word: str


def verdict_of_limit(points: list[GradePoint], limit: Limit) -> Met:
    """`pass`, `too coarse`, `too fine`, or `not tested` at one aperture."""
    found = finer_percent(points, limit.aperture_mm) if known(limit.aperture_mm) else None
    if found is None:
        return Met(None, "not tested")
    if known(limit.least_percent) and found < limit.least_percent - 1e-9:
        return Met(found, "too coarse")
    if known(limit.most_percent) and found > limit.most_percent + 1e-9:
        return Met(found, "too fine")
    return Met(found, "pass")


def within_the_envelope(facts: Facts, school: SieveSchool) -> Iterator[Verdict]:
    """The curve lies inside the specification, sieve by sieve."""
    record = facts.record
    points = curve(record)
    if not points or not record.envelope:
        return
    passed = 0
    name = record.envelope_name or "specification"
    for i, limit in enumerate(record.envelope):
        met = verdict_of_limit(points, limit)
        if met.word == "pass":
            passed += 1
        if met.passing is None or met.word == "pass":
            continue
        low = "" if limit.least_percent is None else f"{limit.least_percent:g}"
        high = "" if limit.most_percent is None else f"{limit.most_percent:g}"
        yield ruling(
            f"within the {name}",
            False,
            f"{limit.aperture_mm:g} mm: {plain(met.passing, 3)} % passing, {met.word}",
            f"{low} to {high} %",
            name,
            "Outside the specification: tell the engineer before it is placed.",
            (f"envelope[{i}].aperture_mm",),
            otherwise="watch",
        )
    if passed == len(record.envelope):
        yield ruling(f"within the {name}", True, f"{passed} sieves", "between the limits", name, "")


RULES: tuple[Judge, ...] = (
    readings_possible,
    sum_of_parts,
    sieve_not_overloaded,
    passing_falls,
    soil_enough,
    sieves_sound,
    shaken_to_the_end,
    within_the_envelope,
    balance_in_date,
)
