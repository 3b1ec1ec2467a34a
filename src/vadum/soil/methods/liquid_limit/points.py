"""Which trials count, what water content each stands at, and which bands they fill."""

import math
from typing import NamedTuple

from vadum.soil.contract.compare import at_most
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import mean, plain
from vadum.soil.methods.liquid_limit.dish import followed
from vadum.soil.methods.liquid_limit.record import Record, Trial
from vadum.soil.methods.liquid_limit.school import Band, LiquidLimitSchool
from vadum.soil.shared.water_by_tin import measured_percent

OUTER_SHARE = 0.3  # of a band's width from its outer end


class Point(NamedTuple):
    """A trial that closed. `w_percent` is measured, or followed from the dish when `estimated`."""

    row: int
    abscissa: float
    w_percent: float | None
    estimated: bool
    in_range: bool
    excluded: bool
    estimate_percent: float | None

    @property
    def counts(self) -> bool:
        """Whether the line may use it."""
        return self.in_range and not self.excluded


def abscissa(trial: Trial, school: LiquidLimitSchool) -> float | None:
    """Drops for the cup, millimetres for the cone: the mean of its penetrations; None while not read or not possible.

    Parameters: `trial` with what was read; `school` its apparatus.
    Returns: drops or mm.
    Source: ASTM D4318 (cup), BS 1377-2 (cone).
    """
    if school.apparatus == "cup":
        return float(trial.blows) if known(trial.blows) and trial.blows > 0 else None
    found = penetrations(trial)
    return mean(found) if found else None


def penetrations(trial: Trial) -> list[float]:
    """The penetrations of a point in mm, as far as they are read."""
    read = (trial.penetration_mm, trial.second_penetration_mm, trial.third_penetration_mm)
    return [p for p in read if known(p) and p > 0]


def repeats_agree(trial: Trial, school: LiquidLimitSchool) -> bool | None:
    """Whether a point's penetrations agree: two within one figure, else three within another; None while one of them
    is still to come, or the school repeats nothing."""
    found = penetrations(trial)
    if school.repeat_mm is None or len(found) < 2:
        return None
    if at_most(abs(found[1] - found[0]), school.repeat_mm):
        return True
    return at_most(max(found) - min(found), school.third_mm) if len(found) > 2 else None


def verified(trial: Trial, school: LiquidLimitSchool) -> bool:
    """Whether both closures lie in the range and within the school's drops of each other."""
    if trial.verification_blows is None or trial.blows is None:
        return False
    low, high = school.accepted
    both = low <= trial.blows <= high and low <= trial.verification_blows <= high
    return both and abs(trial.blows - trial.verification_blows) <= school.verification_drops


def points(record: Record, school: LiquidLimitSchool) -> list[Point]:
    """Every trial that closed, in its order."""
    low, high = school.accepted
    estimates, _ = followed(record)
    found = []
    for index, trial in enumerate(record.trials):
        x = abscissa(trial, school)
        if x is None:
            continue
        measured = measured_percent(trial)
        in_range = (
            low <= x <= high
            and repeats_agree(trial, school) is not False
            and (not school.verified or verified(trial, school))
        )
        found.append(
            Point(
                index,
                x,
                estimates[index] if measured is None else measured,
                measured is None,
                in_range,
                bool(trial.excluded_because),
                estimates[index],
            )
        )
    return found


def bands_filled(abscissae: list[float], bands: tuple[Band, ...]) -> list[int | None]:
    """For each band the position of a trial that fills it, no trial twice, as many bands as can be.

    Bands may overlap or repeat, so this is a matching (augmenting paths), not a lookup.

    >>> bands_filled([27.0, 22.0], ((25, 35), (20, 30), (15, 25)))
    [0, 1, None]
    >>> bands_filled([20.0, 18.0], ((15, 20), (20, 25)))
    [1, 0]
    """
    filled: list[int | None] = [None] * len(bands)

    def place(trial: int, tried: set[int]) -> bool:
        for band, (low, high) in enumerate(bands):
            if band in tried or not low <= abscissae[trial] <= high:
                continue
            tried.add(band)
            holder = filled[band]
            if holder is None or place(holder, tried):
                filled[band] = trial
                return True
        return False

    for trial in range(len(abscissae)):
        place(trial, set())
    return filled


def aim(band: Band, school: LiquidLimitSchool) -> float:
    """The drops or mm to bring the soil to for a band: its middle, and of three bands that overlap the outer part of
    the outer ones, so that the points span enough.

    >>> from vadum.soil.methods.liquid_limit.school import SCHOOLS
    >>> [round(aim(band, SCHOOLS["three_bands"]), 1) for band in SCHOOLS["three_bands"].bands]
    [32.0, 24.5, 18.0]
    """
    low, high = band
    bands = sorted(set(school.bands))
    if school.kind == "multipoint" and len(bands) == 3 and bands[1][0] < bands[0][1]:
        if band == bands[0]:
            return low + OUTER_SHARE * (high - low)
        if band == bands[-1]:
            return high - OUTER_SHARE * (high - low)
    return math.sqrt(low * high)


def missing_bands(record: Record, school: LiquidLimitSchool) -> list[Band]:
    """Bands that no counting trial fills, in the school's order."""
    counting = [p.abscissa for p in points(record, school) if p.counts]
    if not school.every_band and len(counting) >= school.least_points:
        return []
    filled = bands_filled(counting, school.bands)
    return [band for band, holder in zip(school.bands, filled, strict=True) if holder is None]


def band_words(band: Band) -> str:
    """A band as it is said.

    >>> band_words((15, 17.5))
    '15–17.5'
    """
    return f"{plain(band[0])}–{plain(band[1])}"
