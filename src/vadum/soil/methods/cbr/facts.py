"""What a moulded specimen comes to, worked out once: its pushes, its densities, its swell."""

from typing import NamedTuple

from vadum.soil.contract.called import Called
from vadum.soil.methods.cbr.record import Record
from vadum.soil.methods.cbr.school import MouldSchool
from vadum.soil.methods.cbr.specimen import compacted_percent, density_mg_m3, dry_density, swells
from vadum.soil.shared.bearing.calls import called_of
from vadum.soil.shared.bearing.ends import EndResult, pushes_of


class Facts(NamedTuple):
    """The pushes and their calls, the moist density in Mg/m3, water and dry density as compacted, each with whether
    it is only told from the water added, and the swell of each reading."""

    record: Record
    pushes: tuple[EndResult, ...]
    calls: tuple[Called, ...]
    moist_mg_m3: float | None
    water: tuple[float, bool] | None
    dry: tuple[float, bool] | None
    swells: tuple[tuple[int, float], ...]


def facts(record: Record, school: MouldSchool) -> Facts:
    """The facts of a record under a school."""
    return Facts(
        record,
        pushes_of(record, school),
        tuple(called_of(record, end, school) for end in record.ends()),
        density_mg_m3(record),
        compacted_percent(record),
        dry_density(record),
        tuple(swells(record, school)),
    )
