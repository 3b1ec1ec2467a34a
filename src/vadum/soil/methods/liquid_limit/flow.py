"""The order of work for a liquid limit."""

from vadum.soil.contract.flow import Flow
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.task import Asks, Task
from vadum.soil.methods.liquid_limit.advice import advise
from vadum.soil.methods.liquid_limit.record import Record
from vadum.soil.methods.liquid_limit.school import LiquidLimitSchool
from vadum.soil.shared.specimen import SPECIMEN
from vadum.soil.shared.tin_tasks import tins_into_oven


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


CUP = frozenset({"trials[].blows", "trials[].verification_blows", "device_drop_mm", "turned_by", "tool_is"})
CONE = frozenset({"trials[].penetration_mm", "trials[].second_penetration_mm", "trials[].third_penetration_mm"})


def unused(school: LiquidLimitSchool) -> frozenset[str]:
    """The readings of the other apparatus."""
    return CUP if school.apparatus == "cone" else CONE


FLOW: Flow = (
    # How much water to add, which point to take next, is thought, not looked up.
    Asks(key="think", title="What now", does="", in_column=False, think=advise),
    Task(
        key="device",
        title="Device checked",
        does="Drop height with the gauge block, worn spot, feet, grooving tool; tape off the cup afterwards.",
        fields=(
            "device",
            "device_inspected_on",
            "device_due_on",
            "device_passed",
            "device_drop_mm",
            "turned_by",
            "tool_is",
            "device_reason",
            "tested_on",
        ),
        cautions=("A worn brass cup has sharp edges.",),
        hands_s=300,
        is_done=lambda f, s: f.record.device is not None,
        note=lambda f, s: _device_note(f.record),
    ),
    Task(
        key="soil",
        title="Soil over 0.425 mm",
        does="Break lumps with a rubber pestle so that no grain breaks; sieve; weigh what you take.",
        fields=(
            "finer_than_425um_percent",
            "water_used",
            "dry_soil_g",
            "air_dry_water_percent",
            "balance",
            "balance_readability_g",
            "balance_due_on",
            "balance_in_date",
        ),
        cautions=("Sieve dust: mask, or work damp.",),
        hands_s=900,
        is_done=lambda f, s: f.record.dry_soil_g is not None,
        note=lambda f, s: "" if f.record.dry_soil_g is None else f"{plain(f.record.dry_soil_g)} g taken",
    ),
    Task(
        key="wet",
        title="Wetted and seasoned",
        does="Water in small amounts, mixed up to 20 min, closed. Fat clay overnight.",
        fields=("trials[].water_added_ml", "seasoned_from_at"),
        hands_s=1200,
        waits_min=30,
        is_done=lambda f, s: f.record.seasoned_from_at is not None,
        note=lambda f, s: _water_note(f.record),
    ),
    Task(
        key="trials",
        title="Trials",
        does="Spread level, groove, turn at two a second, stop at 13 mm; a slice across the closure into a tin.",
        fields=(
            "trials[].mass_dish_g",
            "trials[].blows",
            "trials[].verification_blows",
            "trials[].penetration_mm",
            "trials[].second_penetration_mm",
            "trials[].third_penetration_mm",
            "trials[].closed_at",
            "trials[].excluded_because",
            "trials[].tin",
            "trials[].mass_tin_g",
            "trials[].mass_tin_register_g",
            "trials[].mass_wet_g",
            "cannot_be_found",
        ),
        hands_s=2400,
        is_done=lambda f, s: f.record.in_oven_at is not None or f.record.cannot_be_found == "yes",
        note=lambda f, s: f"{_closed(f.record)} closed" if _closed(f.record) else "",
    ),
    tins_into_oven(),
    Task(
        key="dry",
        title="Weigh the dry tins",
        does="Lids on, cool 5 to 10 minutes, weigh.",
        fields=("trials[].mass_dry_g", "plastic_limit_percent", "remarks"),
        cautions=("Tins out with tongs.",),
        hands_s=360,
        is_done=lambda f, s: bool(_kept(f.record)) and all(m is not None for m in _kept(f.record)),
        note=lambda f, s: (
            f"{sum(m is not None for m in _kept(f.record))} of {len(_kept(f.record))}" if _kept(f.record) else ""
        ),
    ),
    SPECIMEN,
)
