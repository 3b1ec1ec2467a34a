"""The order of work for a density by excavation."""

from vadum.soil.contract.method import Step
from vadum.soil.contract.numerics import plain

STEPS: tuple[Step, ...] = (
    Step(
        key="dig",
        title="Dig the hole",
        does="Plate level on a flat place; dig with spoon and chisel; all soil into one bag; weigh it there.",
        fields=("mass_soil_field_g",),
        cautions=(
            "Eye protection when chiselling; services and edges: look before you dig.",
            "An excavation is entered only when its sides are safe.",
        ),
        hands_min=20,
        done=lambda r: r.mass_soil_field_g is not None,
        note=lambda r: "" if r.mass_soil_field_g is None else f"{plain(r.mass_soil_field_g, 5)} g moist",
    ),
    Step(
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
        hands_min=10,
        done=lambda r: any(v is not None for v in (r.mass_sand_after_g, r.water_poured_ml, r.volume_cm3)),
    ),
    Step(
        key="bag",
        title="The bag on arrival",
        does="Weigh it before it is opened.",
        fields=("mass_soil_lab_g", "balance", "balance_readability_g", "balance_due_on", "balance_in_date"),
        hands_min=2,
        done=lambda r: r.mass_soil_lab_g is not None,
    ),
    Step(
        key="separate",
        title="Separate at 2 mm",
        does="Air-dry if wet; rubber pestle for the aggregates, never for stones; weigh stones dry, fines as they are.",
        fields=("mass_coarse_g", "mass_fines_g", "stone_density_mg_m3"),
        cautions=("Dust: mask.",),
        hands_min=20,
        waits_min=24 * 60,
        done=lambda r: r.mass_coarse_g is not None and r.mass_fines_g is not None,
        note=lambda r: "" if r.mass_coarse_g is None else f"{plain(r.mass_coarse_g, 5)} g stones",
    ),
    Step(
        key="water",
        title="A tin of the fines",
        does="18 to 24 h at 105 °C; lid on, cool, weigh.",
        fields=("tin", "mass_tin_g", "mass_wet_g", "in_oven_at", "mass_dry_g", "remarks"),
        cautions=("Hot tins: gloves and tongs.",),
        hands_min=5,
        waits_min=18 * 60,
        done=lambda r: r.mass_dry_g is not None,
        note=lambda r: f"tin {r.tin}" if r.tin else "",
    ),
)
