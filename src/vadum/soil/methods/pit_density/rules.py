"""The rules that judge a density by excavation."""

from collections.abc import Iterator

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Verdict
from vadum.soil.contract.rules import Judge
from vadum.soil.contract.verdicts import possible, ruling
from vadum.soil.methods.pit_density.facts import Facts
from vadum.soil.methods.pit_density.pit import coarse_volume_cm3, hole_of, soil_of
from vadum.soil.methods.pit_density.school import PitDensitySchool
from vadum.soil.shared.water_by_tin import balance_in_date, masses_possible

NOT_NEGATIVE = (
    "volume_cm3",
    "mass_sand_before_g",
    "mass_sand_after_g",
    "mass_sand_cone_g",
    "water_poured_ml",
    "mass_soil_field_g",
    "mass_soil_lab_g",
    "mass_coarse_g",
    "mass_fines_g",
)


def readings_possible(facts: Facts, school: PitDensitySchool) -> Iterator[Verdict]:
    """Masses, volumes and densities that can be, and sand that left the jar."""
    record = facts.record
    yield from masses_possible(record.mass_tin_g, record.mass_wet_g, record.mass_dry_g, "", "subsample")
    fields = type(record).model_fields
    yield from possible([(f, str(fields[f].title), getattr(record, f)) for f in NOT_NEGATIVE])
    for field, low, high in (("sand_density_mg_m3", 0.8, 2.2), ("stone_density_mg_m3", 1.0, 6.0)):
        words = str(fields[field].title)
        yield from possible([(field, words, getattr(record, field))], low=low, high=high, unit="Mg/m³")
    before, after = record.mass_sand_before_g, record.mass_sand_after_g
    if known(before) and known(after):
        used = before - after - (record.mass_sand_cone_g or 0.0)
        if used <= 0:
            yield Verdict(
                rule="sand went into the hole",
                level="stop",
                found=f"{plain(before, 6)} before, {plain(after, 6)} after: {plain(used)} g in the hole",
                limit="more than none",
                source="physics",
                remedy="Look at the digits; before and after may be in each other's place.",
                at=("mass_sand_before_g", "mass_sand_after_g"),
            )


def stones_fit_the_hole(facts: Facts, school: PitDensitySchool) -> Iterator[Verdict]:
    """Stones cannot take more room than the hole."""
    record = facts.record
    hole, stones = hole_of(record, school), coarse_volume_cm3(record, school)
    if hole and stones is not None:
        yield ruling(
            "stones fit into the hole",
            stones < hole.volume_cm3,
            f"stones {plain(stones)} cm³, hole {plain(hole.volume_cm3)} cm³",
            "stones < hole",
            "physics",
            "Recheck the stones' mass, their particle density and the volume.",
            ("mass_coarse_g",),
            otherwise="stop",
        )


def few_enough_stones(facts: Facts, school: PitDensitySchool) -> Iterator[Verdict]:
    """With many stones the small hole no longer stands for the ground."""
    record = facts.record
    hole, stones = hole_of(record, school), coarse_volume_cm3(record, school)
    if hole and stones is not None and stones < hole.volume_cm3:
        share = 100 * stones / hole.volume_cm3
        yield ruling(
            "stones few enough for the method",
            share <= school.most_coarse_volume_percent,
            f"{plain(share, 3)} % by volume",
            f"{plain(school.most_coarse_volume_percent)} %",
            "laboratory setting",
            "Dig a larger hole; say on the sheet that the method is doubtful here.",
            ("mass_coarse_g",),
            otherwise="watch",
        )


def nothing_lost_on_the_way(facts: Facts, school: PitDensitySchool) -> Iterator[Verdict]:
    """The bag weighs on arrival what it weighed in the field."""
    record = facts.record
    field, lab = record.mass_soil_field_g, record.mass_soil_lab_g
    if not (known(field) and known(lab)) or field <= 0:
        return
    lost = 100 * abs(field - lab) / field
    yield ruling(
        "nothing lost between field and laboratory",
        lost <= school.most_lost_percent + 1e-9,
        f"{plain(lost, 2)} % of the mass",
        f"{plain(school.most_lost_percent)} %",
        "laboratory setting",
        "A torn or open bag: the water content is lost, the dry density perhaps too.",
        ("mass_soil_lab_g",),
        affects=("water_content_percent", "density_mg_m3"),
    )


def solids_below_the_moist_mass(facts: Facts, school: PitDensitySchool) -> Iterator[Verdict]:
    """Dry soil cannot weigh more than it did moist."""
    record = facts.record
    soil, field = soil_of(record), record.mass_soil_field_g
    if soil and known(field):
        yield ruling(
            "dry soil weighs less than it did moist",
            soil.dry_g <= field,
            f"dry {plain(soil.dry_g, 5)} g, moist {plain(field, 5)} g",
            "dry <= moist",
            "physics",
            "A mass is wrong, or soil of another hole came in.",
            ("mass_fines_g", "mass_soil_field_g"),
            otherwise="stop",
        )


def hole_large_enough(facts: Facts, school: PitDensitySchool) -> Iterator[Verdict]:
    """The hole is large against its error."""
    record = facts.record
    hole = hole_of(record, school)
    if hole:
        yield ruling(
            "hole large enough",
            hole.volume_cm3 >= school.least_volume_cm3,
            f"{plain(hole.volume_cm3)} cm³",
            f"{plain(school.least_volume_cm3)} cm³ or more",
            school.standard,
            "Dig the next one larger: the volume's error counts double in a small hole.",
            ("volume_cm3",),
            otherwise="watch",
        )


def density_as_ground_has_it(facts: Facts, school: PitDensitySchool) -> Iterator[Verdict]:
    """A dry density that ground can have."""
    record = facts.record
    hole, soil = hole_of(record, school), soil_of(record)
    if hole and soil:
        low, high = school.usual_mg_m3
        dry = soil.dry_g / hole.volume_cm3
        yield ruling(
            "dry density as ground has it",
            low <= dry <= high,
            f"{plain(dry)} Mg/m³",
            f"{plain(low)} to {plain(high)} Mg/m³",
            "laboratory setting",
            "Recheck the volume and the masses.",
            ("mass_fines_g",),
        )


RULES: tuple[Judge, ...] = (
    readings_possible,
    stones_fit_the_hole,
    few_enough_stones,
    nothing_lost_on_the_way,
    solids_below_the_moist_mass,
    hole_large_enough,
    density_as_ground_has_it,
    balance_in_date,
)
