"""The rules that judge a density by excavation."""

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.rules import LABORATORY, PHYSICS, Judge, Rule, Seen, at_least, at_most, said, within
from vadum.soil.methods.pit_density.facts import Facts
from vadum.soil.methods.pit_density.school import PitDensitySchool
from vadum.soil.shared.phases import saturation_at_most_full
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


def _size(f: Facts, s: PitDensitySchool) -> tuple[float, float] | None:
    """Least hole in cm³ and least tin in g for the largest grain; None where the school or the grain is silent."""
    grain = f.record.largest_particle_mm
    if not known(grain) or not s.sizes:
        return None
    _, hole, tin = next((row for row in s.sizes if grain <= row[0]), s.sizes[-1])
    return hole, tin


def _hole(f: Facts, s: PitDensitySchool) -> Seen | None:
    least = _size(f, s)
    return at_least(f.hole.volume_cm3 if f.hole else None, least[0] if least else s.least_volume_cm3, "cm³")


def _tin(f: Facts, s: PitDensitySchool) -> Seen | None:
    least, wet, tin = _size(f, s), f.record.mass_wet_g, f.record.mass_tin_g
    if least is None or not (known(wet) and known(tin)) or f.record.mass_fines_g is not None:
        return None
    return at_least(wet - tin, least[1], "g", "{} in the tin")


def _fresh_sand(f: Facts, s: PitDensitySchool) -> Seen | None:
    found, tested = f.record.sand_calibrated_on, f.record.tested_on
    if s.volume_by != "sand" or found is None or tested is None:
        return None
    days = (tested - found).days
    return said(0 <= days <= s.most_sand_days, f"found {days} days before", f"{s.most_sand_days} days")


def _same_sand(f: Facts, s: PitDensitySchool) -> Seen | None:
    now, then = f.record.sand_state, f.record.sand_state_then
    return None if now is None or then is None else said(now == then, f"{now}; then {then}", "as it was then")


def _required(f: Facts, s: PitDensitySchool) -> Seen | None:
    dry, reference, wanted = f.dry_mg_m3, f.reference_mg_m3, f.record.required_percent
    if dry is None or reference is None or not known(wanted):
        return None
    return at_least(100 * dry / reference, wanted, "%", "{} of the reference", digits=4, limit_words="{} by the job")


def _gauge(f: Facts, s: PitDensitySchool) -> Seen | None:
    gauge, dry = f.record.gauge_density_mg_m3, f.dry_mg_m3
    if not known(gauge) or dry is None:
        return None
    return at_most(100 * abs(gauge / dry - 1), MOST_GAUGE_PERCENT, "%", "gauge {} from the hole", digits=2)


MOST_GAUGE_PERCENT = 5.0  # laboratory setting

RULES: tuple[Judge, ...] = (
    Rule(
        "water specimen large enough",
        _tin,
        at=("mass_wet_g",),
        level="watch",
        do="Take a larger tin of soil, with its stones.",
    ),
    Rule(
        "sand's density found lately",
        _fresh_sand,
        at=("sand_calibrated_on",),
        source=LABORATORY,
        level="watch",
        do="Find the poured density again: damp and dust change it.",
    ),
    Rule(
        "sand as when its density was found",
        _same_sand,
        at=("sand_state",),
        source=LABORATORY,
        level="watch",
        do="Sand that was used before holds dust: find its density again in the state it is used in.",
    ),
    saturation_at_most_full,
    Rule(
        "compacted as the job requires",
        _required,
        at=("required_percent",),
        source="the job",
        level="watch",
        do="Tell the engineer before the next layer is placed.",
    ),
    Rule(
        "gauge beside agrees",
        _gauge,
        at=("gauge_density_mg_m3",),
        source=LABORATORY,
        level="watch",
        do="Say which is believed: stones and moisture mislead a gauge, loose sand a hole.",
    ),
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
        _hole,
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
