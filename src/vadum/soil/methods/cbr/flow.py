"""The order of work for a bearing ratio in the mould."""

from datetime import datetime, timedelta

from vadum.soil.contract.called import Called
from vadum.soil.contract.flow import Flow
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.task import BALANCE, Calls, Task
from vadum.soil.contract.waits import Oven, Wait
from vadum.soil.methods.cbr.facts import Facts
from vadum.soil.methods.cbr.school import MouldSchool
from vadum.soil.methods.cbr.specimen import water_wanted_g
from vadum.soil.shared.bearing.calls import called_of, gauge_words, read_rows, seating_words
from vadum.soil.shared.bearing.record import APPARATUS, CalledRow, End
from vadum.soil.shared.specimen import SPECIMEN

ROW = tuple(CalledRow.model_fields)
TOGETHER = timedelta(hours=2)  # tins that went in within it come out together


def _end(f: Facts, name: str) -> End:
    """The push at an end; one that is not begun is empty."""
    ends = {e.key: e for e in f.record.ends()}
    top = ends["top"]
    return ends.get(name) or End(
        "bottom", "bottom end", (), "bottom", "bottom_", None, None, None, None, top.force_field, None
    )


def _grams(f: Facts) -> float:
    return water_wanted_g(f.record) or 0.0


def _asks_water(f: Facts, s: MouldSchool) -> str:
    return "Let it dry to the optimum, in the open, stirred." if _grams(f) < 0 else "Add water to the optimum and mix."


def _how_water(f: Facts, s: MouldSchool) -> str:
    enter = "Enter the loss with a minus." if _grams(f) < 0 else "Enter what went in."
    return f"To {plain(f.record.optimum_water_percent or 0, 3)} %. Cover; let it stand. {enter}"


def _amount_water(f: Facts, s: MouldSchool) -> tuple[str, str]:
    grams = water_wanted_g(f.record)
    if grams is None:
        return "", ""
    lose = grams < 0
    return f"{abs(grams):.0f} {'g' if lose else 'mL'}", "of water to lose" if lose else "to add now"


def _tin(row: int, key: str, asks: str, how: str, title: str, label: str, both: bool = False) -> Task:
    return Task(
        key=key,
        title=title,
        does=how,
        in_column=False,
        needs=(f"tins[{row}].mass_tin_g", f"tins[{row}].mass_wet_g"),
        also=(f"tins[{row}].tin",),
        asks=asks,
        how=how,
        label=label,
        hands_s=150,
        applies=lambda s: s.both_ends or not both,
    )


def _drying(f: Facts) -> list[tuple[str, str]]:
    """The tins that went in together with the first that is not dry."""
    open_ = [
        (f"tins[{i}].mass_dry_g", t.tin or str(i + 1), t.weighed_wet_at)
        for i, t in enumerate(f.record.tins)
        if t.mass_wet_g is not None and t.mass_dry_g is None
    ]
    first = open_[0][2] if open_ else None
    return [(path, name) for path, name, at in open_ if first is None or at is None or abs(at - first) < TOGETHER]


def _since(f: Facts) -> datetime | None:
    return next((t.weighed_wet_at for t in f.record.tins if t.mass_wet_g is not None and t.mass_dry_g is None), None)


def _next_swell(f: Facts, s: MouldSchool) -> tuple[str, ...]:
    many = len(f.record.swell)
    return ("soak_ended_at",) if many >= s.soak_days else (f"swell[{many}].gauge_mm",)


def _swell_at(f: Facts, s: MouldSchool) -> tuple[datetime, datetime] | None:
    began, read = f.record.soak_started_at, f.record.swell
    if began is None:
        return None
    last = read[-1].read_at if read and read[-1].read_at else began
    return last, began + timedelta(days=min(len(read) + 1, s.soak_days))


def _asks_swell(f: Facts, s: MouldSchool) -> str:
    mould = f" of mould {f.record.mould}" if f.record.mould else ""
    many = len(f.record.swell)
    if many >= s.soak_days:
        return f"Lift the specimen{mould} out, drain 15 min."
    return f"Read the swell gauge{mould}, day {many + 1}."


def _how_swell(f: Facts, s: MouldSchool) -> str:
    return "Discs on while it drains." if len(f.record.swell) >= s.soak_days else "Do not touch the tripod."


def _waiting_swell(f: Facts, s: MouldSchool) -> str:
    asks = _asks_swell(f, s)
    return f"Soaking; next at {{}}: {asks[0].lower()}{asks[1:]}"


