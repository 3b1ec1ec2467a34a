"""What the rules of direct shear see of box, load, specimen and consolidation."""

from collections.abc import Iterator
from itertools import pairwise

from vadum.soil.contract import compare
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.rules import Seen, at_least, at_most, said
from vadum.soil.contract.times import span
from vadum.soil.methods.direct_shear.box import direct_kg
from vadum.soil.methods.direct_shear.facts import Facts
from vadum.soil.methods.direct_shear.school import ShearSchool
from vadum.soil.shared.consolidation import consolidated_percent, late_share_percent
from vadum.soil.shared.phases import full_at_most


def loaded(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    """Whether a normal load acts on the plane."""
    for st in f.kept:
        if st.normal_kpa is not None:
            words = f"{st.words}: {plain(st.normal_kpa)} kPa"
            yield Seen(st.normal_kpa > 0, words, "above 0 kPa", (st.path("hanger_kg"),))


def screws_first(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    """Whether the screws were out before the shear."""
    for st in f.kept:
        if st.stage.shear:
            out = st.stage.screws_out == "yes"
            words = f"{st.words}: screws {'out' if out else 'not said to be out'}"
            yield Seen(out, words, "out before the shear", (st.path("screws_out"),))


def grain_width(f: Facts, s: ShearSchool) -> Seen | None:
    """The width of the box against its largest grain."""
    grain = f.record.largest_particle_mm
    if not known(grain):
        return None
    least = s.width_to_grain_ratio * grain
    return at_least(f.box.width_mm, least, "mm", limit_words=f"{{}}: {plain(s.width_to_grain_ratio)} grains", digits=3)


def height(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    """Height of each specimen: least, by its grains, by the width."""
    grain = f.record.largest_particle_mm
    for st in f.kept:
        if not known(st.stage.height_mm):
            continue
        least = max(s.least_height_mm, s.height_to_grain_ratio * grain if known(grain) else 0.0)
        h = st.stage.height_mm
        at = (st.path("height_mm"),)
        yield Seen(compare.at_least(h, least), f"{st.words}: {plain(h)} mm high", f"at least {plain(least, 3)} mm", at)
        flat = f.box.width_mm / h if h > 0 else 0.0
        words = f"{st.words}: {plain(flat, 3)} times as wide as high"
        limit = f"at least {plain(s.least_width_to_height_ratio)} times"
        yield Seen(compare.at_least(flat, s.least_width_to_height_ratio), words, limit, at)


def consolidated(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    """Whether each stage consolidated to t100."""
    for st in f.kept:
        root, read = st.settled.root, st.settled.readings
        if st.stage.consolidated is None or root is None:
            continue
        share = consolidated_percent(read, root)
        t100 = st.settled.t100_min or root.t100_min
        held = compare.at_least(read[-1].minutes, t100)
        words = f"{st.words}: ended after {span(read[-1].minutes)}, {plain(share, 3)} %"
        yield Seen(held, words, f"t100, {span(t100)}", (st.path("consolidated"),))


def still_settling(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    """Settlement per log cycle of time at the end of consolidation."""
    for st in f.kept:
        late = late_share_percent(st.settled.readings)
        if st.stage.consolidated is not None and late is not None:
            words = f"{st.words}: {plain(late, 2)} % of the whole per log cycle"
            limit = f"{plain(s.most_late_percent)} %"
            yield Seen(compare.at_most(late, s.most_late_percent), words, limit, (st.path("settlement"),))


def apart(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    """The ratio of each load to the one below."""
    loads = sorted((st.normal_kpa, st.words) for st in f.counting if st.normal_kpa)
    good = len(loads) > 1
    for (a, _), (b, name) in pairwise(loads):
        if a > 0 and not compare.at_least(b / a, s.least_load_ratio):
            good = False
            words = f"{name}: {plain(b / a, 3)} times the one below"
            yield Seen(False, words, f"{plain(s.least_load_ratio)} times or more", ("stages",))
    if good:
        yield Seen(True, f"{len(loads)} loads", f"{plain(s.least_load_ratio)} times or more")


def densities(f: Facts, s: ShearSchool) -> Seen | None:
    """How far the dry densities of the specimens lie apart."""
    dry = [(st.state.dry_mg_m3, st.words) for st in f.kept if st.state.dry_mg_m3 is not None]
    if len(dry) < 2:
        return None
    low, high = min(dry), max(dry)
    apart = 100 * (high[0] / low[0] - 1)
    return at_most(apart, s.most_density_apart_percent, "%", f"{{}} from {low[1]} to {high[1]}", digits=2)


def dried(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    """A clay that was not flooded dries while it is sheared for hours."""
    before = f.record.water_before_percent
    if f.record.soil in (None, "clean sand", "silty sand") or not known(before):
        return
    for st in f.kept:
        tin, wet, dry = st.stage.mass_tin_g, st.stage.mass_wet_g, st.stage.mass_dry_g
        if st.stage.flooded == "no" and known(tin) and known(wet) and known(dry) and dry > tin:
            after = 100 * (wet - dry) / (dry - tin)
            words = f"{st.words}: {plain(after, 3)} % after, {plain(before, 3)} % before"
            yield Seen(
                compare.at_least(after, before - s.most_dried_percent),
                words,
                f"within {plain(s.most_dried_percent)} points",
                (st.path("flooded"),),
            )


def gap(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    """Whether the gap between the halves was recorded."""
    for st in f.kept:
        if st.over:
            gap = st.stage.gap_mm
            words = f"{st.words}: {'not written down' if not known(gap) else f'{plain(gap)} mm'}"
            held = known(gap) and compare.at_least(gap, s.least_gap_mm)
            yield Seen(held, words, f"{plain(s.least_gap_mm)} mm, about the largest grain", (st.path("gap_mm"),))


def lever(f: Facts, s: ShearSchool) -> Seen | None:
    """Whether the lever was balanced, or its weight counted."""
    balanced, lever = f.record.lever_balanced, f.record.lever_kg
    if balanced is None or not f.stages:
        return None
    words = (
        "balanced"
        if balanced == "yes"
        else f"{plain(lever)} kg of its own"
        if known(lever)
        else "its weight is not known (#)"
    )
    return said(balanced == "yes" or known(lever), words, "balanced, or its weight counted")


def cap(f: Facts, s: ShearSchool) -> Seen | None:
    """Whether what rests on the plane was weighed."""
    if not f.stages:
        return None
    kg = direct_kg(f.record)
    return said(
        known(f.record.cap_kg),
        f"{plain(kg)} kg on the plane" if known(f.record.cap_kg) else "not weighed (#)",
        "weighed",
    )


def density_from(f: Facts, s: ShearSchool) -> Seen | None:
    """Whether the particle density was measured."""
    value, source = f.record.particle_density_mg_m3, f.record.particle_density_from
    if value is None:
        return None
    words = f"{plain(value)} Mg/m³, {source or 'not said from where'}"
    return said(source == "measured", words, "measured on this soil")


def box_said(f: Facts, s: ShearSchool) -> Seen | None:
    """Whether the size of the box was entered."""
    if not f.stages:
        return None
    words = f"{plain(f.box.width_mm)} mm" + ("" if f.box.said else ", the school's (#)")
    return said(f.box.said, words, "entered, or by the box's number")


def ridges(f: Facts, s: ShearSchool) -> Seen | None:
    """Whether the ridges of the plates lay across the travel."""
    across = f.record.ridges_across
    return None if across is None else said(across == "yes", f"across: {across}", "across the travel")


def full(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    """Saturation of each specimen, at most 100 %."""
    for st in f.kept:
        seen = full_at_most(st.state.saturation_percent, "Check mass, height, water content and particle density.")
        if seen:
            yield seen._replace(found=f"{st.words}: {seen.found}", at=(st.path("mass_g"),))
