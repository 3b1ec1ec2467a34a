"""What now, at the hole and with its soil."""

from datetime import datetime

from vadum.soil.contract.flow import ask, done, fault, oven_advice, still_open
from vadum.soil.contract.outcome import Advice, Outcome
from vadum.soil.methods.pit_density.record import Record
from vadum.soil.methods.pit_density.school import PitDensitySchool
from vadum.soil.shared.water_by_tin import measured_percent

VOLUME = {
    "sand": ("sand_density_mg_m3", "mass_sand_cone_g", "mass_sand_before_g", "mass_sand_after_g"),
    "water": ("water_poured_ml",),
    "typed": ("volume_cm3",),
}
HOW = {
    "sand": ("Cone on the plate, let the sand run, close, weigh what is left.", "No shaking while it runs."),
    "water": ("Liner in without folds, pour water to the mark.", "Note the whole volume poured."),
    "typed": ("Measure the hole and type its volume.", "By your own apparatus."),
}


def advise(record: Record, school: PitDensitySchool, outcome: Outcome, now: datetime) -> Advice:
    """Soil out, volume, separation, tin, oven; or that it is done."""

    def asked(headline: str, detail: str, wants: tuple[str, ...], seconds: int, label: str) -> Advice:
        return ask(headline, detail, still_open(record, *wants), seconds, label)

    if record.mass_soil_field_g is None:
        return asked(
            "Dig the hole; every grain of it into the bag, weigh it there.",
            "Walls clean, nothing loose left in, bag closed at once.",
            ("mass_soil_field_g",),
            1200,
            "dig",
        )
    volume = VOLUME[school.volume_by]
    if any(getattr(record, f) is None for f in volume):
        headline, detail = HOW[school.volume_by]
        return asked(headline, detail, volume, 600, "volume")
    if record.mass_soil_lab_g is None:
        return asked(
            "Weigh the bag on arrival.",
            "Against the field's mass: shows what was lost.",
            ("mass_soil_lab_g",),
            60,
            "bag",
        )
    if record.mass_coarse_g is None or record.mass_fines_g is None:
        return asked(
            "Air-dry if wet, then separate at 2 mm: stones dry, fines as they are.",
            "Crush aggregates with the rubber pestle, not stones; brush the stones clean; keep the dust.",
            ("mass_coarse_g", "mass_fines_g", "stone_density_mg_m3"),
            1200,
            "separate",
        )
    if record.mass_tin_g is None or record.mass_wet_g is None:
        return asked(
            "A tin of the fines, for their water.",
            "Mixed; 50 g or more.",
            ("tin", "mass_tin_g", "mass_wet_g"),
            90,
            "tin",
        )
    tins = [("mass_dry_g", record.tin or "of the fines")] if measured_percent(record) is None else []
    drying = oven_advice(tins if record.mass_dry_g is None else [], record.in_oven_at, school.oven_min, now)
    if drying:
        return drying
    wanted = "whole soil" if school.wants == "whole soil" else "fine earth"
    return fault(outcome) or done(f"Both densities stand; the job wants the {wanted}.")
