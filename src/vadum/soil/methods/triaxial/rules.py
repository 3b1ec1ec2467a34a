"""The rules that judge a triaxial test."""

from collections.abc import Iterator

from vadum.soil.contract import compare, paths
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Level
from vadum.soil.contract.rules import LABORATORY, PHYSICS, Forecast, Judge, Rule, Seen, at_least, said, within
from vadum.soil.contract.times import span
from vadum.soil.methods.triaxial.cell import BACK_MM
from vadum.soil.methods.triaxial.facts import Facts, Tested
from vadum.soil.methods.triaxial.record import EFFECTIVE, ENVELOPES
from vadum.soil.methods.triaxial.school import TriaxialSchool
from vadum.soil.shared.consolidation import consolidated_percent, late_share_percent
from vadum.soil.shared.force_reading import readers_in_date
from vadum.soil.shared.phases import full_at_most
from vadum.soil.shared.series_of_readings import MOST_NAMED, runs_backwards, within_range
from vadum.soil.shared.water_by_tin import balance_in_date, tins_possible, tins_told_apart

NEAR_STOP = 0.98  # of the stop strain: a platen is stopped by hand


def passed_percent(one: Tested, s: TriaxialSchool) -> float | None:
    """How much strain lies behind the greatest deviator, percent; None while it has not truly fallen."""
    best = one.deviator
    if best is None or best.deviator_kpa == 0 or compare.below(one.fell_percent, s.least_fall_percent):
        return None
    return 100 * (abs(one.points[-1].strain) - abs(best.strain))


def may_stop(one: Tested, s: TriaxialSchool) -> bool:
    """Whether the series has gone far enough past its greatest deviator."""
    past = passed_percent(one, s)
    if past is None:
        return False
    return compare.at_least(past, s.past_peak_percent) or compare.at_least(one.fell_percent, s.stop_fall_percent)


def past_peak_words(one: Tested, s: TriaxialSchool) -> str:
    """What the series may do now that its greatest deviator is behind it; empty before."""
    past = passed_percent(one, s)
    if past is None:
        ratio = one.obliquity
        if (
            ratio is not None
            and one.points
            and abs(one.points[-1].strain) > abs(ratio.strain) + s.past_peak_percent / 100
        ):
            return "greatest obliquity passed"
        return ""
    return (
        "peak passed, it may stop"
        if may_stop(one, s)
        else f"peak passed: {plain(s.past_peak_percent - past, 2)} % more"
    )


def _each(f: Facts) -> Iterator[Tested]:
    return (t for t in f.tested if not t.specimen.excluded_because)


