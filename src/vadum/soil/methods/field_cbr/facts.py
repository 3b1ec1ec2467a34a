"""What a push in place comes to, worked out once: its curve, its calls, and its reaction."""

from typing import NamedTuple

from vadum.soil.contract.called import Called
from vadum.soil.methods.field_cbr.reaction import Plan, Plateau, Standstill, plan, plateau, standstill
from vadum.soil.methods.field_cbr.record import Record
from vadum.soil.methods.field_cbr.school import SpotSchool
from vadum.soil.shared.bearing.calls import called_of
from vadum.soil.shared.bearing.ends import EndResult, governing, lower_bound, pushes_of


class Facts(NamedTuple):
    """The one push with its calls, what the reaction wants and gives, and where the force stood still."""

    record: Record
    pushes: tuple[EndResult, ...]
    calls: tuple[Called, ...]
    plan: Plan
    flat: Plateau | None
    stood: Standstill

    @property
    def sound_mm(self) -> float | None:
        """As far as the readings are the ground's, mm: to the standstill's start where that was not the soil's own."""
        if self.flat is None or self.stood not in ("the vehicle lifted", "not to be told"):
            return None
        start = next(p for p in self.pushes[0].points if p.row == self.flat.row)
        return start.penetration_mm


def facts(record: Record, school: SpotSchool) -> Facts:
    """The facts of a record under a school."""
    pushes = pushes_of(record, school)
    calls = tuple(called_of(record, end, school) for end in record.ends())
    its, flat = plan(record, school), plateau(record, pushes[0], school)
    found = Facts(record, pushes, calls, its, flat, standstill(record, flat, its, school))
    return found._replace(pushes=(sound_push(found, school),))


def sound_push(facts: Facts, school: SpotSchool) -> EndResult:
    """The push with the ratios that the ground itself gave: none read beyond a standstill of the vehicle."""
    push, to_mm = facts.pushes[0], facts.sound_mm
    if to_mm is None:
        return push
    ratios = tuple(
        r if r.at_mm + push.shift_mm <= to_mm else r._replace(force_kn=None, percent=None) for r in push.ratios
    )
    cut = push._replace(ratios=ratios)
    governs = governing(cut, facts.record, school) if ratios and ratios[0].percent is not None else None
    if facts.stood == "the vehicle lifted":
        governs = lower_bound(cut, facts.flat.force_kn if facts.flat else 0.0, facts.record, school) or governs
    return cut._replace(governs=governs)
