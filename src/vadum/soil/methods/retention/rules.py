"""The rules that judge a water retention curve."""

import math
from collections.abc import Iterator
from itertools import pairwise

from vadum.soil.contract.compare import at_most as is_at_most
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.rules import LABORATORY, PHYSICS, Judge, Rule, Seen, at_least, at_most, said
from vadum.soil.contract.times import minutes_between
from vadum.soil.methods.retention.curve import PARAMETERS
from vadum.soil.methods.retention.facts import Facts, One
from vadum.soil.methods.retention.reduce import is_beyond
from vadum.soil.methods.retention.school import RetentionSchool
from vadum.soil.shared.force_reading import readers_in_date


def _path(one: One, field: str) -> tuple[str, ...]:
    return (f"cells[{one.row}].{field}",)


def _counted(f: Facts) -> Iterator[One]:
    return (one for one in f.ones if one.counts)


def _units(f: Facts, s: RetentionSchool) -> Iterator[Seen]:
    for i, step in enumerate(f.record.steps):
        if known(step.pressure_as_read) and step.pressure_unit is None:
            yield Seen(
                False,
                f"step {i + 1}: {plain(step.pressure_as_read)} without a unit",
                "a unit",
                (f"steps[{i}].pressure_unit",),
            )
    for low, high in pairwise(f.pressures):
        if low.kpa <= 0:
            continue
        at = (f"steps[{high.row}].pressure_as_read",)
        ratio = high.kpa / low.kpa
        held = ratio > 1 and is_at_most(ratio, s.most_step_ratio)
        words = f"{low.words}, then {high.words}"
        yield Seen(held, words, f"rising, at most {plain(s.most_step_ratio)} times the one before", at)


def _rises(f: Facts, s: RetentionSchool) -> Iterator[Seen]:
    for one in _counted(f):
        read = [h for h in one.held if h.theta is not None]
        for a, b in pairwise(read):
            rise = max(0.0, 100 * ((b.theta or 0.0) - (a.theta or 0.0)))
            where = "saturated" if a.step is None else f.pressures[a.step].words
            then = f.pressures[b.step].words if b.step is not None else ""
            words = f"{one.name}: {{}} more water at {then} than {where}"
            seen = at_most(rise, s.most_rise_percent, "%", words, digits=2)
            assert seen is not None
            yield seen._replace(at=_path(one, "weighings"))


def _settled(f: Facts, s: RetentionSchool) -> Iterator[Seen]:
    for one in _counted(f):
        left = range(len(f.pressures)) if one.over else range(one.step)
        for k in left:
            held = next((h for h in one.held if h.step == k), None)
            words = f.pressures[k].words
            limit = f"{s.settled_days} days below {plain(s.settled_g)} g"
            if held is None:
                yield Seen(False, f"{one.name}: never weighed at {words}", limit, _path(one, "weighings"))
            else:
                found = f"{one.name}: {'settled' if held.settled else 'went on, still losing,'} at {words}"
                yield Seen(held.settled, found, limit, _path(one, "weighings"))


def _entry(f: Facts, s: RetentionSchool) -> Iterator[Seen]:
    for one in _counted(f):
        limit = one.cell.plate_entry_kpa
        if not known(limit) or not f.pressures or not one.weighed:
            continue
        reached = max(f.pressures[min(w.step, len(f.pressures) - 1)].kpa for w in one.weighed)
        seen = at_most(reached, limit, "kPa", f"{one.name} at {{}}", limit_words="{}: its plate's air entry")
        assert seen is not None
        yield seen._replace(at=_path(one, "plate_entry_kpa"))


