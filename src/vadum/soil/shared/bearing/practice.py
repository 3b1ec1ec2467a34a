"""Practising a push: what the ring shows once seated, the simulated frame, and what only the hidden ground tells."""

from collections.abc import Callable
from typing import Any

from vadum.soil.contract.called import Called
from vadum.soil.contract.errors import ReductionError
from vadum.soil.contract.fields import known
from vadum.soil.contract.method import Dial, Practice, Seen
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Cell, Table
from vadum.soil.shared.bearing.calls import rate_mm_min, timed
from vadum.soil.shared.bearing.ends import found_of, penetration_of
from vadum.soil.shared.bearing.record import BearingRecord, End
from vadum.soil.shared.bearing.rules import SEATING_RULE
from vadum.soil.shared.bearing.school import BearingSchool
from vadum.soil.shared.load_curve import LoadCurve
from vadum.soil.shared.proving_ring import ring_force_kn

# Laboratory settings: from where on a difference is named.
LATE_S = 2.0
ZERO_APART_MM = 0.2
RATES = (0.5, 1.0, 1.27, 2.0)  # what a frame's gears offer, mm/min
DECIDED = ("expected_percent", "wanted_mm", "seating_n", "zero_mm", "zero_because")

Under = Callable[[int, Any, str], tuple[float, LoadCurve]]


def first_pace_mm_min(seed: int, school: BearingSchool) -> float:
    """The pace at which a hand begins, mm/min: outside the allowed band, to be brought into it.

    Parameters: `seed` of the practice.
    Returns: mm/min, by turns too fast and too slow.
    """
    off = 1.4 * school.rate_tolerance_percent / 100
    return school.rate_mm_min * (1 + off if seed % 2 else 1 - off)


def practice_of(under: Under, by_hand: bool) -> Practice:
    """How a push is practised: `under(seed, school, end)` is the hidden ratio in percent and the ground beneath."""

    def answers(seed: int, school: BearingSchool, record: BearingRecord, path: str) -> Any:
        return _seated(record, path) if path.endswith("seated_div") else None

    def address(seed: int, school: BearingSchool, facts: Any, called: Called, rate: float, speed: float) -> str | None:
        record: BearingRecord = facts.record
        end = next(e for e in record.ends() if e.rows_path == called.key)
        soil = under(seed, school, end.key)[1]
        if record.ring_factor_n_div is None:
            return None
        pace = rate or (first_pace_mm_min(seed, school) if by_hand else school.rate_mm_min)
        return (
            f"simulated://frame?a_kn_mm={soil.a_kn_mm:.6f}&bend_mm={soil.bend_mm:.6f}&loose_mm={soil.loose_mm:.6f}"
            f"&factor_n_div={record.ring_factor_n_div:g}&seated_div={end.seated_div or 0:g}"
            f"&rate_mm_min={pace:g}&hand={by_hand:d}&speed={speed:g}&seed={seed}&running=1&end_mm=13"
        )

    def dials(facts: Any, called: Called) -> tuple[Dial, ...]:
        end = next((e for e in facts.record.ends() if e.rows_path == called.key), None)
        seated = end.seated_div if end and known(end.seated_div) else 0.0
        return (
            Dial("penetration", "penetration", "one division 0.01 mm, a turn 1 mm", 1.0),
            Dial("ring", "ring", "one division, a turn 100", 100.0, seated),
        )

    def seen(seed: int, school: BearingSchool, facts: Any) -> tuple[Seen, ...]:
        record: BearingRecord = facts.record
        found = [_of_the_push(record, e, school, *under(seed, school, e.key)) for e in record.ends()]
        return tuple(one for some in found for one in some)

    def truth(seed: int, school: BearingSchool, facts: Any) -> Table:
        return _truth(seed, school, facts.record, under)

    return Practice(
        answers=answers,
        decides=(*DECIDED, *(f"{end}_{field}" for end in ("top", "bottom") for field in DECIDED[2:])),
        address=address,
        rates=() if by_hand else RATES,
        by_hand=by_hand,
        dials=dials,
        seen=seen,
        told_by_truth=(SEATING_RULE,),
        truth=truth,
    )


