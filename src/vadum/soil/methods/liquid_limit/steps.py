"""The order of work for a liquid limit."""

from vadum.soil.contract.method import Step
from vadum.soil.contract.numerics import plain
from vadum.soil.methods.liquid_limit.record import Record
from vadum.soil.shared.oven import OVEN_STEP


def _closed(record: Record) -> int:
    return sum(1 for t in record.trials if t.blows is not None or t.penetration_mm is not None)


def _kept(record: Record) -> list[float | None]:
    return [t.mass_dry_g for t in record.trials if t.mass_wet_g is not None and not t.excluded_because]


def _device_note(record: Record) -> str:
    drop = "" if record.device_drop_mm is None else f" · drop {plain(record.device_drop_mm)} mm"
    return f"{record.device}{drop}" if record.device else ""


def _water_note(record: Record) -> str:
    total = sum(t.water_added_ml or 0 for t in record.trials)
    return f"{plain(total)} mL in all" if total else ""


STEPS: tuple[Step, ...] = (
    Step(
        key="device",
        title="Device checked",
        does="Drop height with the gauge block, worn spot, feet, grooving tool; tape off the cup afterwards.",
        fields=(
            "device",
            "device_inspected_on",
            "device_due_on",
            "device_drop_mm",
            "device_reason",
            "tested_on",
        ),
        cautions=("A worn brass cup has sharp edges.",),
        hands_min=5,
        done=lambda r: r.device is not None,
        note=_device_note,
    ),
    Step(
        key="soil",
        title="Soil over 0.425 mm",
        does="Break lumps with a rubber pestle so that no grain breaks; sieve; weigh what you take.",
        fields=(
            "dry_soil_g",
            "air_dry_water_percent",
            "balance",
            "balance_readability_g",
            "balance_due_on",
            "balance_in_date",
        ),
        cautions=("Sieve dust: mask, or work damp.",),
        hands_min=15,
        done=lambda r: r.dry_soil_g is not None,
        note=lambda r: "" if r.dry_soil_g is None else f"{plain(r.dry_soil_g)} g taken",
    ),
    Step(
        key="wet",
        title="Wetted and seasoned",
        does="Water in small amounts, mixed up to 20 min, closed. Fat clay overnight.",
        fields=("trials[].water_added_ml", "seasoned_from_at"),
        hands_min=20,
        waits_min=30,
        done=lambda r: r.seasoned_from_at is not None,
        note=_water_note,
    ),
    Step(
        key="trials",
        title="Trials",
        does="Spread level, groove, turn at two a second, stop at 13 mm; a slice across the closure into a tin.",
        fields=(
            "trials[].mass_dish_g",
            "trials[].blows",
            "trials[].verification_blows",
            "trials[].penetration_mm",
            "trials[].closed_at",
            "trials[].excluded_because",
            "trials[].tin",
            "trials[].mass_tin_g",
            "trials[].mass_wet_g",
            "cannot_be_found",
        ),
        hands_min=40,
        done=lambda r: r.in_oven_at is not None or r.cannot_be_found == "yes",
        note=lambda r: f"{_closed(r)} closed" if _closed(r) else "",
    ),
    OVEN_STEP,
    Step(
        key="dry",
        title="Weigh the dry tins",
        does="Lids on, cool 5 to 10 minutes, weigh.",
        fields=("trials[].mass_dry_g", "plastic_limit_percent", "remarks"),
        cautions=("Tins out with tongs.",),
        hands_min=6,
        done=lambda r: bool(_kept(r)) and all(m is not None for m in _kept(r)),
        note=lambda r: f"{sum(m is not None for m in _kept(r))} of {len(_kept(r))}" if _kept(r) else "",
    ),
)