def _filled(f: Facts, s: RetentionSchool) -> Iterator[Seen]:
    if f.porosity is None or f.porosity <= 0:
        return
    for one in _counted(f):
        first = next((h.theta for h in one.held if h.step is None and h.theta is not None), None)
        if first is None or not known(one.cell.dry_g):
            continue
        ratio = first / f.porosity
        at = _path(one, "saturated_g")
        if ratio > s.most_filled_ratio:
            seen = at_most(
                ratio,
                s.most_filled_ratio,
                "",
                f"{one.name}: saturated water {{}} of the porosity",
                digits=3,
                at=at,
                do="More water than pores: plate, seals or washers are missing in the tare, or a film stood on top.",
            )
        else:
            seen = at_least(
                ratio,
                s.least_filled_ratio,
                "",
                f"{one.name}: saturated water {{}} of the porosity",
                digits=3,
                at=at,
                do="Air stayed in it: soak longer, from below; say so on the report.",
            )
        assert seen is not None
        yield seen


def _jumps(f: Facts, s: RetentionSchool) -> Iterator[Seen]:
    for one in _counted(f):
        masses = [(w.mass_g, w.row) for w in one.weighed]
        if known(one.cell.saturated_g):
            masses.insert(0, (one.cell.saturated_g, 0))
        for (a, _), (b, row) in pairwise(masses):
            rise = max(0.0, b - a)
            seen = at_most(rise, s.most_jump_g, "g", f"{one.name}: {{}} heavier than before", digits=3)
            assert seen is not None
            yield seen._replace(at=_path(one, f"weighings[{row}].mass_g"))


def _warmed(f: Facts, s: RetentionSchool) -> Seen | None:
    read = [float(w.weighing.temperature_c) for o in _counted(f) for w in o.weighed if known(w.weighing.temperature_c)]
    if len(read) < 2:
        return None
    return at_most(max(read) - min(read), 2 * s.most_warming_c, "°C", "the room changed by {}", digits=2)


def _evaporates(f: Facts, s: RetentionSchool) -> Iterator[Seen]:
    for one in _counted(f):
        for step in sorted({w.step for w in one.weighed}):
            losses = [-w.change_g_day for w in one.weighed if w.step == step and w.change_g_day is not None]
            losses = losses[-s.alike_days :]
            if len(losses) < s.alike_days or min(losses) <= s.settled_g:
                continue
            mean = math.fsum(losses) / len(losses)
            spread = 100 * max(abs(x - mean) for x in losses) / mean
            each = ", ".join(f"{x:.2f}" for x in losses)
            held = spread > s.alike_loss_percent
            limit = f"a loss that becomes less: {s.alike_days} days within {plain(s.alike_loss_percent)} % are alike"
            yield Seen(held, f"{one.name} lost {each} g a day", limit, _path(one, "weighings"))


def _in_date(f: Facts, s: RetentionSchool) -> Iterator[Seen]:
    for one in _counted(f):
        for seen in readers_in_date(one.cell, (("pressure_cell", f"cell {one.name}"),)):
            yield seen._replace(at=_path(one, "pressure_cell"))


def _algae(f: Facts, s: RetentionSchool) -> Seen | None:
    seen = f.record.algae
    return said(None if seen is None else seen == "none", f"algae: {seen}", "none", ("algae",))


def _lids(f: Facts, s: RetentionSchool) -> Seen | None:
    lids = f.record.lids
    return said(None if lids is None else lids == "on", f"lids {lids}", "on", ("lids",))


def _too_soon(f: Facts, s: RetentionSchool) -> Iterator[Seen]:
    for one in _counted(f):
        times = [(w.at, w.row) for w in one.weighed if w.at is not None]
        if one.cell.saturated_at is not None:
            times.insert(0, (one.cell.saturated_at, 0))
        for (a, _), (b, row) in pairwise(times):
            hours = minutes_between(a, b) / 60
            if 0 <= hours < s.weigh_every_h / 2:
                seen = at_least(
                    hours, s.least_between_h, "h", f"{one.name}: weighed {{}} after it was re-seated", digits=2
                )
                assert seen is not None
                yield seen._replace(at=_path(one, f"weighings[{row}].weighed_at"))


def _oven(f: Facts, s: RetentionSchool) -> Iterator[Seen]:
    for one in _counted(f):
        last = one.now
        if last is None or last.water_g is None or not known(one.cell.wet_out_g) or not known(one.cell.dry_g):
            continue
        off = abs(last.water_g - (one.cell.wet_out_g - one.cell.dry_g))
        words = f"{one.name}: last mass and oven {{}} of water apart"
        seen = at_most(off, s.most_oven_g, "g", words, digits=2)
        assert seen is not None
        yield seen._replace(at=_path(one, "wet_out_g"))


