"""What a rule book of the bearing ratio sets."""

from typing import Literal

from vadum.soil.contract.numerics import significant_step
from vadum.soil.contract.school import School, laboratory
from vadum.soil.shared.bearing.curve import PLUNGER_DIAMETER_MM, SEATING_N, seating_n

QUARTERS: tuple[float, ...] = tuple(0.25 * n for n in range(31))  # BS 1377-4


class BearingSchool(School):
    """Called penetrations, pace, the reference, which ratio governs, and the rounding."""

    called_mm: tuple[float, ...] = QUARTERS
    rate_mm_min: float = 1.0
    rate_tolerance_percent: float = laboratory(20.0)
    first_mm: float = 2.5
    second_mm: float = 5.0
    reference: Literal["force", "stress"] = "force"
    first_kn: float | None = None  # the rule book's own forces of the standard material, where they differ
    second_kn: float | None = None
    governs: Literal["the higher", "the first, unless the second is higher twice"] = "the higher"
    rounding: Literal["two figures", "one, five, ten", "whole"] = "two figures"
    seating_classes: tuple[tuple[float, float], ...] = SEATING_N
    seating_most_n: float | None = None  # where the rule book wants the least that seats it, and never more than this
    plunger_diameter_mm: float = laboratory(PLUNGER_DIAMETER_MM)
    seating_tolerance_percent: float = laboratory(50.0)  # a coarse ring shows 50 N as four or five divisions
    most_zero_apart_div: float = laboratory(3.0)
    least_steepening: float = laboratory(1.12)
    most_correction_mm: float = laboratory(2.0)
    most_zero_apart_mm: float = laboratory(0.25)
    most_missed: int = laboratory(3)
    read_off_beside_mm: float = laboratory(0.6)  # a gap so near the read-off is judged as one across it
    most_fall_percent: float = laboratory(2.0)
    force_error_percent: float = laboratory(1.0)  # a ring's or a cell's calibration, standard
    place_error_mm: float = laboratory(0.03)  # gauge, call and zero together, standard
    interpolates: bool = True
    most_stone_mm: float = 20.0

    def seating_n(self, expected_percent: float) -> float:
        """The seating load to put on for an expected ratio, N."""
        return self.seating_most_n or seating_n(expected_percent, self.seating_classes)

    def interval_s(self, row: int) -> float:
        """Seconds from the call before to this one, at the right pace.

        >>> BearingSchool(name="bs", title="t", standard="s", about="a").interval_s(3)
        15.0
        """
        before = self.called_mm[row - 1] if row else self.called_mm[0]
        return 60 * (self.called_mm[row] - before) / self.rate_mm_min


def ratio_step(percent: float, rounding: str) -> float:
    """The step a ratio is reported to.

    Parameters: `percent` in %; `rounding` as the school names it.
    Returns: %.

    >>> [ratio_step(p, "one, five, ten") for p in (12, 42, 130)], ratio_step(8.34, "two figures")
    ([1.0, 5.0, 10.0], 0.1)
    """
    if rounding == "two figures":
        return significant_step(percent, 2)
    if rounding == "whole":
        return 1.0
    return 1.0 if percent < 30 else 5.0 if percent <= 100 else 10.0
