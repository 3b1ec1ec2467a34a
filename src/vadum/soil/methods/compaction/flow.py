"""The order of work for a compaction curve."""

from vadum.soil.contract.flow import Flow
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.task import Asks, Task
from vadum.soil.methods.compaction.advice import advise
from vadum.soil.methods.compaction.record import Record
from vadum.soil.shared.specimen import SPECIMEN
from vadum.soil.shared.tin_tasks import tins_into_oven


def _made(record: Record) -> int:
    return sum(p.mass_with_soil_g is not None for p in record.points)


def _dry(record: Record) -> list[bool]:
    return [p.mass_dry_g is not None for p in record.points if p.mass_wet_g is not None and not p.excluded_because]


FLOW: Flow = (
    # How much water to add, which point to take next, is thought, not looked up.
    Asks(key="think", title="What now", does="", in_column=False, think=advise),
    Task(
        key="mould",
        title="Mould and effort",
        does="Mould, base plate and collar; its number brings mass and volume. Rammer and drop as the school has them.",
        fields=(
            "mould",
            "mould_mass_g",
            "mould_volume_cm3",
            "balance",
            "balance_readability_g",
            "balance_due_on",
            "balance_in_date",
        ),
        cautions=("Heavy moulds: lift with two hands, steel-toed boots.",),
        hands_s=300,
        is_done=lambda f, s: f.record.mould_volume_cm3 is not None and f.record.mould_mass_g is not None,
        note=lambda f, s: f"{plain(f.record.mould_volume_cm3)} cm³" if f.record.mould_volume_cm3 else "",
    ),
    Task(
        key="soil",
        title="Soil in portions",
        does="Through the school's sieve, stones weighed and left out; air-dry portions, their water content known.",
        fields=(
            "mass_portion_g",
            "portion_water_percent",
            "specific_gravity_ratio",
            "specific_gravity_from",
            "oversize_percent",
            "method_letter",
            "prepared",
            "stood_h",
            "rammer_by",
            "oversize_gravity_ratio",
            "oversize_water_percent",
        ),
        cautions=("Dust: mask.",),
        hands_s=1800,
        is_done=lambda f, s: f.record.mass_portion_g is not None and f.record.portion_water_percent is not None,
        note=lambda f, s: f"{plain(f.record.mass_portion_g)} g" if f.record.mass_portion_g else "",
    ),
    Task(
        key="points",
        title="Points",
        does="Water, mix, stand; layers and blows; trim, weigh; a slice of the middle into a tin.",
        fields=(
            "points[].water_added_ml",
            "points[].mass_with_soil_g",
            "points[].layers_count",
            "points[].blows",
            "points[].tin",
            "points[].mass_tin_g",
            "points[].mass_tin_register_g",
            "points[].mass_wet_g",
            "points[].excluded_because",
        ),
        cautions=(
            "Automatic rammer: guard shut, hands out, hearing protection.",
            "Hand rammer: fingers clear of the sleeve.",
        ),
        hands_s=1500,
        is_done=lambda f, s: f.record.in_oven_at is not None,
        note=lambda f, s: f"{_made(f.record)} compacted" if _made(f.record) else "",
    ),
    tins_into_oven(),
    Task(
        key="dry",
        title="Weigh the dry tins",
        does="Lids on, cool, weigh.",
        fields=("points[].mass_dry_g", "free_draining", "remarks"),
        cautions=("Tins out with tongs.",),
        hands_s=360,
        is_done=lambda f, s: bool(_dry(f.record)) and all(_dry(f.record)),
        note=lambda f, s: f"{sum(_dry(f.record))} of {len(_dry(f.record))}" if _dry(f.record) else "",
    ),
    SPECIMEN,
)
