"""The rules that judge a density by ring."""

from collections.abc import Iterator

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import mean, plain
from vadum.soil.contract.outcome import Verdict
from vadum.soil.contract.times import minutes_between, span
from vadum.soil.contract.verdicts import possible, ruling
from vadum.soil.methods.ring_density.core import core_of, headspaces_mm
from vadum.soil.methods.ring_density.record import Record
from vadum.soil.methods.ring_density.schools import RingDensitySchool
from vadum.soil.shared.phases import MOST_SATURATION_PERCENT, dry_density_mg_m3, saturation_percent
from vadum.soil.shared.water_by_tin import balance_in_date, masses_possible, measured_percent


def readings_possible(record: Record, school: RingDensitySchool) -> Iterator[Verdict]:
    """Sizes and masses that can be."""
    yield from masses_possible(record.mass_tin_g, record.mass_wet_g, record.mass_dry_g, "", "subsample")
    fields = type(record).model_fields
    yield from possible(
        [(f, str(fields[f].title), getattr(record, f)) for f in ("ring_diameter_mm", "ring_height_mm")],
        strictly=True,
        unit="mm",
    )
    yield from possible([(f, str(fields[f].title), getattr(record, f)) for f in ("mass_container_g",)], unit="g")
    yield from possible(
        [("particle_density_mg_m3", "particle density", record.particle_density_mg_m3)],
        low=1.0,
        high=6.0,
        unit="Mg/m³",
        affects=("porosity_percent", "void_ratio", "saturation_percent", "air_percent"),
    )
    for i, h in enumerate(record.headspaces):
        yield from possible(
            [(f"headspaces[{i}].headspace_mm", f"headspace {i + 1}", h.headspace_mm)],
            high=record.ring_height_mm if known(record.ring_height_mm) else 1000,
            unit="mm",
        )
    full, empty = record.mass_with_soil_g, record.mass_container_g
    if known(full) and known(empty) and full <= empty:
        yield Verdict(
            rule="the bag with soil weighs more than the bag",
            level="stop",
            found=f"{plain(full, 6)} ≤ {plain(empty, 6)} g",
            limit="bag < bag + soil",
            source="physics",
            remedy="Look at the digits; strike the wrong one.",
            at=("mass_with_soil_g", "mass_container_g"),
        )
    if full is not None and not known(full):
        yield from possible([("mass_with_soil_g", "bag + moist soil", full)], unit="g")


def ring_driven_straight(record: Record, school: RingDensitySchool) -> Iterator[Verdict]:
    """Headspaces that differ tell of a ring driven askew."""
    for end in ("top", "bottom"):
        read = headspaces_mm(record, end)
        if len(read) > 1:
            apart = max(read) - min(read)
            yield ruling(
                "ring driven straight",
                apart <= school.most_askew_mm + 1e-9,
                f"headspaces at the {end} {plain(apart, 3)} mm apart",
                f"{plain(school.most_askew_mm)} mm",
                school.standard,
                "Drive another ring, with the block level on it.",
                ("headspaces",),
            )


def core_not_shortened(record: Record, school: RingDensitySchool) -> Iterator[Verdict]:
    """Soil lower inside the ring than outside was pressed together."""
    inside = headspaces_mm(record, "top")
    if not inside or not known(record.outside_headspace_mm):
        return
    shortened = mean(inside) - record.outside_headspace_mm
    yield ruling(
        "core not shortened",
        shortened <= school.most_shortened_mm + 1e-9,
        f"{plain(shortened, 3)} mm lower inside than outside",
        f"{plain(school.most_shortened_mm)} mm",
        "laboratory setting",
        "The core was pressed: take another ring beside it, driven with lighter blows.",
        ("outside_headspace_mm",),
    )


def subsample_large_enough(record: Record, school: RingDensitySchool) -> Iterator[Verdict]:
    """The tin stands for the whole ring."""
    wet, tin = record.mass_wet_g, record.mass_tin_g
    full, empty = record.mass_with_soil_g, record.mass_container_g
    if not (known(wet) and known(tin) and known(full) and known(empty)) or full <= empty or wet <= tin:
        return
    share = 100 * (wet - tin) / (full - empty)
    held = share >= school.least_subsample_percent and wet - tin >= school.least_subsample_g
    yield ruling(
        "subsample large enough",
        held,
        f"{plain(wet - tin, 3)} g, {plain(share, 2)} % of the soil",
        f"{plain(school.least_subsample_percent)} % and {plain(school.least_subsample_g)} g",
        "laboratory setting",
        "Dry a larger part, from all of the ring.",
        ("mass_wet_g",),
        otherwise="watch",
    )


def _dry(record: Record, school: RingDensitySchool) -> tuple[float, float] | None:
    """Dry density, Mg/m3, and water content, percent."""
    core, water = core_of(record, school), measured_percent(record)
    density = core.density(record) if core else None
    return None if density is None or water is None else (dry_density_mg_m3(density, water), water)


def density_as_ground_has_it(record: Record, school: RingDensitySchool) -> Iterator[Verdict]:
    """A dry density that ground can have."""
    dry = _dry(record, school)
    if dry:
        low, high = school.usual_mg_m3
        yield ruling(
            "dry density as ground has it",
            low <= dry[0] <= high,
            f"{plain(dry[0])} Mg/m³",
            f"{plain(low)} to {plain(high)} Mg/m³",
            "laboratory setting",
            "Recheck the ring's size, the headspace and the masses.",
            ("mass_with_soil_g",),
        )


def saturation_below_full(record: Record, school: RingDensitySchool) -> Iterator[Verdict]:
    """More water than pores is impossible: a mass, the volume or the particle density is wrong."""
    dry, particle = _dry(record, school), record.particle_density_mg_m3
    if not dry or not known(particle) or particle <= dry[0]:
        return
    saturation = saturation_percent(dry[1], dry[0], particle)
    assumed = record.particle_density_from != "measured"
    yield ruling(
        "saturation at most 100 %",
        saturation <= MOST_SATURATION_PERCENT,
        f"{plain(saturation, 4)} %",
        "100 %",
        "physics",
        ("The particle density is assumed: measure it. " if assumed else "") + "Recheck volume, masses and tin.",
        ("particle_density_mg_m3",),
        affects=("saturation_percent", "air_percent", "dry_density_mg_m3", "void_ratio", "porosity_percent"),
    )


def weighed_fresh(record: Record, school: RingDensitySchool) -> Iterator[Verdict]:
    """Weighed within a day of sampling, or sealed."""
    if record.sampled_at is None or record.weighed_at is None:
        return
    hours = minutes_between(record.sampled_at, record.weighed_at) / 60
    sealed = record.sealed == "yes"
    yield ruling(
        "weighed soon after sampling, or sealed",
        hours <= school.most_hours_since_sampling or sealed,
        f"{span(hours * 60)} after sampling" + (", sealed" if sealed else ""),
        f"{plain(school.most_hours_since_sampling)} h unless sealed",
        "laboratory setting",
        "Water may be lost: say so on the sheet.",
        ("sampled_at",),
        otherwise="watch",
    )


ALL = (
    readings_possible,
    ring_driven_straight,
    core_not_shortened,
    subsample_large_enough,
    density_as_ground_has_it,
    saturation_below_full,
    weighed_fresh,
    balance_in_date,
)


def checks(record: Record, school: RingDensitySchool) -> Iterator[Verdict]:
    """Every rule in turn."""
    for check in ALL:
        yield from check(record, school)
