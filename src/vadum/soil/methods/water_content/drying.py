"""How far the drying has come: the weighings in order, their times in the heat, and the constancy of the mass."""

from datetime import datetime, timedelta
from typing import NamedTuple

from vadum.soil.contract.compare import at_least, at_most
from vadum.soil.contract.fields import known
from vadum.soil.contract.outcome import Line
from vadum.soil.contract.times import minutes_between
from vadum.soil.methods.water_content.record import Record
from vadum.soil.methods.water_content.school import WaterContentSchool


class DryWeighing(NamedTuple):
    """One dry weighing: its row, mass in g, hours since drying began (None when a time is missing)."""

    row: int
    mass_g: float
    drying_h: float | None
    weighed_at: datetime | None


class Constancy(NamedTuple):
    """Two successive weighings held against the limit, all g; `too_soon_min` where no spell in the heat lay between
    them."""

    before_g: float
    after_g: float
    limit_g: float
    holds: bool
    too_soon_min: float | None = None

    def line(self) -> Line:
        """The change as working."""
        return Line(
            gives="change_g",
            symbol="change",
            formula="abs(M_last - M_before)",
            inputs={"M_last": self.after_g, "M_before": self.before_g},
            value=abs(self.after_g - self.before_g),
            unit="g",
            source="laboratory setting: share of the wet soil's mass",
            note=f"{'constant' if self.holds else 'not constant'}: at most {self.limit_g:.3g} g",
        )


def dry_weighings(record: Record) -> list[DryWeighing]:
    """The weighings that hold a finite mass, in their order."""
    weighings = []
    for index, row in enumerate(record.weighings):
        if known(row.mass_dry_g):
            hours = None
            if row.weighed_at and record.in_oven_at:
                hours = minutes_between(record.in_oven_at, row.weighed_at) / 60
            weighings.append(DryWeighing(index, row.mass_dry_g, hours, row.weighed_at))
    return weighings


def constancy(record: Record, school: WaterContentSchool) -> Constancy | None:
    """The last two weighings against the limit, a share of the *initial wet soil* mass; None below two."""
    weighings = dry_weighings(record)
    if len(weighings) < 2 or not (known(record.mass_wet_g) and known(record.mass_tin_g)):
        return None
    limit = school.constant_percent / 100 * (record.mass_wet_g - record.mass_tin_g)
    before, after = weighings[-2], weighings[-1]
    # Two weighings in a row, with no heat between, agree whatever is still in the soil.
    spell = None
    if before.weighed_at and after.weighed_at:
        spell = minutes_between(before.weighed_at, after.weighed_at)
    heated = spell is None or at_least(spell, school.least_spell_share * school.again_min)
    alike = at_most(abs(after.mass_g - before.mass_g), limit)
    return Constancy(before.mass_g, after.mass_g, limit, alike and heated, spell if not heated else None)


def is_dry(record: Record, school: WaterContentSchool) -> bool:
    """Whether the last weighing counts: constant mass, or one weighing after long enough where the school allows."""
    change = constancy(record, school)
    if change:
        return change.holds
    weighings = dry_weighings(record)
    if not weighings or school.second_weighing:
        return False
    hours = weighings[-1].drying_h
    return hours is not None and hours * 60 >= school.first_min


def next_weighing_at(record: Record, school: WaterContentSchool) -> datetime | None:
    """When the tin may next be weighed: the first time out of the heat, or after another spell in it."""
    if record.in_oven_at is None:
        return None
    weighings = dry_weighings(record)
    if not weighings:
        return record.in_oven_at + timedelta(minutes=school.first_min)
    last = weighings[-1]
    if last.weighed_at is None:
        return None
    hours = last.drying_h or 0.0
    if len(weighings) == 1 and not school.second_weighing and hours * 60 < school.first_min:
        return max(record.in_oven_at + timedelta(minutes=school.first_min), last.weighed_at)
    return last.weighed_at + timedelta(minutes=school.again_min)
