"""The order of work for a compaction curve."""

from vadum.soil.contract.method import Step
from vadum.soil.contract.numerics import plain
from vadum.soil.methods.compaction.record import Record
from vadum.soil.shared.oven import OVEN_STEP


def _made(record: Record) -> int:
    return sum(p.mass_with_soil_g is not None for p in record.points)


def _dry(record: Record) -> list[bool]:
    return [p.mass_dry_g is not None for p in record.points if p.mass_wet_g is not None and not p.excluded_because]


STEPS: tuple[Step, ...] = (
    Step(
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
        hands_min=5,
        done=lambda r: r.mould_volume_cm3 is not None and r.mould_mass_g is not None,
        note=lambda r: f"{plain(r.mould_volume_cm3)} cm³" if r.mould_volume_cm3 else "",
    ),
    Step(
        key="soil",
        title="Soil in portions",
        does="Through the school's sieve, stones weighed and left out; air-dry portions, their water content known.",
        fields=(
            "mass_portion_g",
            "portion_water_percent",
            "specific_gravity_ratio",
            "specific_gravity_from",
            "oversize_percent",
            "oversize_gravity_ratio",
            "oversize_water_percent",
        ),
        cautions=("Dust: mask.",),
        hands_min=30,
        done=lambda r: r.mass_portion_g is not None and r.portion_water_percent is not None,
        note=lambda r: f"{plain(r.mass_portion_g)} g" if r.mass_portion_g else "",
    ),
    Step(
        key="points",
        title="Points",
        does="Water, mix, stand; layers and blows; trim, weigh; a slice of the middle into a tin.",
        fields=(
            "points[].water_added_ml",
            "points[].mass_with_soil_g",
            "points[].tin",
            "points[].mass_tin_g",
            "points[].mass_wet_g",
            "points[].excluded_because",
        ),
        cautions=(
            "Automatic rammer: guard shut, hands out, hearing protection.",
            "Hand rammer: fingers clear of the sleeve.",
        ),
        hands_min=25,
        done=lambda r: r.in_oven_at is not None,
        note=lambda r: f"{_made(r)} compacted" if _made(r) else "",
    ),
    OVEN_STEP,
    Step(
        key="dry",
        title="Weigh the dry tins",
        does="Lids on, cool, weigh.",
        fields=("points[].mass_dry_g", "remarks"),
        cautions=("Tins out with tongs.",),
        hands_min=6,
        done=lambda r: bool(_dry(r)) and all(_dry(r)),
        note=lambda r: f"{sum(_dry(r))} of {len(_dry(r))}" if _dry(r) else "",
    ),
)
