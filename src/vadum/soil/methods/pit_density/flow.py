"""The order of work for a density by excavation."""

from vadum.soil.contract.flow import Flow, Task
from vadum.soil.contract.numerics import plain

FLOW: Flow = (
    Task(
        key="dig",
        title="Dig the hole",
        does="Plate level on a flat place; dig with spoon and chisel; all soil into one bag; weigh it there.",
        fields=("mass_soil_field_g",),
        cautions=(
            "Eye protection when chiselling; services and edges: look before you dig.",
            "An excavation is entered only when its sides are safe.",
        ),
        hands_s=1200,
        is_done=lambda f, s: f.record.mass_soil_field_g is not None,
        note=lambda f, s: (
            "" if f.record.mass_soil_field_g is None else f"{plain(f.record.mass_soil_field_g, 5)} g moist"
        ),
    ),
    Task(
        key="volume",
        title="Measure the hole",
        does="Sand through the cone, or water into a liner, or another apparatus.",
        fields=(
            "sand_density_mg_m3",
            "mass_sand_cone_g",
            "mass_sand_before_g",
            "mass_sand_after_g",
            "water_poured_ml",
            "volume_cm3",
        ),
        hands_s=600,
        is_done=lambda f, s: any(
            v is not None for v in (f.record.mass_sand_after_g, f.record.water_poured_ml, f.record.volume_cm3)
        ),
    ),
    Task(
        key="bag",
        title="The bag on arrival",
        does="Weigh it before it is opened.",
        fields=("mass_soil_lab_g", "balance", "balance_readability_g", "balance_due_on", "balance_in_date"),
        hands_s=120,
        is_done=lambda f, s: f.record.mass_soil_lab_g is not None,
    ),
    Task(
        key="separate",
        title="Separate at 2 mm",
        does="Air-dry if wet; rubber pestle for the aggregates, never for stones; weigh stones dry, fines as they are.",
        fields=("mass_coarse_g", "mass_fines_g", "stone_density_mg_m3"),
        cautions=("Dust: mask.",),
        hands_s=1200,
        waits_min=24 * 60,
        is_done=lambda f, s: f.record.mass_coarse_g is not None and f.record.mass_fines_g is not None,
        note=lambda f, s: "" if f.record.mass_coarse_g is None else f"{plain(f.record.mass_coarse_g, 5)} g stones",
    ),
    Task(
        key="water",
        title="A tin of the fines",
        does="18 to 24 h at 105 °C; lid on, cool, weigh.",
        fields=("tin", "mass_tin_g", "mass_wet_g", "in_oven_at", "mass_dry_g", "remarks"),
        cautions=("Hot tins: gloves and tongs.",),
        hands_s=300,
        waits_min=18 * 60,
        is_done=lambda f, s: f.record.mass_dry_g is not None,
        note=lambda f, s: f"tin {f.record.tin}" if f.record.tin else "",
    ),
)
