"""What the rules see of a specimen before it is sheared: sizes, membrane, saturation, consolidation."""

from collections.abc import Iterator

from vadum.soil.contract import compare, paths
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Level
from vadum.soil.contract.rules import Seen, said
from vadum.soil.contract.times import span
from vadum.soil.methods.triaxial.facts import Facts, Tested
from vadum.soil.methods.triaxial.school import TriaxialSchool
from vadum.soil.shared.consolidation import consolidated_percent, late_share_percent
from vadum.soil.shared.phases import full_at_most
from vadum.soil.shared.series_of_readings import MOST_NAMED
from vadum.soil.shared.slenderness import slender as shape


def under_cell(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    """Water in the specimen above the cell's pressure blows the membrane off."""
    for t in f.kept:
        good, named = 0, 0
        for cell, inside, word, rows, i, field in pressures(t):
            if not known(cell) or not known(inside):
                continue
            if inside <= cell + s.pressure_slack_kpa:
                good += 1
                continue
            named += 1
            if named <= MOST_NAMED:
                words = f"{t.words}: {word} {plain(inside)} above cell {plain(cell)} kPa"
                at = paths.at(t.path(rows), i, field) if rows else t.path(field)
                yield Seen(False, words, "below the cell pressure", (at,))
        if good and not named:
            yield Seen(True, f"{t.words}: {good} pairs of pressures", "below the cell pressure")


def pressures(t: Tested) -> Iterator[tuple[float | None, float | None, str, str, int, str]]:
    """Each pressure inside with the cell's at that time, its word, and where it stands: list, row, field."""
    own = t.specimen
    yield own.cell_kpa, own.back_kpa, "back", "", 0, "back_kpa"
    for i, step in enumerate(own.increments):
        yield step.cell_to_kpa, step.pore_to_kpa, "pore", "increments", i, "pore_to_kpa"
        yield step.cell_to_kpa, step.back_kpa, "back", "increments", i, "back_kpa"
    for i, r in enumerate(own.shear):
        yield own.cell_kpa if r.cell_kpa is None else r.cell_kpa, r.pore_kpa, "pore", "shear", i, "pore_kpa"


def rated(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    """Cell pressures against the rating of the cell."""
    rating = f.record.cell_rating_kpa
    if not known(rating):
        return
    for t in f.kept:
        pressures = [(t.specimen.cell_kpa, t.path("cell_kpa"))]
        pressures += [
            (row.cell_to_kpa, paths.at(t.path("increments"), i, "cell_to_kpa"))
            for i, row in enumerate(t.specimen.increments)
        ]
        read = [(p, at) for p, at in pressures if known(p)]
        beyond = [(p, at) for p, at in read if p > rating]
        for p, at in beyond[:MOST_NAMED]:
            yield Seen(False, f"{t.words}: {plain(p)} kPa in the cell", f"rated to {plain(rating)} kPa", (at,))
        if read and not beyond:
            most = max(p for p, _ in read)
            yield Seen(True, f"{t.words}: up to {plain(most)} kPa", f"rated to {plain(rating)} kPa")


def saturated(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    """B at the end of saturation, or unchanged over two steps."""
    for t in f.kept:
        if f.quick or not t.answers or (t.specimen.saturated is None and not t.points):
            continue
        b, back = t.answers[-1].b_ratio, t.answers[-1].back_kpa or t.answers[-1].pore_kpa
        held = compare.at_least(b, s.least_b_ratio)
        before = t.answers[-3:-1]
        unchanged = len(before) == 2 and all(abs(b - a.b_ratio) <= s.unchanged_b_ratio for a in before)
        words = f"{t.words}: B {plain(b, 3)}" + ("" if held or not unchanged else ", unchanged over two steps")
        accepted = unchanged and back >= s.enough_back_kpa
        level: Level = "watch" if accepted else "redo"
        do = "Accepted for a stiff soil. Report it." if accepted else "Raise the back pressure, or wait longer."
        yield Seen(held, words, f"{plain(s.least_b_ratio)} or more", (t.path("increments"),), do, level)


def tried(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    """No value is of a saturated specimen by a tick alone: B is the evidence."""
    for t in f.kept:
        if f.quick or not t.over:
            continue
        found = f"{t.words}: {'no step of B read' if not t.answers else f'{len(t.answers)} steps of B'}"
        level: Level = "watch" if f.drained else "redo"
        do = "Before consolidating the next specimen, raise the cell pressure undrained and read B."
        yield Seen(bool(t.answers), found, "B read at the end of saturation", (t.path("increments"),), do, level)


def consolidation_read(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    """Whether volume was read against time."""
    for t in f.kept:
        if f.quick or not t.over:
            continue
        many = len(t.drainage.readings)
        by_hand = t.drainage.t50_min is not None or t.drainage.t90_min is not None or t.drainage.t100_min is not None
        found = f"{t.words}: {many} readings" + (", its times entered by hand" if by_hand and not many else "")
        do = (
            "Report t50, t90 and t100 as entered by hand, without readings."
            if by_hand
            else "Report that consolidation was not recorded; the rate cannot be checked."
        )
        yield Seen(many > 2, found, "volume read against time", (t.path("consolidation"),), do)


def consolidated(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    """How far each specimen was consolidated."""
    for t in f.kept:
        root, read = t.drainage.root, t.drainage.readings
        if f.quick or t.specimen.consolidated is None or root is None:
            continue
        share = consolidated_percent(read, root)
        full = compare.at_least(share, 100.0) or compare.at_least(
            read[-1].minutes, t.drainage.t100_min or root.t100_min
        )
        level: Level = "watch" if compare.at_least(share, s.least_consolidated_percent) else "redo"
        do = (
            "Report it."
            if level == "watch"
            else "Consolidation was not complete. Consolidate the next specimen to the end."
        )
        words = f"{t.words}: {plain(min(share, 100.0), 3)} % after {span(read[-1].minutes)}"
        yield Seen(full, words, "100 %", (t.path("consolidation"),), do, level)


def leaks(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    """Volume lost per log cycle of time at the end: a leak does not stop."""
    for t in f.kept:
        late = late_share_percent(t.drainage.readings)
        if t.drainage.root is not None and late is not None and t.specimen.consolidated is not None:
            words = f"{t.words}: {plain(late, 2)} % of it per log cycle at the end"
            held = compare.at_most(late, s.leak_percent_log)
            yield Seen(held, words, f"{plain(s.leak_percent_log)} %", (t.path("consolidation"),))


def slender(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    """Height to diameter of each specimen."""
    for t in f.kept:
        if t.core is not None:
            made = shape(
                t.core.slenderness_ratio, s.least_slenderness_ratio, s.most_slenderness_ratio, s.shape_decimals
            )
            if made:
                yield made._replace(found=f"{t.words}: {made.found}", at=(t.path("height_1_mm"),))


def wide(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    """Diameter of each specimen: least, and by its grains."""
    grain = f.record.largest_particle_mm
    for t in f.kept:
        if t.core is None:
            continue
        least = max(s.least_diameter_mm, s.grain_ratio * grain if known(grain) else 0.0)
        words = f"{t.words}: {plain(t.core.diameter_mm, 3)} mm wide"
        held = compare.at_least(t.core.diameter_mm, least)
        yield Seen(held, words, f"at least {plain(least, 3)} mm", (t.path("diameter_middle_mm"),))


def never_above(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    """A specimen that was squeezed harder while it was saturated than in its stage is overconsolidated by hand."""
    least = min((t.effective_kpa for t in f.kept if t.effective_kpa is not None), default=None)
    for t in f.kept:
        squeezed = [
            row.cell_to_kpa - row.back_kpa
            for row in t.specimen.increments
            if known(row.cell_to_kpa) and known(row.back_kpa)
        ]
        if squeezed and least is not None:
            words = f"{t.words}: {plain(max(squeezed), 3)} kPa while it was saturated"
            held = compare.at_most(max(squeezed), least)
            yield Seen(held, words, f"at most {plain(least, 4)} kPa, the least stage", (t.path("increments"),))


def membrane(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    """Thickness of the membrane against the diameter."""
    for t in f.kept:
        thick = t.specimen.membrane_thickness_mm
        if known(thick) and t.core is not None:
            share = 100 * thick / t.core.diameter_mm
            words = f"{t.words}: {plain(share, 2)} % of the diameter"
            limit = f"{plain(s.membrane_thickness_percent)} %"
            held = compare.at_most(share, s.membrane_thickness_percent)
            yield Seen(held, words, limit, (t.path("membrane_thickness_mm"),))


def soaked(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    """How long the membrane was in water."""
    for t in f.kept:
        since, until = t.specimen.membrane_soaked_from_at, t.specimen.mounted_at
        if since is not None and until is not None and not f.quick:
            minutes = (until - since).total_seconds() / 60
            words = f"{t.words}: {span(max(minutes, 0.0))} in water"
            held = compare.at_least(minutes, s.membrane_soak_min)
            yield Seen(held, words, f"{span(s.membrane_soak_min)} or more", (t.path("membrane_soaked_from_at"),))


def assumed(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    """What was assumed: particle density, membrane modulus."""
    value, source = f.record.particle_density_mg_m3, f.record.particle_density_from
    if value is not None:
        words = f"particle density {plain(value)} Mg/m³, {source or 'not said from where'}"
        yield Seen(source == "measured", words, "measured on this soil", ("particle_density_from",))
    applied = any(p.membrane_kpa for t in f.kept for p in t.points)
    if applied:
        modulus, told = f.record.membrane_modulus_kpa, f.record.membrane_modulus_from
        used = modulus if known(modulus) else s.membrane_modulus_kpa
        words = f"membrane's modulus {plain(used)} kPa{'' if told == 'measured' else ' (#)'}"
        yield Seen(told == "measured", words, "measured", ("membrane_modulus_from",))


def thickness(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    """Whether the thickness of the membrane is known."""
    for t in f.kept:
        if t.over:
            thick = t.specimen.membrane_thickness_mm
            words = f"{t.words}: {'not known: nothing taken for it (#)' if not known(thick) else f'{plain(thick)} mm'}"
            yield Seen(known(thick), words, "entered, or by its number", (t.path("membrane_thickness_mm"),))


def zeroed(f: Facts, s: TriaxialSchool) -> Seen | None:
    """Whether the load was zeroed under pressure, or the uplift taken off."""
    zeroed = f.record.piston_zeroed
    if zeroed is None:
        return None
    area = f.record.piston_area_mm2
    words = (
        "zeroed under pressure"
        if zeroed == "yes"
        else "not zeroed; its area " + ("taken off" if known(area) else "not known (#)")
    )
    return said(zeroed == "yes" or known(area), words, "zeroed, or its uplift taken off")


def full(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    """Saturation of each specimen, at most 100 %."""
    for t in f.kept:
        seen = full_at_most(t.state.saturation_percent, "Check mass, dimensions, tin masses and particle density.")
        if seen:
            yield seen._replace(found=f"{t.words}: {seen.found}", at=(t.path("mass_g"),))


def rested(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    """How long a quick specimen stood under its cell pressure."""
    for t in f.kept:
        since = t.specimen.under_pressure_from_at
        first = next((r.read_at for r in t.specimen.shear if r.read_at is not None), None)
        if f.quick and since is not None and first is not None:
            minutes = (first - since).total_seconds() / 60
            words = f"{t.words}: {span(max(minutes, 0.0))} under its pressure"
            held = compare.at_least(minutes, s.rest_min)
            yield Seen(held, words, f"{span(s.rest_min)} or more", (t.path("under_pressure_from_at"),))