def _truth(seed: int, school: BearingSchool, record: BearingRecord, under: Under) -> Table:
    """The hidden ground's own curve beside the readings of each push."""
    rows: list[dict[str, Cell]] = []
    for end in record.ends():
        soil = under(seed, school, end.key)[1]
        many, last = int(10 * school.called_mm[-1]), school.called_mm[-1]
        for i in range(many + 1):
            at = last * i / many
            label = "the soil" if i == many // 2 and end.key != "bottom" else ""
            rows.append({"end": end.words, "penetration_mm": at, "force_kn": soil.force_kn(at), "label": label})
    return tuple(rows)


def _seated(record: BearingRecord, path: str) -> float | None:
    """The ring under the seating load that was chosen, to half a division."""
    load, factor = getattr(record, path.replace("_div", "_n").replace("seated", "seating")), record.ring_factor_n_div
    return round(2 * load / factor) / 2 if known(load) and known(factor) and factor > 0 else None


def _of_the_push(
    record: BearingRecord, end: End, school: BearingSchool, percent: float, ground: LoadCurve
) -> list[Seen]:
    """Late calls, a seating of the wrong class, a tangent drawn elsewhere."""
    found = []
    rate = rate_mm_min(timed(end, school)) or school.rate_mm_min
    late = [
        (i, s)
        for i in range(len(end.rows))
        if (s := late_s(record, end, i, school, ground, rate)) is not None and abs(s) > LATE_S
    ]
    if late:
        i, seconds = max(late, key=lambda r: abs(r[1]))
        word = "late" if seconds > 0 else "early"
        worst = f"the worst at {school.called_mm[i]:g} mm, about {abs(seconds):.0f} s {word}"
        seen = f"{end.words}: {len(late)} calls; {worst}"
        found.append(Seen("calls late or early", seen, "Say the next penetration aloud before the needle reaches it."))
    wanted = school.seating_n(percent)
    share = school.seating_tolerance_percent / 100
    if known(end.seating_n) and not (1 - share) * wanted <= end.seating_n <= (1 + share) * wanted:
        seen = f"{end.words}: {plain(end.seating_n)} N where {percent:.2g} % wants {plain(wanted)} N"
        found.append(Seen("seating of the wrong class", seen, "Judge the ratio by the soil's feel before seating."))
    its = found_of(record, end, school)
    true = _true_shift_mm(ground)
    if its.curve is not None and its.over and abs(its.shift_mm - true) > ZERO_APART_MM:
        seen = f"{end.words}: zero moved by {plain(its.shift_mm, 3)} mm, the loose skin was {plain(true, 3)} mm"
        found.append(Seen("tangent drawn elsewhere", seen, "Lay it along the steepest straight part."))
    return found


def _true_shift_mm(ground: LoadCurve) -> float:
    """How far the loose skin moves the curve of sound ground, mm."""
    deep = 5.0
    return deep - ground.effective_mm(deep) if ground.loose_mm > 0 else 0.0


def late_s(
    record: BearingRecord, end: End, row: int, school: BearingSchool, ground: LoadCurve, rate: float
) -> float | None:
    """How late a call was read, s, told from the ring: where the true curve has that force, at a rate in mm/min.

    Parameters: `row` from 0; the true `ground`; `rate` in mm/min.
    Returns: s, above 0 where the call was late; None where the ring cannot tell it.
    """
    reading, ring = end.rows[row].ring_div, record.ring()
    at_mm = penetration_of(end, row, school)
    if ring is None or at_mm is None or not known(reading) or at_mm <= 0:
        return None
    try:
        seated = ring_force_kn(ring, end.seated_div) if known(end.seated_div) else 0.0
        force = ring_force_kn(ring, reading) - seated
    except ReductionError:
        return None
    if force <= 0:
        return None
    low, high = 0.0, 2 * school.called_mm[-1]
    for _ in range(50):
        middle = (low + high) / 2
        low, high = (middle, high) if ground.force_kn(middle) < force else (low, middle)
    slope = (ground.force_kn(at_mm + 0.05) - ground.force_kn(at_mm - 0.05)) / 0.1
    # Where the curve is so flat that one division means seconds, the ring does not tell.
    division = ring_force_kn(ring, 1.0 + (ring.range_div[0])) - ring_force_kn(ring, ring.range_div[0])
    if slope <= 0 or 60 * (division / slope) / rate > LATE_S:
        return None
    return 60 * (low - at_mm) / rate
