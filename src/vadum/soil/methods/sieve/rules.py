"""The rules that judge a sieve analysis."""

import itertools
import math
from collections.abc import Iterator
from typing import NamedTuple

from vadum.soil.contract import compare
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Verdict
from vadum.soil.contract.rules import LABORATORY, PHYSICS, Judge, Rule, Seen, at_least, at_most
from vadum.soil.contract.verdicts import ruling
from vadum.soil.methods.sieve.facts import Facts
from vadum.soil.methods.sieve.record import Limit
from vadum.soil.methods.sieve.school import SieveSchool
from vadum.soil.shared.grading import GradePoint, finer_percent
from vadum.soil.shared.water_by_tin import balance_in_date

PLAINLY_MORE = 1.05  # beyond any loss or gain of sieving: a mass typed twice or with its bowl; laboratory setting
LEAST_PASSING_PERCENT = -0.5  # rounding of the masses may leave a hair below nothing
SAME_SIEVE = 1.001  # a sieve of 19.0 and one of 19.05 mm are the same sieve


def _parts(f: Facts, s: SieveSchool) -> Iterator[Seen]:
    """A part is no more than the whole it was taken from."""
    r = f.record
    part = r.mass_part_g if known(r.mass_part_g) else None
    before = part if part is not None else (r.mass_finer_g if known(r.split_at_mm) else r.mass_total_g)
    after = r.mass_washed_g
    if known(after) and known(before) and after > before:
        words = f"dry after washing {plain(after, 6)} > {plain(before, 6)} g before it"
        yield Seen(False, words, "after <= before", ("mass_washed_g",))
    if known(part) and known(r.mass_finer_g) and part > r.mass_finer_g:
        words = f"riffled part {plain(part, 6)} > {plain(r.mass_finer_g, 6)} g finer"
        yield Seen(False, words, "part <= finer", ("mass_part_g",))
    if f.total_g is not None and sum(max(w.mass_g, 0.0) for w in f.weighed) > PLAINLY_MORE * f.total_g:
        words = f"{plain(sum(w.mass_g for w in f.weighed), 6)} g on the sieves, {plain(f.total_g, 6)} g taken"
        at = tuple(f"sieves[{w.row}].mass_retained_g" for w in f.weighed)
        do = "A mass was typed twice, or with its bowl: find it and strike it."
        yield Seen(False, words, "sum <= whole", at, do)


def _sum(f: Facts, s: SieveSchool) -> Iterator[Seen]:
    for loss in f.losses:
        word = "lost" if loss.percent >= 0 else "gained"
        seen = at_most(abs(loss.percent), s.most_loss_percent, "%", f"{loss.part}: {{}} {word}", digits=2)
        if seen:
            yield seen


def load_limit_g(aperture_mm: float, diameter_mm: float, school: SieveSchool) -> float:
    """Greatest mass on a sieve at the end of sieving, g.

    `M = 1000 q pi D^2 / 4`, q 7 kg/m2 below 4.75 mm, 2.5 kg/m2 for each mm of aperture from there on.

    Parameters: aperture and the sieve's diameter in mm. Source: ASTM C136; a 200 mm sieve finer than 4.75 mm: 220 g.

    Returns: g.
    """
    area_m2 = math.pi * (diameter_mm / 1000) ** 2 / 4
    load = school.coarse_load_kg_m2_per_mm * aperture_mm if aperture_mm >= 4.75 else school.fine_load_kg_m2
    return 1000 * load * area_m2


def _load(f: Facts, s: SieveSchool) -> Iterator[Seen]:
    fullest: Seen | None = None
    for one in f.weighed:
        diameter = f.record.sieves[one.row].sieve_diameter_mm
        limit = load_limit_g(one.aperture_mm, diameter if known(diameter) else s.sieve_diameter_mm, s)
        at = (f"sieves[{one.row}].mass_retained_g",)
        held = compare.at_most(one.mass_g, limit)
        words = f"fullest {one.aperture_mm:g} mm: {plain(one.mass_g)} g"
        if not held:
            words = f"{one.aperture_mm:g} mm holds {plain(one.mass_g)} g"
        seen = Seen(held, words, f"{plain(limit, 3)} g", () if held else at, value=one.mass_g, limit_value=limit)
        if not held:
            yield seen
        elif fullest is None or one.mass_g / limit > (fullest.value or 0.0) / (fullest.limit_value or 1.0):
            fullest = seen
    if fullest:
        yield fullest


