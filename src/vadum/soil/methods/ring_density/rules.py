"""The rules that judge a density by ring."""

from collections.abc import Iterator

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.rules import LABORATORY, PHYSICS, Judge, Rule, Seen, at_least, at_most, said, within
from vadum.soil.contract.times import minutes_between, span
from vadum.soil.methods.ring_density.facts import Facts
from vadum.soil.methods.ring_density.school import RingDensitySchool
from vadum.soil.shared.phases import saturation_at_most_full
from vadum.soil.shared.water_by_tin import balance_in_date, full_above_empty, tin_possible, tin_registered


def _within_ring(f: Facts, s: RingDensitySchool) -> Iterator[Seen]:
    height = f.record.ring_height_mm
    for i, h in enumerate(f.record.headspaces):
        if known(height) and known(h.headspace_mm) and h.headspace_mm > height:
            at = (f"headspaces[{i}].headspace_mm",)
            yield Seen(False, f"headspace {i + 1} reads {plain(h.headspace_mm)} mm", f"at most {plain(height)} mm", at)


def _apart(f: Facts, s: RingDensitySchool) -> Iterator[Seen]:
    for end, read in (("top", f.top_mm), ("bottom", f.bottom_mm)):
        if len(read) > 1:
            words = f"headspaces at the {end} {{}} apart"
            seen = at_most(max(read) - min(read), s.most_askew_mm, "mm", words, digits=3)
            if seen:
                yield seen


def _subsample(f: Facts, s: RingDensitySchool) -> Seen | None:
    part = f.subsample_g
    full, empty = f.record.mass_with_soil_g, f.record.mass_container_g
    if part is None or not (known(full) and known(empty)) or full <= empty:
        return None
    share = 100 * part / (full - empty)
    held = share >= s.least_subsample_percent and part >= s.least_subsample_g
    limit = f"{plain(s.least_subsample_percent)} % and {plain(s.least_subsample_g)} g"
    return said(held, f"{plain(part, 3)} g, {plain(share, 2)} % of the soil", limit)


def _measured(f: Facts, s: RingDensitySchool) -> Seen | None:
    if f.particle_mg_m3 is None:
        return None
    source = f.record.particle_density_from or "not said from where"
    return said(source == "measured", f"{plain(f.particle_mg_m3)} Mg/m³, {source}", "measured on this soil")


def _fresh(f: Facts, s: RingDensitySchool) -> Seen | None:
    r = f.record
    if r.sampled_at is None or r.weighed_at is None:
        return None
    hours, sealed = minutes_between(r.sampled_at, r.weighed_at) / 60, r.sealed == "yes"
    found = f"{span(hours * 60)} after sampling" + (", sealed" if sealed else "")
    limit = f"{plain(s.most_hours_since_sampling)} h unless sealed"
    return said(hours <= s.most_hours_since_sampling or sealed, found, limit)


RULES: tuple[Judge, ...] = (
    tin_registered("tin"),
    tin_possible("subsample"),
    Rule(
        "a headspace lies within its ring",
        _within_ring,
        source=PHYSICS,
        level="stop",
        do="Look again and strike this reading.",
    ),
    full_above_empty("the bag with soil weighs more than the bag", "mass_with_soil_g", "mass_container_g", "bag"),
    Rule(
        "ring driven straight",
        _apart,
        at=("headspaces",),
        do="Drive another ring, with the block level on it.",
    ),
    Rule(
        "core not shortened",
        lambda f, s: at_most(f.shortened_mm, s.most_shortened_mm, "mm", "{} lower inside than outside", digits=3),
        at=("outside_headspace_mm",),
        source=LABORATORY,
        do="The core was pressed: take another ring beside it, driven with lighter blows.",
    ),
    Rule(
        "ring wide enough",
        lambda f, s: at_least(f.record.ring_diameter_mm, s.least_diameter_mm, "mm"),
        at=("ring_diameter_mm",),
        level="watch",
        do="A narrow ring presses the soil it cuts: say so on the sheet.",
    ),
    Rule(
        "particle density measured",
        _measured,
        at=("particle_density_from",),
        source=LABORATORY,
        level="watch",
        do="Pores and saturation are only as good as the assumed figure (#).",
    ),
    Rule(
        "subsample large enough",
        _subsample,
        at=("mass_wet_g",),
        source=LABORATORY,
        level="watch",
        do="Dry a larger part, from all of the ring.",
    ),
    Rule(
        "dry density as ground has it",
        # Peat is as light as 0.1: what is lighter than soil is looked at only where nobody said that it is peat.
        lambda f, s: within(f.dry_mg_m3, s.peat_mg_m3 if f.record.organic_by_eye == "peat" else s.usual_mg_m3, "Mg/m³"),
        at=("mass_with_soil_g",),
        source=LABORATORY,
        do="Recheck the ring's size, the headspace and the masses.",
    ),
    saturation_at_most_full,
    Rule(
        "weighed soon after sampling, or sealed",
        _fresh,
        at=("sampled_at",),
        source=LABORATORY,
        level="watch",
        do="Water may be lost: say so on the sheet.",
    ),
    balance_in_date,
)
