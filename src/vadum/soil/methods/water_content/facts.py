"""What the weighings of a tin come to, worked out once."""

from datetime import datetime
from typing import NamedTuple

from vadum.soil.contract.compare import at_least
from vadum.soil.contract.fields import known
from vadum.soil.methods.water_content.drying import (
    Constancy,
    DryWeighing,
    constancy,
    dry_weighings,
    is_dry,
    next_weighing_at,
)
from vadum.soil.methods.water_content.record import Record
from vadum.soil.methods.water_content.school import WaterContentSchool
from vadum.soil.shared.water_by_tin import Masses, TinRow, masses_of


class Step(NamedTuple):
    """The step that is reported to and the finest that the mass allows, percent; the least wet masses in g for 1 % and
    for 0.1 %, None where the school's table does not tell."""

    percent: float
    allowed_percent: float
    whole_g: float | None
    tenth_g: float | None


def step_of(record: Record, wet_g: float | None, school: WaterContentSchool) -> Step:
    """What is asked, else the finest step that the mass allows: one figure for the printed value and its verdict."""
    grain = record.largest_particle_mm
    row = next((r for r in school.sizes if known(grain) and grain <= r[0]), None)
    whole, tenth = (row[1], row[2]) if row else (None, None)
    allowed = 1.0 if wet_g is not None and tenth is not None and not at_least(wet_g, tenth) and tenth != whole else 0.1
    asked = record.report_to_percent if record.report_to_percent in (0.1, 1.0) else None
    return Step(asked or allowed, allowed, whole, tenth)


class Facts(NamedTuple):
    """The tin's last three masses, its dry weighings, the change between the last two, and whether it is dry."""

    record: Record
    masses: Masses | None
    wet_g: float | None
    weighings: tuple[DryWeighing, ...]
    change: Constancy | None
    dry: bool
    next_at: datetime | None
    step: Step


def facts(record: Record, school: WaterContentSchool) -> Facts:
    """The facts of a record under a school."""
    weighings = tuple(dry_weighings(record))
    tin, wet = record.mass_tin_g, record.mass_wet_g
    last = weighings[-1].mass_g if weighings else None
    masses = masses_of(TinRow(mass_tin_g=tin, mass_wet_g=wet, mass_dry_g=last)) if last is not None else None
    moist = wet - tin if known(wet) and known(tin) and wet > tin else None
    return Facts(
        record,
        masses,
        moist,
        weighings,
        constancy(record, school),
        is_dry(record, school),
        next_weighing_at(record, school),
        step_of(record, moist, school),
    )