def _apparatus(f: Facts, s: MouldSchool) -> tuple[str, ...]:
    ring = () if f.record.forces_known() else ("proving_ring", "ring_factor_n_div", "ring_most_div", "force_by")
    return (*ring, "gauge", "plunger", "plunger_diameter_mm", "expected_percent")


def _seat(name: str, asks: str, applies: bool) -> Task:
    def needs(f: Facts, s: MouldSchool) -> tuple[str, ...]:
        by_ring = _end(f, name).force_field == "ring_div"
        return (f"{name}_seating_n", f"{name}_seated_div") if by_ring else (f"{name}_seating_n",)

    return Task(
        key=f"seat_{name}",
        title=f"Seat the {name} end",
        does="",
        in_column=False,
        needs=needs,
        asks=asks,
        how="Then both gauges to zero; a ring that keeps its seating reading is entered as it stands.",
        label=f"seat, {name} end",
        amount=lambda f, s: seating_words(f.record, s),
        hands_s=120,
        applies=lambda s: applies or s.both_ends,
    )


def _push(name: str, title: str, does: str, applies: bool) -> Calls:
    def of(f: Facts, s: MouldSchool) -> Called:
        return called_of(f.record, _end(f, name), s)

    def note(f: Facts, s: MouldSchool) -> str:
        many = read_rows(getattr(f.record, name))
        return f"{many} readings" if many else ""

    return Calls(
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
        of=of,
        gauge=lambda f, s: gauge_words(f.record),
        begin=lambda f, s: f"Both gauges at zero: read {gauge_words(f.record)}, start.",
        interval_s=lambda s, row: s.interval_s(row) if row < len(s.called_mm) else 0.0,
        cautions=("The frame does not wait: fingers clear of the plunger; know where its stop is.",),
        hands_s=720,
        holds=("frame", "proving ring"),
        alone=False,
        note=note,
        applies=lambda s: applies or s.both_ends,
    )


