"""The readings of a virtual push, as a person calls and writes them."""

import random
from datetime import datetime, timedelta

from vadum.soil.shared.bearing.record import CalledRow
from vadum.soil.shared.bearing.school import BearingSchool
from vadum.soil.shared.load_curve import LoadCurve


def called_rows(
    ground: LoadCurve,
    school: BearingSchool,
    factor_n_div: float,
    seated_div: float,
    start: datetime,
    dice: random.Random,
    *,
    pace: float = 1.0,
    half_div: bool = True,
    missed: tuple[int, ...] = (),
    upto: int | None = None,
    lifts_kn: float | None = None,
) -> tuple[CalledRow, ...]:
    """The readings of a push as a person calls and writes them: to half a division, a second or so early or late."""
    rows = []
    step = 0.5 if half_div else 1.0
    for i, at_mm in enumerate(school.called_mm[:upto]):
        seconds = 60 * at_mm / (school.rate_mm_min * pace)
        at = start + timedelta(seconds=round(seconds + dice.uniform(-0.6, 0.6), 1) if i else 0)
        if i in missed:
            rows.append(CalledRow(missed="missed", read_at=at))
            continue
        force = ground.force_kn(at_mm)
        if lifts_kn is not None:
            force = min(force, lifts_kn)
        divisions = seated_div + 1000 * force / factor_n_div + (dice.gauss(0, 0.12) if i else 0.0)
        rows.append(CalledRow(ring_div=max(0.0, round(divisions / step) * step), read_at=at))
    return tuple(rows)
