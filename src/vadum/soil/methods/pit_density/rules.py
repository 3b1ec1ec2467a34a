"""The rules that judge a density by excavation."""

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.rules import LABORATORY, PHYSICS, Judge, Rule, Seen, at_least, at_most, said, within
from vadum.soil.methods.pit_density.facts import Facts
from vadum.soil.methods.pit_density.school import PitDensitySchool
from vadum.soil.shared.water_by_tin import balance_in_date, tin_possible, tin_registered


def _sand(f: Facts, s: PitDensitySchool) -> Seen | None:
    before, after = f.record.mass_sand_before_g, f.record.mass_sand_after_g
    if not (known(before) and known(after)):
        return None
    used = before - after - (f.record.mass_sand_cone_g or 0.0)
    words = f"{plain(before, 6)} before, {plain(after, 6)} after: {plain(used)} g in the hole"
    return None if used > 0 else said(False, words, "more than none")


def _stones(f: Facts, s: PitDensitySchool) -> Seen | None:
    if f.hole is None or f.stones_cm3 is None:
        return None
    words = f"stones {plain(f.stones_cm3)} cm³, hole {plain(f.hole.volume_cm3)} cm³"
    return said(f.stones_cm3 < f.hole.volume_cm3, words, "stones < hole")


def _solids(f: Facts, s: PitDensitySchool) -> Seen | None:
    moist = f.record.mass_soil_field_g
    if f.soil is None or not known(moist):
        return None
    words = f"dry {plain(f.soil.dry_g, 5)} g, moist {plain(moist, 5)} g"
    return said(f.soil.dry_g <= moist, words, "dry <= moist")


RULES: tuple[Judge, ...] = (
    tin_registered("tin"),
    tin_possible("subsample"),
    Rule(
        "sand went into the hole",
        _sand,
        at=("mass_sand_before_g", "mass_sand_after_g"),
        source=PHYSICS,
        level="stop",
        do="Look at the digits; before and after may be in each other's place.",
    ),
    Rule(
        "stones fit into the hole",
        _stones,
        at=("mass_coarse_g",),
        source=PHYSICS,
        level="stop",
        do="Recheck the stones' mass, their particle density and the volume.",
    ),
    Rule(
        # With many stones a small hole no longer stands for the ground around it.
        "stones few enough for the method",
        lambda f, s: at_most(f.stones_percent, s.most_coarse_volume_percent, "%", "{} by volume", digits=3),
        at=("mass_coarse_g",),
        source=LABORATORY,
        level="watch",
        do="Dig a larger hole; say on the sheet that the method is doubtful here.",
    ),
    Rule(
        "nothing lost between field and laboratory",
        lambda f, s: at_most(f.lost_percent, s.most_lost_percent, "%", "{} of the mass", digits=2),
        at=("mass_soil_lab_g",),
        source=LABORATORY,
        do="A torn or open bag: the water content is lost, the dry density perhaps too.",
        affects=("water_content_percent", "density_mg_m3"),
    ),
    Rule(
        "dry soil weighs less than it did moist",
        _solids,
        at=("mass_fines_g", "mass_soil_field_g"),
        source=PHYSICS,
        level="stop",
        do="A mass is wrong, or soil of another hole came in.",
    ),
    Rule(
        "hole large enough",
        lambda f, s: at_least(f.hole.volume_cm3 if f.hole else None, s.least_volume_cm3, "cm³"),
        at=("volume_cm3",),
        level="watch",
        do="Dig the next one larger: the volume's error counts double in a small hole.",
    ),
    Rule(
        "dry density as ground has it",
        lambda f, s: within(f.dry_mg_m3, s.usual_mg_m3, "Mg/m³"),
        at=("mass_fines_g",),
        source=LABORATORY,
        do="Recheck the volume and the masses.",
    ),
    balance_in_date,
)
