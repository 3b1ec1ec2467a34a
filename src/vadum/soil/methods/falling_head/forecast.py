"""When a cylinder will be empty, by what it has shown so far."""

from datetime import datetime, timedelta

from vadum.soil.methods.falling_head.facts import One
from vadum.soil.methods.falling_head.school import InfiltrationSchool
from vadum.soil.shared import infiltration


def empty_at(one: One, school: InfiltrationSchool) -> datetime | None:
    """The moment it comes down to the soil's bumps; None while nothing tells it."""
    if one.found is None or one.cylinder is None or one.standing.started_at is None or not one.points:
        return None
    level = school.empty_mm / 10
    seconds = infiltration.time_to_s(one.cylinder, one.found.fit.k_cm_s, one.found.fit.suction_cm, level)
    return one.standing.started_at + timedelta(seconds=one.points[0].seconds + min(seconds, 30 * 86400))
