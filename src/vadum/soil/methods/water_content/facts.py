"""What the weighings of a tin come to, worked out once."""

from datetime import datetime
from typing import NamedTuple

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


class Facts(NamedTuple):
    """The tin's last three masses, its dry weighings, the change between the last two, and whether it is dry."""

    record: Record
    masses: Masses | None
    wet_g: float | None
    weighings: tuple[DryWeighing, ...]
    change: Constancy | None
    dry: bool
    next_at: datetime | None


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
    )
