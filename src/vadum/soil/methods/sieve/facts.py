"""What the sieves come to, worked out once."""

from typing import NamedTuple

from vadum.soil.contract.fields import known
from vadum.soil.methods.sieve.record import Record
from vadum.soil.methods.sieve.school import SieveSchool
from vadum.soil.methods.sieve.stack import (
    Loss,
    Passing,
    Retained,
    Sieved,
    beyond_largest,
    curve,
    losses,
    parts,
    passing,
    total_dry_g,
    weighed,
)
from vadum.soil.shared.grading import GradePoint


class Facts(NamedTuple):
    """The sieves weighed, the parts sieved, what passes each sieve, the curve, the losses, all of the soil's dry g."""

    record: Record
    weighed: tuple[Retained, ...]
    parts: tuple[Sieved, ...]
    passing: tuple[Passing, ...]
    curve: tuple[GradePoint, ...]
    losses: tuple[Loss, ...]
    total_g: float | None

    @property
    def rows(self) -> list[int]:
        """The rows of the stack, coarse to fine."""
        named = [(i, s.aperture_mm) for i, s in enumerate(self.record.sieves) if known(s.aperture_mm)]
        return [i for i, _ in sorted(named, key=lambda pair: -pair[1])]

    @property
    def still(self) -> list[int]:
        """The rows that are not weighed yet, coarse to fine."""
        sieves = self.record.sieves
        return [
            i
            for i in self.rows
            if sieves[i].mass_retained_g is None and not beyond_largest(self.record, sieves[i].aperture_mm or 0.0)
        ]

    @property
    def in_use(self) -> list[int]:
        """The rows that are weighed or still to be: not those that all of the soil passes by its largest grain."""
        return [i for i in self.rows if self.record.sieves[i].mass_retained_g is not None or i in self.still]

    @property
    def largest_grain_mm(self) -> float | None:
        """The largest grain: as typed, or the coarsest sieve that held some."""
        if known(self.record.largest_particle_mm):
            return self.record.largest_particle_mm
        held = [s.aperture_mm for s in self.weighed if s.mass_g > 0]
        return max(held) if held else None


def facts(record: Record, school: SieveSchool) -> Facts:
    """The facts of a record under a school."""
    return Facts(
        record,
        tuple(weighed(record)),
        tuple(parts(record)),
        tuple(passing(record)),
        tuple(curve(record)),
        tuple(losses(record)),
        total_dry_g(record),
    )
