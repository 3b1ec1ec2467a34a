"""A virtual soil with a smooth grading, shaken through sieves that keep a little back."""

import random
from datetime import UTC, datetime, timedelta

from vadum.soil.contract.method import Trial
from vadum.soil.methods.sieve.record import Limit, Record, Sieve
from vadum.soil.methods.sieve.rules import load_limit_g
from vadum.soil.methods.sieve.school import SieveSchool
from vadum.soil.shared.grading import log_normal_percent

MISTAKES = {
    "lost": "a tray spilled before it was weighed",
    "overloaded": "far too much soil on small sieves",
    "torn": "a broken sieve in the stack",
}
START = datetime(2026, 1, 5, 9, 0, tzinfo=UTC)


def virtual(seed: int, school: SieveSchool, mistake: str | None = None) -> Trial:
    """A full record of a virtual soil whose true shares are returned beside it."""
    dice = random.Random(seed)
    middle, spread = dice.uniform(0.06, 0.9), dice.uniform(0.9, 1.25)
    # The coarsest grain stays below what 360 g is enough for by every rule book.
    largest = 6.0 if school.separation_only else 4.5
    whole = log_normal_percent(largest, middle, spread)

    def finer(size: float) -> float:
        return 100.0 if size >= largest else 100 * log_normal_percent(size, middle, spread) / whole

    total = 5200.0 if mistake == "overloaded" else 360.0
    washed = school.wash_over_mm
    washed_away = 0.97 * total * finer(washed) / 100 if washed else 0.0
    holding = sorted(a for a in school.apertures_mm if a < largest)
    spilled = holding[len(holding) // 2]
    rows = []
    above = total
    for aperture in sorted(school.apertures_mm, reverse=True):
        passes = total * finer(aperture) / 100
        kept = (above - passes) * (1 - dice.uniform(0, 0.001))
        if mistake == "lost" and aperture == spilled:
            kept *= 0.4
        above = passes
        state = "broken" if mistake == "torn" and aperture == min(school.apertures_mm) else "sound"
        held = round(kept, 1)
        # A careful hand sieves in portions what would lie too deep.
        deep = held > load_limit_g(aperture, 300.0, school) and mistake != "overloaded"
        rows.append(
            Sieve(
                aperture_mm=aperture,
                mass_retained_g=held,
                sieve_diameter_mm=300.0,
                sieve_state=state,
                in_portions="yes" if deep else None,
            )
        )
    rows.sort(key=lambda one: school.apertures_mm.index(one.aperture_mm))  # as a run begins with them
    pan = above - washed_away
    fullest = max(rows, key=lambda one: one.mass_retained_g or 0.0).aperture_mm
    edge = 0.063 if school.boundaries == "iso" else 0.075
    record = Record(
        largest_particle_mm=largest,
        mass_total_g=round(total, 1),
        washed_over_mm=washed,
        in_oven_at=START if washed else None,
        mass_washed_g=round(total - washed_away, 1) if washed else None,
        shaken_from_at=START + timedelta(hours=17),
        sieves=tuple(rows),
        mass_pan_g=round(pan, 1),
        weighed_as="oven-dry",
        further_minute_g=round(0.002 * max(one.mass_retained_g or 0.0 for one in rows), 3),
        further_minute_at_mm=fullest,
        envelope_name="filter sand",
        envelope=(
            Limit(aperture_mm=min(school.apertures_mm), least_percent=0, most_percent=100),
            Limit(aperture_mm=max(school.apertures_mm), least_percent=80, most_percent=100),
        ),
    )
    if school.separation_only:
        return Trial(record, {"coarse_percent": 100 - finer(2.0)}, {"coarse_percent": 0.3}, mistake)
    truth = {"fines_percent": finer(edge)}
    tolerance = {"fines_percent": 0.4}
    return Trial(record, truth, tolerance, mistake)
