"""Which determinations count, and whether the soil is nonplastic."""

from typing import NamedTuple

from vadum.soil.contract.compare import alike
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import mean, plain, rounded
from vadum.soil.methods.plastic_limit.record import Record
from vadum.soil.methods.plastic_limit.school import PlasticLimitSchool
from vadum.soil.shared.plasticity import fine_part_water_percent
from vadum.soil.shared.water_by_tin import measured_percent


def counting(record: Record) -> list[tuple[int, float]]:
    """Row and water content, percent, of each determination that is dry, possible and not left out."""
    rows = []
    for i, row in enumerate(record.determinations):
        content = measured_percent(row)
        if content is not None and not row.excluded_because:
            rows.append((i, content))
    return rows


class Limits(NamedTuple):
    """Liquid and plastic limit, percent, as the school subtracts them: whole where its index is from whole numbers."""

    liquid_percent: float
    plastic_percent: float

    @property
    def apart(self) -> float:
        """`LL - PL`, percentage points."""
        return self.liquid_percent - self.plastic_percent

    @property
    def index_percent(self) -> float | None:
        """The plasticity index; None where it is not positive: nonplastic."""
        return self.apart if self.apart > 0 and not alike(self.liquid_percent, self.plastic_percent) else None


def subtracted(liquid_percent: float, plastic_percent: float, school: PlasticLimitSchool) -> Limits:
    """Both limits as the index is formed from them.

    The sheet prints whole limits: an index formed from the unrounded ones could contradict it by one, and 22.4 less
    21.6 is nothing where both are printed 22.
    """
    if not school.index_from_whole_numbers:
        return Limits(liquid_percent, plastic_percent)
    return Limits(float(rounded(liquid_percent, 1)), float(rounded(plastic_percent, 1)))


SLIP_SHARE = 0.6  # a liquid limit so far below the plastic one is a slip of the digits, no soil; laboratory setting


def typed_far_too_low(limits: Limits) -> bool:
    """Whether the liquid limit is so far below the plastic limit that a digit or its point is wrong: 4.45 for 44.5 must
    not end as "report NP"."""
    return limits.liquid_percent < SLIP_SHARE * limits.plastic_percent


def nonplastic_because(record: Record, school: PlasticLimitSchool) -> str:
    """Why the soil is nonplastic, or an empty text. Source: ASTM D4318, AASHTO T 90."""
    if record.cannot_be_rolled == "yes":
        return "threads cannot be rolled at any water content"
    if record.liquid_limit_unobtainable == "yes":
        return "the liquid limit cannot be found"
    found = counting(record)
    if found and known(record.liquid_limit_percent):
        limits = subtracted(record.liquid_limit_percent, mean([content for _, content in found]), school)
        if limits.index_percent is None and not typed_far_too_low(limits):
            return (
                f"plastic limit {plain(limits.plastic_percent, 3)} ≥ liquid limit {plain(limits.liquid_percent, 3)} %"
            )
    return ""


def fine_water_percent(record: Record) -> float | None:
    """Natural water content of the part below 0.425 mm, percent; the whole soil's where no share is known.

    Parameters: the record's natural water content, share below 0.425 mm, and the coarse part's own water content.
    Returns: %; None without a natural water content.
    Source: the water of both parts adds up, `fine_part_water_percent`.
    """
    water, share = record.natural_water_content_percent, record.finer_than_425um_percent
    if not known(water):
        return None
    if not known(share) or not 0 < share <= 100:
        return water
    coarse = record.coarse_water_content_percent
    return fine_part_water_percent(water, share, coarse if known(coarse) else 0.0)
