"""A hole in virtual ground of known density, stones and water."""

import random
from datetime import UTC, datetime, timedelta

from vadum.soil.contract.method import Trial
from vadum.soil.methods.pit_density.record import Record
from vadum.soil.methods.pit_density.school import PitDensitySchool

MISTAKES = {
    "torn": "soil lost from a torn bag on the way",
    "swapped": "sand before and after typed in each other's place",
    "boulder": "a hole full of stones",
}
START = datetime(2026, 1, 5, 9, 0, tzinfo=UTC)


def virtual(seed: int, school: PitDensitySchool, mistake: str | None = None) -> Trial:
    """A full record of a hole whose true densities and stones are returned beside it."""
    dice = random.Random(seed)
    volume = dice.uniform(2200, 2800)
    stones_share = dice.uniform(0.45, 0.5) if mistake == "boulder" else dice.uniform(0.05, 0.2)
    stone, fine, water = school.stone_density_mg_m3, dice.uniform(1.3, 1.6), dice.uniform(8, 20)
    coarse = volume * stones_share * stone
    fines = volume * (1 - stones_share) * fine
    moist = (coarse + fines) * (1 + water / 100)
    # Stones are weighed where the school separates, or where somebody meets a hole full of them.
    separated = school.dry_by == "separation" or mistake == "boulder"
    air_dry = dice.uniform(2, 4) if separated else water
    tin, part = round(dice.uniform(18, 25), 2), 60.0 if separated else 560.0
    jar, cone, sand = 9000.0, 1450.0, 1.42
    before, after = jar, round(jar - cone - volume * sand + dice.gauss(0, 2))
    if mistake == "swapped":
        before, after = after, before
    by_sand = school.volume_by == "sand"
    record = Record(
        sand_density_mg_m3=sand if by_sand else None,
        mass_sand_before_g=before if by_sand else None,
        mass_sand_after_g=after if by_sand else None,
        mass_sand_cone_g=cone if by_sand else None,
        water_poured_ml=round(volume) if school.volume_by == "water" else None,
        volume_cm3=round(volume) if school.volume_by == "typed" else None,
        balloon_before_cm3=140.0 if school.volume_by == "balloon" else None,
        balloon_after_cm3=round(140 + volume) if school.volume_by == "balloon" else None,
        mass_soil_field_g=round(moist),
        mass_soil_lab_g=round(moist * (0.97 if mistake == "torn" else 0.998)),
        largest_particle_mm=25.0,
        mass_coarse_g=round(coarse) if separated else None,
        mass_fines_g=round(fines * (1 + air_dry / 100)) if separated else None,
        tin=str(dice.randint(1, 99)),
        mass_tin_g=tin,
        mass_wet_g=round(tin + part + dice.gauss(0, 0.004), 2),
        mass_dry_g=round(tin + part / (1 + air_dry / 100) + dice.gauss(0, 0.004), 2),
        in_oven_at=START + timedelta(hours=30),
    )
    truth = {
        "dry_density_mg_m3": (coarse + fines) / volume,
        "fine_earth_density_mg_m3": fine,
        "coarse_volume_percent": 100 * stones_share,
        "water_content_percent": water,
    }
    tolerance = {
        "dry_density_mg_m3": 0.02,
        "fine_earth_density_mg_m3": 0.02,
        "coarse_volume_percent": 0.5,
        "water_content_percent": 0.2,
    }
    if not separated:
        for key in ("fine_earth_density_mg_m3", "coarse_volume_percent"):
            truth.pop(key)
            tolerance.pop(key)
    return Trial(record, truth, tolerance, mistake)