def _mid(f: Facts, s: RetentionSchool) -> Iterator[Seen]:
    for one in _counted(f):
        if one.held:
            held = one.held[0].at_mid_height
            found = f"{one.name}: suction {'at mid-height' if held else 'as applied'}"
            yield Seen(held, found, "core's height and the outlet's level known", _path(one, "outlet_below_mm"))


def _bounds(f: Facts, s: RetentionSchool) -> Seen | None:
    if f.fitted is None:
        return None
    at = ", ".join(PARAMETERS[name] for name in f.fitted.at_bound)
    if not f.fitted.came_to_rest:
        return said(False, "the search for the curve did not come to rest", "at rest")
    return said(not at, f"{at or 'no parameter'} at a bound of the fit", "inside their bounds")


def _extrapolated(f: Facts, s: RetentionSchool) -> Seen | None:
    if f.fitted is None:
        return None
    beyond = is_beyond(s.wilting_kpa, f)
    return said(
        not beyond, f"driest point at {plain(f.reached_kpa, 3)} kPa", f"{plain(s.wilting_kpa)} kPa for available water"
    )


RULES: tuple[Judge, ...] = (
    Rule(
        "pressures in one order of size",
        _units,
        source=LABORATORY,
        level="stop",
        do="Look at the gauge and its unit: bar, kPa, hPa, cm and mm of mercury lie ten and more times apart.",
    ),
    Rule(
        "water falls with suction",
        _rises,
        source=PHYSICS,
        do="A leak, or a plate that was not re-seated: weigh again after 2 to 6 h on the plate.",
    ),
    Rule("steps settled", _settled, do="Leave the step out, or report it as not settled: it was still losing."),
    Rule(
        "below the plate's air entry", _entry, source=PHYSICS, do="Air went through the plate: repeat on a finer one."
    ),
    Rule("saturated against porosity", _filled, source=LABORATORY, level="watch", do="Look at tare and soaking."),
    Rule(
        "masses fall",
        _jumps,
        source=LABORATORY,
        level="watch",
        do="Something was added to the cell, or left off before: look for washers, drops, the lid.",
    ),
    Rule("room stays", _warmed, source=LABORATORY, level="watch", do="Keep it within 2 K: suction hangs on it."),
    Rule(
        "loss becomes less",
        _evaporates,
        source=LABORATORY,
        level="watch",
        do="The same each day is no drainage: look at its lid and ring seal.",
        at_once=True,
    ),
    Rule(
        "cells in date",
        _in_date,
        source=LABORATORY,
        level="watch",
        do="Look at plate and seals before the ring goes in: weeks hang on them.",
    ),
    Rule("no algae", _algae, source=LABORATORY, level="watch", do="Dark and salt: say so on the report."),
    Rule("lids on", _lids, source=LABORATORY, level="watch", do="Put them on: what evaporates is not drained."),
    Rule(
        "weighed long after re-seating",
        _too_soon,
        source=LABORATORY,
        level="watch",
        do="Wait 2 to 6 h: soil and plate still exchange water.",
    ),
    Rule(
        "oven agrees", _oven, source=LABORATORY, level="watch", do="Look for soil left on the plate, or a wrong tare."
    ),
    Rule(
        "suction at mid-height",
        _mid,
        source=LABORATORY,
        level="watch",
        do="Measure core and outlet: at 1.5 kPa half a core is a sixth of the suction.",
    ),
    Rule(
        "parameters inside their bounds",
        _bounds,
        source=LABORATORY,
        level="watch",
        do="Fewer parameters, or points at more suctions: a bound is no result.",
    ),
    Rule(
        "weighed dry enough",
        _extrapolated,
        source=LABORATORY,
        level="watch",
        do="Add a dewpoint reading at 1500 kPa: until then available water is an extrapolation.",
    ),
)
