"""The rules that judge a sieve analysis."""

import itertools
import math
from collections.abc import Iterator
from typing import NamedTuple

from vadum.soil.contract import compare
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Level, Verdict
from vadum.soil.contract.rules import LABORATORY, PHYSICS, Judge, Rule, Seen, at_least, at_most, said
from vadum.soil.contract.verdicts import ruling
from vadum.soil.methods.sieve.facts import Facts
from vadum.soil.methods.sieve.record import Limit
from vadum.soil.methods.sieve.school import SieveSchool
from vadum.soil.methods.sieve.stack import dry_g
from vadum.soil.shared.grading import GradePoint, finer_percent
from vadum.soil.shared.water_by_tin import balance_in_date

PLAINLY_MORE = 1.05  # beyond any loss or gain of sieving: a mass typed twice or with its bowl; laboratory setting
LEAST_PASSING_PERCENT = -0.5  # rounding of the masses may leave a hair below nothing
INCH_FRAME_MM = 12.7  # frame and clamping of a sieve let nothing through
NOMINAL_MM = 5.0  # 200 and 300 mm are said of sieves of 8 and 12 in
MADE_WITHIN = 0.02  # a 19.0 and a 19.05, a 0.6 and a 0.59 are one sieve
# Apertures of ISO 565 and ASTM E11, mm.
MADE_MM = (
    *(0.02, 0.025, 0.032, 0.038, 0.045, 0.053, 0.063, 0.075, 0.08, 0.09, 0.1, 0.106, 0.125, 0.15, 0.16, 0.18, 0.2),
    *(0.212, 0.25, 0.3, 0.315, 0.355, 0.4, 0.425, 0.5, 0.6, 0.63, 0.71, 0.8, 0.85, 1.0, 1.18, 1.25, 1.4, 1.6, 1.7),
    *(2.0, 2.36, 2.5, 2.8, 3.15, 3.35, 4.0, 4.75, 5.0, 5.6, 6.3, 6.7, 8.0, 9.5, 10.0, 11.2, 12.5, 13.2, 14.0, 16.0),
    *(19.0, 20.0, 22.4, 25.0, 26.5, 28.0, 31.5, 37.5, 40.0, 45.0, 50.0, 53.0, 56.0, 63.0, 75.0, 80.0, 90.0, 100.0),
    *(106.0, 112.0, 125.0, 150.0, 200.0, 250.0, 300.0),
)
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
        # What is gained beyond any loss was weighed wrong: no sieving adds soil.
        level: Level = "redo" if loss.percent >= 0 else "stop"
        words = f"{loss.part}: {{}} {word}"
        # Of a few grams that stayed after washing a share is less than the balance shows on so many sieves.
        shown = (f.record.balance_readability_g or s.assumed_readability_g) * (len(f.weighed) + 2) / 2
        most = max(s.most_loss_percent, 100 * shown / loss.before_g)
        seen = at_most(abs(loss.percent), most, "%", words, digits=2, level=level)
        if seen:
            yield seen


def effective_diameter_mm(diameter_mm: float) -> float:
    """Diameter of the part of a sieve that lets through: half an inch less than its frame.

    A sieve of "200 mm" is one of 8 in, 203 mm: 190.5 mm of it count.

    Parameters: `diameter_mm` in mm, above 0, by the frame.
    Returns: mm.
    Source: ASTM C136; fairly sure.

    >>> round(effective_diameter_mm(200), 1), effective_diameter_mm(203.2)
    (190.5, 190.5)
    """
    inches = round(diameter_mm / 25.4)
    full = 25.4 * inches if abs(diameter_mm - 25.4 * inches) < NOMINAL_MM else diameter_mm
    return full - INCH_FRAME_MM


def load_limit_g(aperture_mm: float, diameter_mm: float, school: SieveSchool) -> float:
    """Greatest mass on a sieve at the end of sieving, g: by the school's table, else by its effective area.

    `M = 1000 q pi D^2 / 4`, q 7 kg/m2 below 4.75 mm, 2.5 kg/m2 for each mm of aperture from there on.

    Parameters: `aperture_mm` and the sieve's `diameter_mm` in mm, above 0; `school` the rules.
    Returns: g.
    Source: ASTM C136, or the school's own table; other diameters of a table by area.
    """
    if school.loads:
        # Between two apertures of the table the finer one's load: the safe side.
        rows = sorted(school.loads, reverse=True)
        _, mass, said_of = next((row for row in rows if row[0] <= aperture_mm * SAME_SIEVE), rows[-1])
        return mass * (diameter_mm / said_of) ** 2
    area_m2 = math.pi * (effective_diameter_mm(diameter_mm) / 1000) ** 2 / 4
    load = school.coarse_load_kg_m2_per_mm * aperture_mm if aperture_mm >= 4.75 else school.fine_load_kg_m2
    return 1000 * load * area_m2


