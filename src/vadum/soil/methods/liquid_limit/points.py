"""Which trials count, what water content each stands at, and which bands they fill."""

from typing import NamedTuple

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.methods.liquid_limit.dish import followed
from vadum.soil.methods.liquid_limit.record import Record, Trial
from vadum.soil.methods.liquid_limit.school import Band, LiquidLimitSchool
from vadum.soil.shared.water_by_tin import measured_percent


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
    """Drops for the cup, millimetres for the cone; None while not read or not possible."""
    reading = trial.blows if school.apparatus == "cup" else trial.penetration_mm
    return float(reading) if known(reading) and reading > 0 else None


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
        in_range = low <= x <= high and (not school.verified or verified(trial, school))
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
