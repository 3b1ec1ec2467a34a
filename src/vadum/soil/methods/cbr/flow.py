"""The order of work for a bearing ratio in the mould."""

from vadum.soil.contract.flow import Flow, Task
from vadum.soil.contract.numerics import plain
from vadum.soil.methods.cbr.record import Record
from vadum.soil.methods.cbr.specimen import density_mg_m3, swells
from vadum.soil.shared.bearing.calls import read_rows
from vadum.soil.shared.bearing.record import APPARATUS, CalledRow

ROW = tuple(f for f in CalledRow.model_fields)


def _density(record: Record) -> str:
    moist = density_mg_m3(record)
    return f"{moist:.2f} Mg/m³ wet" if moist else ""


def _swell(record: Record) -> str:
    found = swells(record)
    return f"swell {plain(found[-1][1], 2)} %" if found else (record.condition or "")


def _rows(record: Record, name: str) -> str:
    many = read_rows(getattr(record, name))
    return f"{many} readings" if many else ""


def _push(name: str, title: str, does: str, applies: bool) -> Task:
    return Task(
        key=name,
        title=title,
        does=does,
        fields=(
            f"{name}_seating_n",
            f"{name}_seated_div",
            *(f"{name}[].{f}" for f in ROW),
            f"{name}_stopped",
            f"{name}_zero_mm",
            f"{name}_zero_because",
        ),
        cautions=("The frame does not wait: fingers clear of the plunger; know where its stop is.",),
        hands_s=720,
        is_done=lambda f, s: getattr(f.record, f"{name}_stopped") is not None or len(getattr(f.record, name)) >= 12,
        note=lambda f, s: _rows(f.record, name),
        applies=lambda s: applies or s.both_ends,
    )


FLOW: Flow = (
    Task(
        key="mould",
        title="Mould and effort",
        does="Mould and base plate weighed without the collar; its number brings mass, volume and height.",
        fields=(
            "mould",
            "mould_mass_g",
            "mould_volume_cm3",
            "specimen_height_mm",
            "balance",
            "balance_readability_g",
            "balance_due_on",
            "balance_in_date",
        ),
        cautions=("Heavy moulds: lift with two hands, steel-toed boots.",),
        hands_s=300,
        is_done=lambda f, s: f.record.mould_mass_g is not None and f.record.mould_volume_cm3 is not None,
        note=lambda f, s: f"mould {f.record.mould}" if f.record.mould else "",
    ),
    Task(
        key="soil",
        title="Soil at its water content",
        does="Stones above the limit screened out; brought near the optimum, covered to stand.",
        fields=(
            "maximum_dry_density_mg_m3",
            "optimum_water_percent",
            "target_percent",
            "oversize_percent",
            "mass_portion_g",
            "portion_water_percent",
            "water_added_ml",
        ),
        cautions=("Dust: mask.",),
        hands_s=1500,
        is_done=lambda f, s: f.record.water_added_ml is not None,
        note=lambda f, s: f"{plain(f.record.optimum_water_percent)} % wanted" if f.record.optimum_water_percent else "",
    ),
    Task(
        key="compact",
        title="Compact, strike, weigh",
        does="Layers and blows of the school; collar off, level, weigh; a tin of the trimmings.",
        fields=(
            "mass_with_soil_g",
            "tins[].tin",
            "tins[].mass_tin_g",
            "tins[].mass_wet_g",
            "tins[].weighed_wet_at",
        ),
        cautions=("Rammer: fingers clear of the sleeve; automatic rammer guarded; hearing protection.",),
        hands_s=1500,
        is_done=lambda f, s: f.record.mass_with_soil_g is not None,
        note=lambda f, s: _density(f.record),
    ),
    Task(
        key="soak",
        title="Discs, soaking, swell",
        does="Surcharge discs on; soaked: tank, swell gauge read each day for four days, drained 15 min.",
        fields=(
            "condition",
            "surcharge",
            "surcharge_kg",
            "swell_zero_mm",
            "soak_started_at",
            "swell[].gauge_mm",
            "swell[].read_at",
            "soak_ended_at",
        ),
        cautions=("A soaked mould is heavier and slippery: two hands, dry the floor.",),
        hands_s=600,
        waits_min=4 * 1440,
        is_done=lambda f, s: f.record.condition == "unsoaked" or f.record.soak_ended_at is not None,
        note=lambda f, s: _swell(f.record),
    ),
    Task(
        key="frame",
        title="Ring, gauge, plunger",
        does="Their numbers bring their calibration; the expected ratio gives the seating load.",
        fields=(
            *APPARATUS,
            "expected_percent",
        ),
        hands_s=240,
        is_done=lambda f, s: f.record.forces_known() and f.record.expected_percent is not None,
        note=lambda f, s: f"ring {f.record.proving_ring}" if f.record.proving_ring else "",
    ),
    _push("top", "Top end", "Seat, zero both gauges, push at the school's rate, read each call.", True),
    _push("bottom", "Turn over, bottom end", "Base plate off, seat, zero, push and read again.", False),
    Task(
        key="dry",
        title="Water content after",
        does="A tin from under the plunger of each tested end; dry tins weighed.",
        fields=("tins[].mass_dry_g", "timed_mm_min", "repeated", "stone_under_mm", "remarks"),
        cautions=("Hot tins: gloves and tongs.",),
        hands_s=600,
        waits_min=16 * 60,
        is_done=lambda f, s: len(f.record.tins) > 1 and all(t.mass_dry_g is not None for t in f.record.tins),
        note=lambda f, s: "",
    ),
)
