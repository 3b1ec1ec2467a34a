"""What cannot wait for the end of a push: a ring, a gauge or a curve that says stop, or be ready to."""

from typing import NamedTuple

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.shared.bearing.ends import Point, points_of
from vadum.soil.shared.bearing.record import BearingRecord, End
from vadum.soil.shared.bearing.school import BearingSchool


class Pushed(NamedTuple):
    """A push as far as it has come, and the penetration that is called next, mm."""

    record: BearingRecord
    end: End
    school: BearingSchool
    points: tuple[Point, ...]
    next_mm: float


def pushed(record: BearingRecord, end: End, school: BearingSchool) -> Pushed:
    """The push with its curve so far."""
    row = min(len(end.rows), len(school.called_mm) - 1)
    return Pushed(record, end, school, points_of(end, record.ring(), school), school.called_mm[row])


def ring_alarm(push: Pushed) -> str:
    """The ring is beyond its calibration, or will be before the next call at the slope of the last two readings."""
    ring = push.record.ring()
    high = ring.range_div[1] if ring else None
    if high is None:
        return ""
    read = [
        (push.school.called_mm[i], r.ring_div)
        for i, r in enumerate(push.end.rows)
        if known(r.ring_div) and i < len(push.school.called_mm)
    ]
    if not read:
        return ""
    at, last = read[-1]
    if last > high:
        return f"Stop: the ring is at {plain(last)}, beyond its calibration of {plain(high)} divisions."
    if len(read) < 2:
        return ""
    slope = (last - read[-2][1]) / (at - read[-2][0])
    if slope > 0 and last + slope * (push.next_mm - at) > high:
        return (
            f"The ring comes to its {plain(high)} divisions at about {plain(at + (high - last) / slope, 2)} mm: stop."
        )
    return ""


def gauge_alarm(push: Pushed) -> str:
    """The gauge's travel ends before the next call."""
    travel = push.record.gauge_travel_mm
    if not known(travel) or push.next_mm <= travel:
        return ""
    return f"The gauge's travel of {plain(travel)} mm ends before the next call: stop."


def fall_alarm(push: Pushed) -> str:
    """The force has just fallen."""
    if len(push.points) < 3:
        return ""
    before, last = push.points[-2:]
    fall = before.force_kn - last.force_kn
    if fall <= push.school.most_fall_percent / 100 * max(p.force_kn for p in push.points):
        return ""
    return f"The force fell by {plain(fall, 2)} kN: correct it if it is a slip; note a crack or a stone."


def alarm(record: BearingRecord, end: End, school: BearingSchool) -> str:
    """The gravest of them in one sentence; empty while the push may go on."""
    push = pushed(record, end, school)
    return ring_alarm(push) or gauge_alarm(push) or fall_alarm(push)