def _load(f: Facts, s: SieveSchool) -> Iterator[Seen]:
    fullest: Seen | None = None
    for one in f.weighed:
        row = f.record.sieves[one.row]
        known_diameter = known(row.sieve_diameter_mm) and row.sieve_diameter_mm > INCH_FRAME_MM
        diameter = row.sieve_diameter_mm if known_diameter else s.sieve_diameter_mm
        limit = load_limit_g(one.aperture_mm, diameter or s.sieve_diameter_mm, s)
        at = (f"sieves[{one.row}].mass_retained_g",)
        held = compare.at_most(one.mass_g, limit)
        if row.in_portions == "yes" and not held:
            words = f"{one.aperture_mm:g} mm: {plain(one.mass_g)} g, sieved in portions"
            yield Seen(True, words, f"{plain(limit, 3)} g, or in portions")
            continue
        words = f"fullest {one.aperture_mm:g} mm: {plain(one.mass_g)} g"
        if not held:
            words = f"{one.aperture_mm:g} mm holds {plain(one.mass_g)} g"
        # A limit that stands on a diameter nobody entered may warn, and no more.
        level: Level = "redo" if known_diameter else "watch"
        said = f"{plain(limit, 3)} g" + ("" if known_diameter else f" on {s.sieve_diameter_mm:g} mm (#)")
        seen = Seen(held, words, said, () if held else at, level=level, value=one.mass_g, limit_value=limit)
        if not held:
            yield seen
        elif fullest is None or one.mass_g / limit > (fullest.value or 0.0) / (fullest.limit_value or 1.0):
            fullest = seen
    if fullest:
        yield fullest


def _apertures(f: Facts, s: SieveSchool) -> Iterator[Seen]:
    """Each sieve is there once, and is one that is made."""
    named = [(i, one.aperture_mm) for i, one in enumerate(f.record.sieves) if known(one.aperture_mm)]
    strange = [(i, a) for i, a in named if not any(abs(a / m - 1) <= MADE_WITHIN for m in MADE_MM)]
    twice = [(i, a) for n, (i, a) in enumerate(named) if any(abs(a / b - 1) < 1e-6 for _, b in named[:n])]
    for i, a in strange:
        nearest = min(
            MADE_MM, key=lambda m: min(abs(math.log(a / m)), abs(math.log(a / m / 10)), abs(math.log(a / m * 10)))
        )
        do = f"No sieve of {a:g} mm is made: look at the digits; {nearest:g} mm?"
        yield Seen(False, f"{a:g} mm", "an aperture of ISO 565 or ASTM E11", (f"sieves[{i}].aperture_mm",), do, "watch")
    for i, a in twice:
        do = "One of the two has another aperture, or a mass was typed twice."
        yield Seen(False, f"{a:g} mm stands twice", "each sieve once", (f"sieves[{i}].aperture_mm",), do, "stop")
    if named and not strange and not twice:
        yield Seen(True, f"{len(named)} sieves", "each once, as they are made")


def _weighed_as(f: Facts, s: SieveSchool) -> Seen | None:
    r = f.record
    if r.mass_total_g is None and r.mass_finer_g is None:
        return None
    held = r.weighed_as is not None or known(r.water_content_percent)
    found = r.weighed_as or ("with its water content" if held else "taken as oven-dry (#)")
    return said(held, found, "said whether oven-dry or moist")


def _split_adds_up(f: Facts, s: SieveSchool) -> Seen | None:
    r = f.record
    whole = dry_g(r.mass_total_g, r.water_content_percent)
    if not known(r.split_at_mm) or f.total_g is None or not whole:
        return None
    lost = 100 * abs(whole - f.total_g) / whole
    return at_most(lost, s.most_loss_percent, "%", "{} between the whole and its two parts", digits=2)


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
                words = " ".join(w for w in (f"{one.aperture_mm:g} mm", one.sieve, one.sieve_state) if w)
            yield Seen(one.sieve_state == "sound", words, "sound", (f"sieves[{i}].sieve_state",))


def _end(f: Facts, s: SieveSchool) -> Iterator[Seen]:
    """Of each sieve that was tried: what a further minute takes through, of what stays on that sieve."""
    words = "{} of what stays passed in a further minute"
    for one in f.weighed:
        row = f.record.sieves[one.row]
        further = row.further_minute_g
        at = f"sieves[{one.row}].further_minute_g"
        asked = f.record.further_minute_at_mm
        only = len(f.weighed) == 1
        if further is None and (only or (known(asked) and abs(asked / one.aperture_mm - 1) < MADE_WITHIN)):
            further, at = f.record.further_minute_g, "further_minute_g"
        if not known(further) or one.mass_g <= 0:
            continue
        here = f"{one.aperture_mm:g} mm: {words}"
        seen = at_most(100 * further / one.mass_g, s.end_point_percent, "%", here, digits=2, at=(at,))
        if seen:
            yield seen
    if known(f.record.further_minute_g) and f.record.further_minute_at_mm is None and len(f.weighed) > 1:
        at_field = ("further_minute_at_mm",)
        yield Seen(
            False, "not said of which sieve", "1 % of what stays on that sieve", at_field, "Name the sieve.", "watch"
        )


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
        # A sieve typed as 47.5 for 4.75 shifts the whole curve, and nothing else in the record would show it.
        "apertures are those of sieves",
        _apertures,
        source="ISO 565, ASTM E11",
        level="stop",
    ),
    Rule(
        # Air-dry soil at 3 % taken for dry moves the fines by two to three points.
        "dry or moist is said",
        _weighed_as,
        at=("weighed_as",),
        source=LABORATORY,
        level="watch",
        do="Say whether the soil was weighed oven-dry or moist; moist, with its water content.",
    ),
    Rule(
        "the split adds up",
        _split_adds_up,
        at=("mass_total_g",),
        do="Weigh both parts again: soil was lost at the separating sieve, or a pan was not taken off.",
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
        do="Sieve that fraction again in parts, or put a sieve between.",
    ),
    Rule(
        "passing falls from sieve to sieve",
        _falls,
        source=PHYSICS,
        level="stop",
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