def _under_cell(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    """Water in the specimen above the cell's pressure blows the membrane off."""
    for t in _each(f):
        good, named = 0, 0
        for cell, inside, word, rows, i, field in _pressures(t):
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


def _pressures(t: Tested) -> Iterator[tuple[float | None, float | None, str, str, int, str]]:
    """Each pressure inside with the cell's at that time, its word, and where it stands: list, row, field."""
    own = t.specimen
    yield own.cell_kpa, own.back_kpa, "back", "", 0, "back_kpa"
    for i, step in enumerate(own.increments):
        yield step.cell_to_kpa, step.pore_to_kpa, "pore", "increments", i, "pore_to_kpa"
        yield step.cell_to_kpa, step.back_kpa, "back", "increments", i, "back_kpa"
    for i, r in enumerate(own.shear):
        yield own.cell_kpa if r.cell_kpa is None else r.cell_kpa, r.pore_kpa, "pore", "shear", i, "pore_kpa"


def _rated(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    rating = f.record.cell_rating_kpa
    if not known(rating):
        return
    for t in _each(f):
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


def _positive(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    way = -1 if f.record.direction == "extension" else 1
    for t in _each(f):
        if t.deviator is not None and t.over:
            q = way * t.deviator.deviator_kpa
            words = f"{t.words}: deviator {plain(q, 3)} kPa at failure"
            yield Seen(q > 0, words, "above 0 kPa", (t.path("shear"),))


def _goes_on(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    way = -1 if f.record.direction == "extension" else 1
    for t in _each(f):
        at = t.path("shear")
        yield from runs_backwards(t.specimen.shear, at, "deformation_mm", BACK_MM, t.words, way)


def _kind(f: Facts, s: TriaxialSchool) -> Seen | None:
    kind = f.record.kind
    return None if kind is None else said(kind in s.kinds, kind, f"{', '.join(s.kinds)} by this school")


def _saturated(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    for t in _each(f):
        if f.quick or not t.answers or (t.specimen.saturated is None and not t.points):
            continue
        b, back = t.answers[-1].b_ratio, t.answers[-1].back_kpa or t.answers[-1].pore_kpa
        held = compare.at_least(b, s.least_b_ratio)
        before = t.answers[-3:-1]
        unchanged = len(before) == 2 and all(abs(b - a.b_ratio) <= s.unchanged_b_ratio for a in before)
        words = f"{t.words}: B {plain(b, 3)}" + ("" if held or not unchanged else ", unchanged over two steps")
        accepted = unchanged and back >= s.enough_back_kpa
        level: Level = "watch" if accepted else "redo"
        do = "Accepted for a stiff soil: say so." if accepted else "Raise the back pressure, or wait for longer."
        yield Seen(held, words, f"{plain(s.least_b_ratio)} or more", (t.path("increments"),), do, level)


def _tried(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    """No value is of a saturated specimen by a tick alone: B is the evidence."""
    for t in _each(f):
        if f.quick or not t.over:
            continue
        found = f"{t.words}: {'no step of B read' if not t.answers else f'{len(t.answers)} steps of B'}"
        level: Level = "watch" if f.drained else "redo"
        do = (
            "Raise the cell pressure with the drain closed and read the pore pressure, before the next is consolidated."
        )
        yield Seen(bool(t.answers), found, "B read at the end of saturation", (t.path("increments"),), do, level)


def _pore_read(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    """Without a pore pressure at failure an undrained test tells of total stress alone."""
    if f.drained or f.record.kind in ("UU", None):
        return
    for t in _each(f):
        at = t.failure(s)
        # The newest reading may still wait for its pore pressure: force and pressure are entered one after the other.
        entering = bool(t.points) and t.points[-1].pore_kpa is None and any(p.pore_kpa is not None for p in t.points)
        if t.over and at is not None and (at.pore_kpa is not None or not entering):
            found = f"{t.words}: {'read' if at.pore_kpa is not None else 'no pore pressure at failure'}"
            yield Seen(at.pore_kpa is not None, found, "pore pressure read in shear", (t.path("shear"),))


def _consolidation_read(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    for t in _each(f):
        if f.quick or not t.over:
            continue
        many = len(t.drainage.readings)
        by_hand = t.drainage.t50_min is not None or t.drainage.t90_min is not None or t.drainage.t100_min is not None
        found = f"{t.words}: {many} readings" + (", its times entered by hand" if by_hand and not many else "")
        do = (
            "Report the times as entered, not measured here."
            if by_hand
            else "Report that consolidation was not read: whether the rate was slow enough is not shown."
        )
        yield Seen(many > 2, found, "volume read against time", (t.path("consolidation"),), do)


def _multistage(f: Facts, s: TriaxialSchool) -> Seen | None:
    if f.record.staging != "multistage" or f.quick or len(f.tested) < 2:
        return None
    words = "a consolidated specimen sheared in stages"
    return said(False, words, "a fresh specimen for each pressure")


def _cohesion(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    for env, words in ((f.effective, "effective"), (f.by_other, "by the other criterion"), (f.total, "total stress")):
        if env is None or f.quick or len(env.rows) < s.least_specimens:
            continue
        free = env.free or env.strength
        seen = f"{words}: c {plain(free.c_kpa, 2)} kPa by the free fit"
        yield Seen(free.c_kpa >= -s.report_to_kpa / 2, seen, "0 or more", ("specimens",))


def _not_too_slow(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    """A quick test that creeps drains, and a slow clay reads weaker: half of the rate, or the time that is set."""
    low, high = s.failure_between_min
    for t in _each(f):
        at, rate = t.deviator, t.rate_percent_min
        if not f.quick or not t.over or at is None or rate is None or rate <= 0:
            continue
        minutes = 100 * abs(at.strain) / rate
        if high > 0:
            words = f"{t.words}: fails after {plain(minutes, 3)} min"
            held = low <= minutes <= high or (minutes < low and compare.at_most(rate, s.fixed_percent_min))
            yield Seen(held, words, f"{plain(low)} to {plain(high)} min", (t.path("rate_mm_min"),))
            continue
        wanted = t.needed_percent_min or s.fixed_percent_min
        words = f"{t.words}: {plain(rate, 3)} %/min"
        yield Seen(
            compare.at_least(rate, wanted / 2),
            words,
            f"at least {plain(wanted / 2, 3)} %/min",
            (t.path("rate_mm_min"),),
        )


def _slow(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    for t in _each(f):
        rate, most = t.rate_percent_min, t.needed_percent_min
        if rate is None or most is None or not t.points:
            continue
        limit = most * (1 + s.rate_over_percent / 100)
        do = (
            "Water did not leave it: drained strength is doubtful. Repeat at the rate."
            if f.drained
            else "The pore pressure was not even: repeat at the rate."
        )
        if f.quick:
            do = "Repeat at the school's rate: a quicker clay reads stronger."
        words = f"{t.words}: {plain(rate, 3)} %/min"
        yield Seen(compare.at_most(rate, limit), words, f"{plain(most, 3)} %/min", (t.path("rate_mm_min"),), do)


def _consolidated(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    for t in _each(f):
        root, read = t.drainage.root, t.drainage.readings
        if f.quick or t.specimen.consolidated is None or root is None:
            continue
        share = consolidated_percent(read, root)
        full = compare.at_least(share, 100.0) or compare.at_least(
            read[-1].minutes, t.drainage.t100_min or root.t100_min
        )
        level: Level = "watch" if compare.at_least(share, s.least_consolidated_percent) else "redo"
        do = "Say so on the sheet." if level == "watch" else "It was still draining: consolidate to the end."
        words = f"{t.words}: {plain(min(share, 100.0), 3)} % after {span(read[-1].minutes)}"
        yield Seen(full, words, "100 %", (t.path("consolidation"),), do, level)


def _leaks(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    for t in _each(f):
        late = late_share_percent(t.drainage.readings)
        if t.drainage.root is not None and late is not None and t.specimen.consolidated is not None:
            words = f"{t.words}: {plain(late, 2)} % of it per log cycle at the end"
            held = compare.at_most(late, s.leak_percent_log)
            yield Seen(held, words, f"{plain(s.leak_percent_log)} %", (t.path("consolidation"),))


def _slender(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    for t in _each(f):
        if t.core is not None:
            # A nominal shape: cutter and mitre box of 2.0 make half of all specimens a hair shorter.
            ratio = round(t.core.slenderness_ratio, 1)
            made = within(ratio, (s.least_slenderness_ratio, s.most_slenderness_ratio), digits=3)
            if made:
                yield made._replace(found=f"{t.words}: {made.found}", at=(t.path("height_1_mm"),))


def _wide(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    grain = f.record.largest_particle_mm
    for t in _each(f):
        if t.core is None:
            continue
        least = max(s.least_diameter_mm, s.grain_ratio * grain if known(grain) else 0.0)
        words = f"{t.words}: {plain(t.core.diameter_mm, 3)} mm wide"
        held = compare.at_least(t.core.diameter_mm, least)
        yield Seen(held, words, f"at least {plain(least, 3)} mm", (t.path("diameter_middle_mm"),))


def _enough(f: Facts, s: TriaxialSchool) -> Seen | None:
    if f.hand is not None or not f.tested:
        return None
    n, least = len(f.counting), s.least_quick_specimens if f.quick else s.least_specimens
    return said(n >= least, f"{n} specimen{'' if n == 1 else 's'} count{'s' if n == 1 else ''}", f"{least} or more")


def _never_above(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    """A specimen that was squeezed harder while it was saturated than in its stage is overconsolidated by hand."""
    least = min((t.effective_kpa for t in _each(f) if t.effective_kpa is not None), default=None)
    for t in _each(f):
        squeezed = [
            row.cell_to_kpa - row.back_kpa
            for row in t.specimen.increments
            if known(row.cell_to_kpa) and known(row.back_kpa)
        ]
        if squeezed and least is not None:
            words = f"{t.words}: {plain(max(squeezed), 3)} kPa while it was saturated"
            held = compare.at_most(max(squeezed), least)
            yield Seen(held, words, f"at most {plain(least, 4)} kPa, the least stage", (t.path("increments"),))


def _membrane(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    for t in _each(f):
        thick = t.specimen.membrane_thickness_mm
        if known(thick) and t.core is not None:
            share = 100 * thick / t.core.diameter_mm
            words = f"{t.words}: {plain(share, 2)} % of the diameter"
            limit = f"{plain(s.membrane_thickness_percent)} %"
            held = compare.at_most(share, s.membrane_thickness_percent)
            yield Seen(held, words, limit, (t.path("membrane_thickness_mm"),))


def _soaked(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    for t in _each(f):
        since, until = t.specimen.membrane_soaked_from_at, t.specimen.mounted_at
        if since is not None and until is not None and not f.quick:
            minutes = (until - since).total_seconds() / 60
            words = f"{t.words}: {span(max(minutes, 0.0))} in water"
            held = compare.at_least(minutes, s.membrane_soak_min)
            yield Seen(held, words, f"{span(s.membrane_soak_min)} or more", (t.path("membrane_soaked_from_at"),))


def _drift(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    for t in _each(f):
        cells = [r.cell_kpa for r in t.specimen.shear if known(r.cell_kpa)]
        if len(cells) < 2 or not known(t.specimen.cell_kpa):
            continue
        moved = max(abs(c - t.specimen.cell_kpa) for c in cells)
        most = max(s.drift_kpa, s.drift_percent / 100 * t.specimen.cell_kpa)
        words = f"{t.words}: the cell moved by {plain(moved, 2)} kPa"
        yield Seen(compare.at_most(moved, most), words, f"{plain(most, 3)} kPa", (t.path("shear"),))


def _still_rising(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    for t in _each(f):
        if t.over and t.deviator is not None and len(t.points) > 3:
            stop = s.stop_strain_percent / 100
            reach = min(abs(t.points[-1].strain), stop)
            rising = abs(t.deviator.strain) >= reach - 1e-9
            words = f"{t.words}: greatest at {plain(100 * abs(t.deviator.strain), 3)} % strain"
            yield Seen(not rising, words, "before the end", (t.path("shear"),))


def _stopped_early(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    for t in _each(f):
        if not t.over or t.deviator is None or f.record.staging == "multistage":
            continue
        at_stop = compare.at_least(abs(t.points[-1].strain), NEAR_STOP * s.stop_strain_percent / 100)
        fell = compare.at_least(t.fell_percent, s.least_fall_percent)
        words = f"{t.words}: ends at {plain(100 * abs(t.points[-1].strain), 3)} %, {plain(t.fell_percent, 2)} % below"
        limit = (
            f"{plain(s.past_peak_percent)} % strain past its greatest, {plain(s.stop_fall_percent)} % below it, "
            f"or {plain(s.stop_strain_percent)} % strain"
        )
        if fell and not at_stop and not may_stop(t, s):
            do = "The greatest is passed: report it, and run the next specimen further."
            yield Seen(False, words, limit, (t.path("stopped"),), do, "watch")
        else:
            yield Seen(at_stop or fell, words, limit, (t.path("stopped"),))


def _late_stage(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    if f.record.staging != "multistage":
        return
    for t in f.counting[:-1]:
        if t.obliquity is not None:
            past = 100 * (abs(t.points[-1].strain) - abs(t.obliquity.strain))
            words = f"{t.words}: {plain(past, 2)} % past its greatest obliquity"
            held = compare.at_most(past, s.late_stage_percent)
            yield Seen(held, words, f"{plain(s.late_stage_percent)} %", (t.path("stopped"),))


def _voids(f: Facts, s: TriaxialSchool) -> Seen | None:
    e = [(t.state.void_ratio, t.words) for t in _each(f) if t.state.void_ratio is not None]
    if len(e) < 2:
        return None
    low, high = min(e), max(e)
    words = f"void ratio {plain(low[0], 3)} to {plain(high[0], 3)}"
    return said(compare.at_most(high[0] - low[0], s.voids_apart_ratio), words, f"{plain(s.voids_apart_ratio)} apart")


def _misses(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    line = f.effective or (f.total if f.quick is False else None)
    if line is None or len(line.points) < 3:
        return
    for row, (x, t) in zip(line.rows, line.points, strict=True):
        off = 100 * abs(t - line.line.at(x)) / max(abs(line.line.at(x)), 1e-9)
        words = f"{f.tested[row].words}: {plain(off, 2)} % off the line"
        held = compare.at_most(off, s.misses_percent)
        yield Seen(held, words, f"{plain(s.misses_percent)} %", (f.tested[row].path("shear"),))


def _spread(f: Facts, s: TriaxialSchool) -> Seen | None:
    pressures = [t.effective_kpa for t in f.counting if t.effective_kpa and t.effective_kpa > 0]
    if len(pressures) < 2:
        return None
    ratio = max(pressures) / min(pressures)
    return at_least(ratio, s.least_pressure_ratio, "", "greatest over least {}", digits=3)


def _assumed(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    value, source = f.record.particle_density_mg_m3, f.record.particle_density_from
    if value is not None:
        words = f"particle density {plain(value)} Mg/m³, {source or 'not said from where'}"
        yield Seen(source == "measured", words, "measured on this soil", ("particle_density_from",))
    applied = any(p.membrane_kpa for t in _each(f) for p in t.points)
    if applied:
        modulus, told = f.record.membrane_modulus_kpa, f.record.membrane_modulus_from
        used = modulus if known(modulus) else s.membrane_modulus_kpa
        words = f"membrane's modulus {plain(used)} kPa{'' if told == 'measured' else ' (#)'}"
        yield Seen(told == "measured", words, "measured", ("membrane_modulus_from",))


def _thickness(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    for t in _each(f):
        if t.over:
            thick = t.specimen.membrane_thickness_mm
            words = f"{t.words}: {'not known: nothing taken for it (#)' if not known(thick) else f'{plain(thick)} mm'}"
            yield Seen(known(thick), words, "entered, or by its number", (t.path("membrane_thickness_mm"),))


def _zeroed(f: Facts, s: TriaxialSchool) -> Seen | None:
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


def _range(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    for t in _each(f):
        yield from within_range(t.specimen.shear, t.path("shear"), "force_n", f.record.load_cell_most_n, "N", t.words)


def _full(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    for t in _each(f):
        seen = full_at_most(t.state.saturation_percent, "Recheck mass, sizes, tin and particle density.")
        if seen:
            yield seen._replace(found=f"{t.words}: {seen.found}", at=(t.path("mass_g"),))


def _rested(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    for t in _each(f):
        since = t.specimen.under_pressure_from_at
        first = next((r.read_at for r in t.specimen.shear if r.read_at is not None), None)
        if f.quick and since is not None and first is not None:
            minutes = (first - since).total_seconds() / 60
            words = f"{t.words}: {span(max(minutes, 0.0))} under its pressure"
            held = compare.at_least(minutes, s.rest_min)
            yield Seen(held, words, f"{span(s.rest_min)} or more", (t.path("under_pressure_from_at"),))


def _fails_late(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    for t in _each(f):
        if t.over and t.deviator is not None:
            strain = 100 * abs(t.deviator.strain)
            words = f"{t.words}: fails at {plain(strain, 3)} % strain"
            yield Seen(
                compare.at_most(strain, s.late_failure_percent),
                words,
                f"{plain(s.late_failure_percent)} %",
                (t.path("shear"),),
            )


def _friction_check(f: Facts, s: TriaxialSchool) -> Seen | None:
    if not f.quick or f.total is None or len(f.counting) < s.least_specimens:
        return None
    phi, error = f.total.strength.phi_degrees, f.total.strength.phi_error_degrees or 0.0
    held = abs(phi) <= max(s.quick_friction_degrees, 2 * error)
    return said(held, f"{plain(phi, 2)}° fitted to the circles", "about 0° of a saturated clay")


def _foreseen(f: Facts, s: TriaxialSchool) -> str:
    one = f.in_hand
    if one is None or one.over or not may_stop(one, s) or one.deviator is None:
        return ""
    return f"{one.words}: greatest deviator of {abs(one.deviator.deviator_kpa):.0f} kPa passed, it may stop."


RULES: tuple[Judge, ...] = (
    Rule(
        "water pressure below the cell's",
        _under_cell,
        source=PHYSICS,
        level="stop",
        do="Look at both pressures; water above the cell's lifts the membrane.",
        affects=ENVELOPES,
        at_once=True,
    ),
    Rule(
        "cell within its rating",
        _rated,
        source="the cell's rating",
        level="stop",
        do="Let the pressure down now, from behind the shield; a cell above its rating is not used again unexamined.",
        affects=ENVELOPES,
        at_once=True,
    ),
    Rule(
        "deviator above nothing at failure",
        _positive,
        source=PHYSICS,
        level="stop",
        do="Look at the load's zero and sign, and at the piston's uplift.",
        affects=ENVELOPES,
    ),
    Rule(
        "the platen goes one way",
        _goes_on,
        source=PHYSICS,
        level="stop",
        do="Strike the wrong one, or leave the reading out with a reason.",
        affects=ENVELOPES,
    ),
    tins_possible("specimens", "specimen"),
    *tins_told_apart("specimens", "specimen"),
    Rule(
        "load within the range of its cell",
        _range,
        source="its calibration",
        level="stop",
        do="Stop: a larger load cell; strike the reading if it is a slip.",
        affects=ENVELOPES,
        at_once=True,
    ),
    Rule("kind of test of this school", _kind, at=("kind",), do="Take the school of that kind.", affects=ENVELOPES),
    Rule(
        "stages of a consolidated specimen",
        _multistage,
        at=("staging",),
        source=LABORATORY,
        level="stop",
        do="Stages of a consolidated specimen are not computed here: shear a fresh specimen under each pressure.",
        affects=ENVELOPES,
    ),
    Rule(
        "pore pressure measured",
        _pore_read,
        level="stop",
        do="Report total stress, as a test without pore pressure; no effective strength follows from it.",
        affects=EFFECTIVE,
    ),
    Rule("B measured", _tried, affects=EFFECTIVE),
    Rule("saturated", _saturated, affects=ENVELOPES),
    Rule("slow enough", _slow, affects=ENVELOPES),
    Rule(
        "quick enough",
        _not_too_slow,
        level="watch",
        do="State the rate and the time to failure on the report; run the next at the rate of the standard.",
    ),
    Rule("consolidation read", _consolidation_read, level="watch"),
    Rule(
        "cohesion not below nothing",
        _cohesion,
        source=PHYSICS,
        level="watch",
        do="Zero and the angle of the line through zero are reported; check zeros, membrane and the least pressure.",
    ),
    Rule("consolidated to the end", _consolidated, affects=ENVELOPES),
    Rule(
        "water out comes to an end",
        _leaks,
        source=LABORATORY,
        do="A membrane or a fitting leaks: look for water, repeat the specimen.",
        affects=ENVELOPES,
    ),
    Rule(
        "height to diameter",
        _slender,
        do="Trim another: short ones read strong, long ones buckle.",
        affects=ENVELOPES,
    ),
    Rule("wide enough, also for its grains", _wide, do="Take a wider specimen.", affects=ENVELOPES),
    Rule(
        "specimens for an envelope",
        _enough,
        at=("specimens",),
        do="Test another specimen.",
        affects=ENVELOPES,
    ),
    Rule(
        "gently saturated",
        _never_above,
        do="It was squeezed harder than its least stage: repeat with smaller effective steps.",
        affects=ENVELOPES,
    ),
    Rule(
        "membrane thin enough",
        _membrane,
        do="Take a thinner membrane, or a wider specimen.",
        affects=ENVELOPES,
    ),
    Rule(
        "run past its greatest deviator",
        _stopped_early,
        do="The greatest deviator was not reached: test another specimen further.",
        affects=ENVELOPES,
    ),
    Rule("membrane soaked overnight", _soaked, level="watch", do="Look for a leak; soak the next one overnight."),
    Rule("cell pressure steady", _drift, level="watch", do="Feel the fittings for water; look at the regulator."),
    Rule(
        "greatest deviator before the end",
        _still_rising,
        level="watch",
        do="Report it as the value at the stop strain, still rising there.",
    ),
    Rule("fails at no great strain", _fails_late, level="watch", do="Say the strain beside the strength."),
    Rule(
        "a stage stopped in time",
        _late_stage,
        level="watch",
        do="Stop a stage as soon as its ratio stands; leave the stages behind it out, with a reason.",
    ),
    Rule(
        "specimens alike",
        _voids,
        at=("specimens",),
        level="watch",
        do="Their strengths are of different states: trim the next beside the others, or say so.",
    ),
    Rule(
        "every circle meets the line",
        _misses,
        source=LABORATORY,
        level="watch",
        do="Look at that specimen; it can be left out with a reason, and the line says how it moves.",
    ),
    Rule("pressures far enough apart", _spread, at=("specimens",), level="watch", do="Choose pressures that double."),
    Rule(
        "no friction in a quick test",
        _friction_check,
        level="watch",
        do="Air in it takes up friction: is it saturated?",
    ),
    Rule("rested under its pressure", _rested, level="watch", do="Say so on the sheet."),
    Rule(
        "nothing assumed",
        _assumed,
        source=LABORATORY,
        level="watch",
        do="Measure it, or say so on the sheet: what stands on it is marked so.",
    ),
    Rule("membrane's thickness known", _thickness, level="watch", do="Measure it, or enter the maker's."),
    Rule("load zeroed under pressure", _zeroed, at=("piston_zeroed",), level="watch", do="Enter the piston's area."),
    Rule("no fuller than full", _full, source=PHYSICS),
    Rule(
        "load cell in date",
        lambda f, s: readers_in_date(f.record, (("load_cell", "load cell"),)),
        level="watch",
        do="Say so on the sheet; calibrate it.",
    ),
    balance_in_date,
    Forecast("peak passed", _foreseen),
)
