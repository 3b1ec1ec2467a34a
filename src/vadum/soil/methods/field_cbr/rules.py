"""The rules that judge a bearing ratio in place."""

from collections.abc import Iterator

from vadum.soil.contract import compare
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Level
from vadum.soil.contract.rules import LABORATORY, Forecast, Judge, Rule, Seen, at_least, at_most, said
from vadum.soil.methods.field_cbr.facts import Facts
from vadum.soil.methods.field_cbr.reaction import lifted, near_reaction
from vadum.soil.methods.field_cbr.school import SpotSchool
from vadum.soil.shared.bearing.rules import SHARED
from vadum.soil.shared.water_by_tin import balance_in_date, tins_possible, tins_told_apart


def _enough(f: Facts, s: SpotSchool) -> Seen | None:
    wants, gives, lifts = f.plan.wants_kn, f.plan.gives_kn, f.plan.lifts_percent
    if wants is None or gives is None or lifts is None:
        return None
    words = f"wants {{}}; lifts at a ratio of about {lifts:.0f} %"
    axle, begun = f.record.axle_kn, bool(f.pushes[0].points)
    if known(axle) and not compare.at_most(wants, axle) and not begun:
        # Before the start, and beyond the axle's whole load, the vehicle will lift: nothing is to be had.
        limit = f"{plain(axle, 3)} kN: the axle's whole load"
        return at_most(wants, axle, "kN", words, digits=3, limit_words=limit, level="stop")
    limit = f"{plain(gives, 3)} kN: the axle less {plain(s.reaction_margin_percent)} %"
    return at_most(wants, gives, "kN", words, digits=3, limit_words=limit)


def _springs(f: Facts, s: SpotSchool) -> Seen | None:
    springs, stands = f.record.springs, f.record.stands
    if springs is None and stands is None:
        return None
    held = springs != "still bear" and stands != "not yet"
    found = f"suspension {springs or 'not noted'}, stands {stands or 'not noted'}"
    return said(held, found, "raised clear; stands bear")


def _held(f: Facts, s: SpotSchool) -> Iterator[Seen]:
    push, flat = f.pushes[0], f.flat
    if len(push.points) < 4:
        return
    if f.stood == "not to be told" and flat is not None:
        start = f.sound_mm or 0.0
        words = f"force stands at {plain(flat.force_kn, 3)} kN from {plain(start, 3)} mm, axle load not known"
        do = "The vehicle may have been weighed: enter the axle load, or repeat with a gauge on the vehicle."
        limit = f"no standstill over {plain(s.plateau_mm)} mm, or the axle's load known"
        yield Seen(False, words, limit, ("axle_kn",), do, "watch", just_now=not push.over)
        return
    lifts = flat is not None and lifted(flat, f.plan.gives_kn, s)
    words = "the force rises"
    if flat:
        words = f"force stands at {plain(flat.force_kn, 3)} kN from reading {flat.row + 1}"
        words += "" if flat.vehicle_mm is None else f", vehicle moved {plain(flat.vehicle_mm, 2)} mm"
    noted = f.record.stopped == "reaction lifted"
    if noted and not lifts:
        words = "stopped: the reaction lifted"
    level: Level = "watch" if noted else "redo"
    limit = f"no standstill over {plain(s.plateau_mm)} mm with the vehicle moving"
    do = "" if push.over else "Stop: the vehicle lifts. What was reached before counts, or repeat with more load."
    yield Seen(not lifts and not noted, words, limit, do=do, level=level, just_now=not push.over)


def _about_to_lift(f: Facts, s: SpotSchool) -> str:
    push, gives = f.pushes[0], f.plan.gives_kn
    last = push.points[-1].force_kn if push.points else 0.0
    if push.over or gives is None or not near_reaction(last, gives, s):
        return ""
    return f"{plain(last, 3)} of the axle's {plain(gives, 3)} kN: it is about to lift. Watch the stands."


def _back(f: Facts, s: SpotSchool) -> Seen | None:
    after = f.record.ring_after_div
    if not known(after):
        return None
    held = compare.at_most(abs(after), s.most_ring_back_div)
    return said(held, f"{plain(after)} divisions", f"± {plain(s.most_ring_back_div)} divisions")


RULES: tuple[Judge, ...] = (
    *tins_told_apart("tins", "tin"),
    tins_possible("tins", "tin", affects=("water_content_percent",)),
    Rule(
        "reaction enough",
        _enough,
        at=("axle_kn",),
        source=LABORATORY,
        level="watch",
        do="Take a heavier vehicle or load it; else the curve ends early.",
    ),
    Rule(
        # Springs that still bear feed the plunger as they relax: the force stands without the ground giving it.
        "vehicle on its stands, clear of its springs",
        _springs,
        at=("springs", "stands"),
        source="BS 1377-9",
        do="Raise it until the springs hang free, set it down on rated stands, trolley jack out.",
    ),
    Rule(
        # Ground that sinks with the plunger takes the datum along, and hides penetration.
        "datum legs outside the loaded ground",
        lambda f, s: at_least(f.record.datum_legs_mm, s.least_datum_mm, "mm", limit_words="{}"),
        at=("datum_legs_mm",),
        source=LABORATORY,
        level="watch",
        do="Move the legs out: ground that sinks with the plunger hides penetration.",
    ),
    Rule(
        "reaction held",
        _held,
        at=("stopped",),
        source="BS 1377-9",
        do="The vehicle was weighed, not the ground: report what was reached before, or repeat with more load.",
        at_once=True,
    ),
    Forecast("reaction about to lift", _about_to_lift),
    Rule(
        "ring back at its zero",
        _back,
        at=("ring_after_div",),
        source=LABORATORY,
        level="watch",
        do="The ring was bent or its gauge moved: check it against its calibration before it is used again.",
    ),
    balance_in_date,
    *SHARED,
)
