"""The limits of a sample as its card takes them: one liquid limit, one plastic limit, and the indices of those two."""

from typing import NamedTuple

from vadum.soil.classify.path import Figure
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import rounded
from vadum.soil.shared.plasticity import (
    ACTIVITY,
    CONSISTENCY,
    LIQUID_FLOOR,
    fine_part_water_percent,
    index_uncertainty_percent,
    liquidity_index,
    with_floor,
)
from vadum.soil.soil_card.evidence import Evidence, Known

GROUND = ("ring_density", "pit_density")
FINE_PART_MM = 0.425  # the limits are those of the part that passes


class Limits(NamedTuple):
    """Both limits, percent, as they are subtracted: whole where the plastic limit's school forms its index so.

    An index that a run formed with another liquid limit than the card's is never taken.
    """

    liquid: Known
    plastic: Known
    whole: bool

    def _taken(self, known: Known) -> float:
        return float(rounded(known.value, 1)) if self.whole else known.value

    @property
    def liquid_percent(self) -> float:
        """The liquid limit as it is subtracted from."""
        return self._taken(self.liquid)

    @property
    def plastic_percent(self) -> float:
        """The plastic limit as it is subtracted."""
        return self._taken(self.plastic)

    @property
    def index_percent(self) -> float | None:
        """The plasticity index; None where it is not positive: nonplastic."""
        apart = self.liquid_percent - self.plastic_percent
        return apart if apart > 0 else None

    @property
    def index_error(self) -> float:
        """Its standard uncertainty, percentage points."""
        return index_uncertainty_percent(self.liquid.uncertainty, self.plastic.uncertainty)

    @property
    def reported(self) -> str:
        """The index as it is printed."""
        index = self.index_percent
        return "NP" if index is None else rounded(index, 1 if self.whole else 0.1)

    @property
    def codes(self) -> str:
        """The two runs."""
        return f"{self.liquid.code} − {self.plastic.code}"


def limits(evidence: Evidence) -> Limits | None:
    """The card's limits; None without both. Without a run of the liquid limit the one that was typed with the threads
    stands."""
    liquid = evidence.known("liquid_limit", "liquid_limit_percent")
    plastic = evidence.known("plastic_limit", "plastic_limit_percent")
    if plastic is None:
        return None
    told = next(t for t in evidence.told if t.code == plastic.code)
    typed = told.record.liquid_limit_percent
    if liquid is None and known(typed):
        error = told.record.liquid_limit_uncertainty_percent
        named = {"unit": "%", "name": "liquid limit, typed", "symbol": "LL"}
        liquid = Known(typed, error, plastic.code, False, rounded(typed, 1), **named)
    return Limits(liquid, plastic, told.school.index_from_whole_numbers) if liquid else None


def nonplastic(evidence: Evidence) -> bool:
    """Whether the soil is nonplastic: said by hand at the bench, or by the card's own two limits."""
    if any(t.record.cannot_be_found == "yes" for t in evidence.of("liquid_limit")[:1]):
        return True
    for told in evidence.of("plastic_limit")[:1]:
        if told.record.cannot_be_rolled == "yes" or told.record.liquid_limit_unobtainable == "yes":
            return True
    both = limits(evidence)
    return both is not None and both.index_percent is None


def figures(evidence: Evidence, *, as_reported: bool) -> dict[str, Figure]:
    """Liquid limit and plasticity index for a class, with the floor of what one operator repeats.

    `as_reported`: the index is that of the whole limits, else of the unrounded ones.
    """
    found: dict[str, Figure] = {}
    both = limits(evidence)
    liquid = both.liquid if both else evidence.known("liquid_limit", "liquid_limit_percent")
    if liquid:
        found["liquid limit"] = Figure(liquid.value, with_floor(liquid.uncertainty, LIQUID_FLOOR))
    if both is None:
        return found
    taken = both._replace(whole=as_reported)
    index = taken.index_percent
    if index is not None:
        found["plasticity index"] = Figure(index, both.index_error)
    return found


def natural_water(evidence: Evidence) -> Known | None:
    """The sample's water content: by its own test, else by a density's tin."""
    for method in ("water_content", *GROUND):
        found = evidence.known(method, "water_content_percent")
        if found:
            return found
    return None


def fine_water_percent(evidence: Evidence, fine_share_percent: float | None) -> float | None:
    """Natural water content of the part below 0.425 mm; of the whole soil where its share is not known.

    Parameters: `fine_share_percent` below 0.425 mm in %, by dry mass.
    Returns: %; None without a natural water content.
    Source: the water of both parts adds up; the coarse part is taken to hold none.
    """
    water = natural_water(evidence)
    if water is None:
        return None
    if fine_share_percent is None or not 0 < fine_share_percent <= 100:
        return water.value
    return fine_part_water_percent(water.value, fine_share_percent)


def liquidity(evidence: Evidence, fine_share_percent: float | None = None) -> tuple[float, str] | None:
    """Liquidity index of the fine part and the consistency it means; None without water content and both limits."""
    both, water = limits(evidence), fine_water_percent(evidence, fine_share_percent)
    index = both.index_percent if both else None
    if both is None or index is None or water is None or nonplastic(evidence):
        return None
    found = liquidity_index(water, both.plastic_percent, index)
    return found, next(word for limit, word in CONSISTENCY if 1 - found < limit)


def activity(evidence: Evidence) -> tuple[float, str] | None:
    """Activity and its class; None without plasticity index and clay content."""
    both = limits(evidence)
    index = both.index_percent if both else None
    clay = evidence.known("hydrometer", "finer_than_2um_percent")
    if index is None or clay is None or clay.value <= 0 or nonplastic(evidence):
        return None
    found = index / clay.value
    return found, next(word for limit, word in ACTIVITY if found < limit)