FLOW: Flow = (
    Task(
        key="mould",
        title="Mould and effort",
        does="Mould and base plate weighed without the collar; its number brings mass, volume and height.",
        fields=("mould", "mould_mass_g", "mould_volume_cm3", "specimen_height_mm", *BALANCE),
        needs=("mould_mass_g", "mould_volume_cm3", "specimen_height_mm"),
        also=("mould",),
        asks="Take a mould and weigh it with its base plate, without the collar.",
        how=lambda f, s: f"Its number brings mass, volume and height. {plain(s.mould_cm3)} cm³ here.",
        cautions=("Heavy moulds: lift with two hands, steel-toed boots.",),
        hands_s=180,
        holds=("mould", "balance"),
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
        needs=("mass_portion_g", "portion_water_percent", "optimum_water_percent"),
        also=("maximum_dry_density_mg_m3", "target_percent", "oversize_percent"),
        asks="Screen the stones out, weigh the soil for the mould, note its water content.",
        how="With the optimum of its compaction test the water to add is told in grams.",
        cautions=("Dust: mask.",),
        hands_s=900,
        note=lambda f, s: f"{plain(f.record.optimum_water_percent)} % wanted" if f.record.optimum_water_percent else "",
    ),
    Task(
        key="water",
        title="Water",
        does="",
        in_column=False,
        needs=("water_added_ml",),
        is_done=lambda f, s: f.record.water_added_ml is not None or f.record.mass_with_soil_g is not None,
        asks=_asks_water,
        how=_how_water,
        amount=_amount_water,
        hands_s=1200,
    ),
    Task(
        key="compact",
        title="Compact, strike, weigh",
        does="Layers and blows of the school; collar off, level, weigh; a tin of the trimmings.",
        fields=(
            "mass_with_soil_g",
            "tins[].tin",
            "tins[].mass_tin_g",
            "tins[].mass_tin_register_g",
            "tins[].mass_wet_g",
            "tins[].weighed_wet_at",
        ),
        needs=("mass_with_soil_g",),
        asks="Compact, collar off, strike level, weigh.",
        how=lambda f, s: f"{s.effort}. Layers even; holes filled with fines.",
        cautions=("Rammer: fingers clear of the sleeve; automatic rammer guarded; hearing protection.",),
        hands_s=1500,
        holds=("rammer", "balance"),
        note=lambda f, s: f"{f.moist_mg_m3:.2f} Mg/m³ wet" if f.moist_mg_m3 else "",
    ),
    _tin(0, "tin", "A tin of the trimmings: water content as compacted.", "100 g or more.", "A tin", "tin"),
    Oven(
        key="tins",
        title="Tins",
        does="Dry and weigh them.",
        in_column=False,
        runs_beside=True,
        tins=_drying,
        since=_since,
        in_oven="",
    ),
    Task(
        key="soak",
        title="Discs, soaking",
        does="Surcharge discs on; soaked: tank, swell gauge at its mark.",
        fields=("condition", "surcharge", "surcharge_kg", "oversize_replaced", "swell_zero_mm", "soak_started_at"),
        needs=("condition",),
        asks="Soaked or unsoaked?",
        how="Soaked stands for a road in its worst season.",
        label="condition",
        cautions=("A soaked mould is heavier and slippery: two hands, dry the floor.",),
        hands_s=10,
        waits_min=lambda s: 60 * s.soak_h,
        holds=("mould", "tank"),
        note=lambda f, s: f.record.condition or "",
    ),
    Task(
        key="discs",
        title="Discs",
        does="",
        in_column=False,
        needs=("surcharge_kg",),
        also=("surcharge",),
        asks="Put the surcharge discs on.",
        how="As the construction above will weigh; 2 kg each.",
        hands_s=60,
    ),
    Task(
        key="tank",
        title="Into the tank",
        does="",
        in_column=False,
        needs=("soak_started_at",),
        also=("swell_zero_mm",),
        is_done=lambda f, s: f.record.condition == "unsoaked" or f.record.soak_started_at is not None,
        asks="Perforated plate, discs, swell gauge at its mark; into the tank.",
        how="Water from below and above. Read the gauge before the water rises, then record the time.",
        label="into the tank",
        hands_s=300,
    ),
    Wait(
        key="swell",
        title="Swell",
        does="The gauge read each day for four days; then out, drained 15 min.",
        fields=("swell[].gauge_mm", "swell[].read_at", "soak_ended_at"),
        needs=_next_swell,
        is_done=lambda f, s: f.record.condition == "unsoaked" or f.record.soak_ended_at is not None,
        ready=_swell_at,
        asks=_asks_swell,
        how=_how_swell,
        waiting=_waiting_swell,
        label="swell",
        cautions=("A soaked mould is heavier and slippery: two hands, dry the floor.",),
        hands_s=300,
        note=lambda f, s: f"swell {plain(f.swells[-1][1], 2)} %" if f.swells else "",
    ),
    Task(
        key="frame",
        title="Ring, gauge, plunger",
        does="Their numbers bring their calibration; the expected ratio gives the seating load.",
        fields=(*APPARATUS, "expected_percent"),
        needs=_apparatus,
        is_done=lambda f, s: f.record.forces_known() and f.record.expected_percent is not None,
        asks="Ring, gauge and plunger; what ratio do you expect?",
        how="Their numbers bring the calibration that holds today.",
        label="ring and gauge",
        hands_s=120,
        holds=("frame", "proving ring"),
        note=lambda f, s: f"ring {f.record.proving_ring}" if f.record.proving_ring else "",
    ),
    _seat("top", "Discs on, plunger down: seat the top end.", True),
    _push("top", "Top end", "Seat, zero both gauges, push at the school's rate, read each call.", True),
    _seat("bottom", "Turn the mould over, base plate off: seat the bottom end.", False),
    _push("bottom", "Turn over, bottom end", "Base plate off, seat, zero, push and read again.", False),
    _tin(1, "under_top", "A tin from under the plunger, top end.", "30 mm deep; extrude if needed.", "Tin", "tin, top"),
    _tin(
        2,
        "under_bottom",
        "A tin from under the plunger, bottom end.",
        "30 mm deep; extrude if needed.",
        "Tin",
        "tin, bottom",
        both=True,
    ),
    Oven(
        key="dry",
        title="Water content after",
        does="A tin from under the plunger of each tested end; dry tins weighed.",
        fields=("tins[].mass_dry_g", "timed_mm_min", "repeated", "stone_under_mm", "remarks"),
        tins=_drying,
        since=_since,
        in_oven="",
        is_done=lambda f, s: len(f.record.tins) > 1 and all(t.mass_dry_g is not None for t in f.record.tins),
        cautions=("Hot tins: gloves and tongs.",),
        hands_s=600,
        holds=("oven",),
    ),
    SPECIMEN,
)

FINISH = "Both ends and the tins are in."