def _falls(f: Facts, s: SieveSchool) -> Iterator[Seen]:
    """Less passes each finer sieve, and never less than nothing."""
    rows = f.passing
    if len(rows) < 2:
        return
    rising = [(a, b) for a, b in itertools.pairwise(rows) if not compare.at_most(b.finer_percent, a.finer_percent)]
    under = [r for r in rows if r.finer_percent < LEAST_PASSING_PERCENT]
    if not rising and not under:
        yield Seen(True, f"{len(rows)} sieves", "each finer passes less")
    for a, b in rising:
        found = f"{plain(a.finer_percent)} % at {a.aperture_mm:g}, {plain(b.finer_percent)} % at {b.aperture_mm:g} mm"
        yield Seen(False, found, "each finer passes less", (f"sieves[{b.row}].mass_retained_g",))
    for r in under:
        found = f"{plain(r.finer_percent)} % at {r.aperture_mm:g} mm"
        do = "More lies on the sieves than went on: recheck the start mass."
        yield Seen(False, found, "0 % or more", (f"sieves[{r.row}].mass_retained_g",), do)


def _enough(f: Facts, s: SieveSchool) -> Seen | None:
    grain = f.largest_grain_mm
    if f.total_g is None or grain is None:
        return None
    least = next((mass for size, mass in s.least_mass if grain <= size * SAME_SIEVE), s.least_mass[-1][1])
    return at_least(f.total_g, least, "g", f"{{}}, grains to {plain(grain)} mm", limit_words="{}")


def _sound(f: Facts, s: SieveSchool) -> Iterator[Seen]:
    for i, one in enumerate(f.record.sieves):
        if one.sieve_state:
            words: str = one.sieve_state
            if known(one.aperture_mm):
                words = f"{one.aperture_mm:g} mm {one.sieve or ''} {one.sieve_state}"
            yield Seen(one.sieve_state == "sound", words, "sound", (f"sieves[{i}].sieve_state",))


def _end(f: Facts, s: SieveSchool) -> Seen | None:
    further = f.record.further_minute_g
    held = [w.mass_g for w in f.weighed if w.mass_g > 0]
    if not known(further) or not held:
        return None
    words = "{} passed in a further minute"
    return at_most(100 * further / max(held), s.end_point_percent, "%", words, digits=2)


class Met(NamedTuple):
    """How a curve stands to one line of a specification."""

    passing: float | None
    word: str


def verdict_of_limit(points: tuple[GradePoint, ...], limit: Limit) -> Met:
    """`pass`, `too coarse`, `too fine`, or `not tested` at one aperture."""
    found = finer_percent(list(points), limit.aperture_mm) if known(limit.aperture_mm) else None
    if found is None:
        return Met(None, "not tested")
    if known(limit.least_percent) and not compare.at_least(found, limit.least_percent):
        return Met(found, "too coarse")
    if known(limit.most_percent) and not compare.at_most(found, limit.most_percent):
        return Met(found, "too fine")
    return Met(found, "pass")


def within_the_envelope(facts: Facts, school: SieveSchool) -> Iterator[Verdict]:
    """The curve lies inside the specification, sieve by sieve; the rule bears the specification's name."""
    record = facts.record
    if not facts.curve or not record.envelope:
        return
    passed = 0
    name = record.envelope_name or "specification"
    for i, limit in enumerate(record.envelope):
        met = verdict_of_limit(facts.curve, limit)
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
    Rule(
        "a part is no more than the whole",
        _parts,
        source=PHYSICS,
        level="stop",
        do="Look at the digits; strike the wrong one.",
    ),
    Rule(
        "sum of parts against the start",
        _sum,
        at=("mass_pan_g",),
        do="Brush the sieves, weigh again; a sieve may have been weighed twice or not at all.",
    ),
    Rule(
        # Grains piled up on a sieve never find its openings: what stays is not what is coarser.
        "sieve not overloaded",
        _load,
        source="ASTM C136",
        do="Sieve that fraction again in parts, or put a sieve between.",
    ),
    Rule(
        "passing falls from sieve to sieve",
        _falls,
        source=PHYSICS,
        do="Recheck the masses of the split and of these sieves.",
    ),
    Rule(
        "soil enough for its largest grain",
        _enough,
        at=("mass_total_g",),
        level="watch",
        do="Take more soil; else say on the sheet that the coarse end is uncertain.",
    ),
    Rule("sieve sound", _sound, source=LABORATORY, do="Sieve again over a sound one; take this one out of use."),
    Rule("shaken to the end", _end, at=("further_minute_g",), do="Shake on, and look again."),
    within_the_envelope,
    balance_in_date,
)
