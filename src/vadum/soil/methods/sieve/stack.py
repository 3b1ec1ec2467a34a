"""The stack of sieves: its dry masses, the parts coarse and fine, and what passes each sieve."""

from typing import NamedTuple

from vadum.soil.contract.fields import known
from vadum.soil.methods.sieve.record import Record
from vadum.soil.shared.grading import GradePoint, ordered

NEXT_SIEVE = 1.05  # a grain that was measured along its length may still stay on a sieve of its size


class Retained(NamedTuple):
    """One sieve that was weighed: its row, aperture in mm and mass retained in g."""

    row: int
    aperture_mm: float
    mass_g: float


class Sieved(NamedTuple):
    """A part that was sieved: the dry mass in g that its percentages are of, the percent of the soil it stands for, its
    sieves coarse to fine, the mass before sieving, its own mass."""

    name: str
    dry_g: float
    stands_for_percent: float
    sieves: tuple[Retained, ...]
    before_g: float
    own_g: float


class Passing(NamedTuple):
    """What passes one sieve, percent of the whole, with the inputs of its working."""

    row: int
    aperture_mm: float
    finer_percent: float
    inputs: dict[str, float]


def dry_g(moist_g: float | None, water_percent: float | None) -> float | None:
    """Dry mass, g, of a moist one; a soil without a water content was oven-dry.

    Parameters: `moist_g` in g; `water_percent` in %, 0 or more.
    Returns: g; None where the mass is missing or below 0.
    Source: definition of water content.
    """
    if not known(moist_g) or moist_g < 0:
        return None
    water = water_percent if known(water_percent) and water_percent >= 0 else 0.0
    return moist_g / (1 + water / 100)


def waits_for_water(record: Record) -> bool:
    """Whether the soil was weighed moist and its water content is not known: air-dry soil at 3 % taken for dry moves
    the fines by some 2 to 3 points."""
    return record.weighed_as == "moist" and not known(record.water_content_percent)


def weighed(record: Record) -> list[Retained]:
    """The sieves with an aperture and a mass, coarse to fine."""
    found = [
        Retained(i, s.aperture_mm, s.mass_retained_g)
        for i, s in enumerate(record.sieves)
        if known(s.aperture_mm) and s.aperture_mm > 0 and known(s.mass_retained_g)
    ]
    return sorted(found, key=lambda s: -s.aperture_mm)


def parts(record: Record) -> list[Sieved]:
    """The parts sieved, coarse first; empty until the masses before sieving are known."""
    if waits_for_water(record):
        return []
    rows, split, water = weighed(record), record.split_at_mm, record.water_content_percent
    if not known(split) or split <= 0:
        total = dry_g(record.mass_total_g, water)
        if not total:
            return []
        before = record.mass_washed_g if known(record.mass_washed_g) else total
        return [Sieved("the soil", total, 100.0, tuple(rows), before, total)]
    coarse, finer = record.mass_coarse_g, dry_g(record.mass_finer_g, water)
    if not known(coarse) or coarse < 0 or not finer:
        return []
    total = coarse + finer
    part = dry_g(record.mass_part_g, water) or finer
    before = record.mass_washed_g if known(record.mass_washed_g) else part
    # What passes a coarse sieve is told of the whole soil; the part itself weighs what it weighs.
    above, under = (tuple(r for r in rows if (r.aperture_mm >= split) == coarser) for coarser in (True, False))
    upper = Sieved("the coarse part", total, 100.0, above, coarse, coarse)
    lower = Sieved("the finer part", part, 100 * finer / total, under, before, part)
    return [upper, lower]


def total_dry_g(record: Record) -> float | None:
    """Dry mass of all the soil, g."""
    if waits_for_water(record):
        return None
    if known(record.split_at_mm):
        finer = dry_g(record.mass_finer_g, record.water_content_percent)
        coarse = record.mass_coarse_g
        return coarse + finer if known(coarse) and finer is not None else None
    return dry_g(record.mass_total_g, record.water_content_percent)


def percent_passing(stands_for_percent: float, dry_mass_g: float, retained_g: float) -> float:
    """Percent of the whole soil that passes a sieve: `P_0 (M_0 - sum M_i) / M_0`.

    Parameters: percent of the soil that the part stands for; its dry mass in g, above 0; mass retained on this and all
    coarser sieves in g.
    Returns: % of the whole soil; below 0 where more is retained than was there.
    Source: ASTM D6913.

    >>> round(percent_passing(100.0, 612.4, 44.3), 4)
    92.7662
    """
    return stands_for_percent * (dry_mass_g - retained_g) / dry_mass_g


def passing(record: Record) -> list[Passing]:
    """What passes each weighed sieve, coarse to fine.

    A sieve not weighed yet hides all finer ones: their sums would leave it out.
    """
    found = []
    for part in parts(record):
        unweighed = [
            s.aperture_mm
            for s in record.sieves
            if known(s.aperture_mm)
            and s.mass_retained_g is None
            and not beyond_largest(record, s.aperture_mm)
            and part.sieves
            and (part.name != "the finer part" or s.aperture_mm < (record.split_at_mm or 0))
        ]
        blind = max(unweighed, default=0.0)
        total = 0.0
        for sieve in part.sieves:
            if sieve.aperture_mm <= blind:
                break
            total += sieve.mass_g
            value = percent_passing(part.stands_for_percent, part.dry_g, total)
            inputs = {"P_0": part.stands_for_percent, "M_0": part.dry_g, "M_ret": total}
            found.append(Passing(sieve.row, sieve.aperture_mm, value, inputs))
    return found


def curve(record: Record) -> list[GradePoint]:
    """The grading curve of the sieves, coarse to fine."""
    return ordered(GradePoint(p.aperture_mm, p.finer_percent, "sieve") for p in passing(record))


def beyond_largest(record: Record, aperture_mm: float) -> bool:
    """Whether all of the soil passes that sieve by its largest grain: it need not be in the stack."""
    largest = record.largest_particle_mm
    return known(largest) and aperture_mm > largest * NEXT_SIEVE


class Loss(NamedTuple):
    """Mass before sieving and the sum of what came off the sieves, g."""

    part: str
    before_g: float
    after_g: float

    @property
    def percent(self) -> float:
        """Loss in percent of the mass before; negative for a gain."""
        return 100 * (self.before_g - self.after_g) / self.before_g


def losses(record: Record) -> list[Loss]:
    """The loss of each part that was sieved to its end: every sieve weighed, and the pan."""
    found = []
    for part in parts(record):
        split = record.split_at_mm or 0.0
        mine = [
            s
            for s in record.sieves
            if known(s.aperture_mm)
            and not (s.mass_retained_g is None and beyond_largest(record, s.aperture_mm))
            and (part.name == "the soil" or (s.aperture_mm >= split) == (part.name == "the coarse part"))
        ]
        if not mine or any(s.mass_retained_g is None for s in mine) or part.before_g <= 0:
            continue
        after = sum(s.mass_g for s in part.sieves)
        if part.name != "the coarse part":
            if not known(record.mass_pan_g):
                continue
            after += record.mass_pan_g
        found.append(Loss(part.name, part.before_g, after))
    return found
