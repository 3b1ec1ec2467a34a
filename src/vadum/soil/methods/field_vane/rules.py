"""The rules that judge a profile of vane tests, depth by depth."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from itertools import pairwise

from vadum.soil.contract import compare
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Level, Verdict
from vadum.soil.contract.rules import LABORATORY, PHYSICS, STANDARD, Judge, Rule, Seen, at_least, at_most, said
from vadum.soil.contract.times import minutes_between
from vadum.soil.methods.field_vane.facts import COARSE, Facts, Tested
from vadum.soil.methods.field_vane.school import VaneSchool
from vadum.soil.methods.field_vane.vane import suffix_of
from vadum.soil.shared.sensitivity import class_words

PEAK = ("strength_kpa", "sensitivity_ratio", "sensitivity_class", "design_kpa", "mass_kpa")
REMOULDED = ("remoulded_kpa", "sensitivity_ratio", "sensitivity_class")


def keys_of(tested: Tested, names: tuple[str, ...]) -> tuple[str, ...]:
    """The keys of a depth's values."""
    return tuple(f"{tested.prefix}{name}" for name in names)


def _at(f: Facts, t: Tested, what: str) -> tuple[str, ...]:
    end = "_" + suffix_of(f.record) if what in ("peak", "remoulded", "friction") else ""
    return (f"depths[{t.row}].{what}{end}",)


@dataclass(frozen=True)
class EachDepth:
    """A rule that is applied to each depth by itself, and touches the values of that depth alone."""

    name: str
    sees: Callable[[Facts, VaneSchool, Tested], Seen | None] = field(repr=False)
    touches: tuple[str, ...] = ()
    source: str = STANDARD
    level: Level = "watch"
    do: str = ""

    def __call__(self, facts: Facts, school: VaneSchool) -> Iterator[Verdict]:
        """A verdict for each depth that it sees; a depth that was left out is passed over."""
        for t in facts.tested:
            seen = None if facts.record.depths[t.row].excluded_because else self.sees(facts, school, t)
            if seen is None:
                continue
            keys = keys_of(t, self.touches)
            if t.counts and "strength_kpa" in self.touches:
                keys += ("shear_strength_kpa",)
            yield from Rule(self.name, lambda f, s, seen=seen: seen, (), self.source, self.level, self.do, keys)(  # type: ignore[misc]
                facts, school
            )


def _net(f: Facts, s: VaneSchool, t: Tested) -> Seen | None:
    if t.peak is None:
        return None
    net = t.peak.n_m - (t.friction.n_m if t.friction else 0.0)
    words = f"{t.words}: {plain(t.peak.n_m)} N·m read"
    words += f", {plain(t.friction.n_m)} N·m of it the rod" if t.friction else ""
    return said(net > 0, words, "more than the rod takes", _at(f, t, "peak"))


def _net_remoulded(f: Facts, s: VaneSchool, t: Tested) -> Seen | None:
    if t.remoulded is None:
        return None
    net = t.remoulded.n_m - (t.friction.n_m if t.friction else 0.0)
    words = f"{t.words}: {plain(t.remoulded.n_m)} N·m remoulded"
    words += f", {plain(t.friction.n_m)} N·m of it the rod" if t.friction else ""
    return said(net > 0, words, "more than the rod takes", _at(f, t, "remoulded"))


def _clay(f: Facts, s: VaneSchool, t: Tested) -> Seen | None:
    if t.noted not in COARSE:
        return None
    return said(False, f"{t.words}: {t.noted}", "clay", (f"depths[{t.row}].noted",))


def _quick_turn(f: Facts, s: VaneSchool, t: Tested) -> Seen | None:
    minutes = f.record.depths[t.row].peak_min
    if not known(minutes):
        return None
    slow = not compare.at_most(minutes, s.most_peak_min)
    quick = not compare.at_least(minutes, s.least_peak_min)
    do = "Turned too fast: the strength reads high. Test the next depth slowly." if quick else "Slow: say so."
    limit = f"{plain(s.least_peak_min)} to {plain(s.most_peak_min)} min"
    found = f"{t.words}: greatest after {plain(minutes, 3)} min"
    return said(not (slow or quick), found, limit, _at(f, t, "peak_min"), do, "redo" if quick else "watch")


def _below_peak(f: Facts, s: VaneSchool, t: Tested) -> Seen | None:
    if t.peak is None or t.remoulded is None:
        return None
    words = f"{t.words}: {plain(t.remoulded.n_m)} N·m remoulded, {plain(t.peak.n_m)} N·m before"
    return said(compare.at_most(t.remoulded.n_m, t.peak.n_m), words, "remoulded <= peak", _at(f, t, "remoulded"))


def _turned(f: Facts, s: VaneSchool, t: Tested) -> Seen | None:
    turns = f.record.depths[t.row].turns_count
    if turns is None or t.remoulded is None:
        return None
    return at_least(float(turns), float(s.turns_count), "turns", f"{t.words}: {{}}", at=_at(f, t, "turns_count"))


def _in_range(f: Facts, s: VaneSchool, t: Tested) -> Seen | None:
    if t.peak is None:
        return None
    most = f.record.torque_most_n_m
    if known(most):
        return at_most(t.peak.n_m, most, "N·m", f"{t.words}: {{}}", at=_at(f, t, "peak"))
    return at_most(t.strength_kpa, s.most_strength_kpa, "kPa", f"{t.words}: {{}}", digits=3, at=_at(f, t, "peak"))


def _valid(f: Facts, s: VaneSchool, t: Tested) -> Seen | None:
    if not t.counts or not known(f.record.torque_most_n_m):
        return None
    return at_most(t.strength_kpa, s.most_strength_kpa, "kPa", f"{t.words}: {{}}", digits=3, at=_at(f, t, "peak"))


def _friction(f: Facts, s: VaneSchool, t: Tested) -> Seen | None:
    if t.peak is None:
        return None
    return said(
        t.friction is not None,
        f"{t.words}: {'measured' if t.friction else 'not measured'}",
        "measured",
        _at(f, t, "friction"),
    )


def _waited(f: Facts, s: VaneSchool, t: Tested) -> Seen | None:
    row = f.record.depths[t.row]
    wait = row.wait_min
    if wait is None and row.pushed_at and row.peak_at and known(row.peak_min):
        wait = minutes_between(row.pushed_at, row.peak_at) - row.peak_min
    if not known(wait) or wait < 0:
        return None
    return at_most(
        wait, s.most_wait_min, "min", f"{t.words}: {{}} after it was pushed", digits=3, at=_at(f, t, "wait_min")
    )


def _below_hole(f: Facts, s: VaneSchool, t: Tested) -> Seen | None:
    bottom, hole = f.record.depths[t.row].hole_bottom_m, f.record.hole_diameter_mm
    if not (known(bottom) and known(hole)) or t.middle_m is None:
        return None
    least = s.least_hole_diameters_ratio * hole / 1000
    limit = f"{{}}: {plain(s.least_hole_diameters_ratio)} hole diameters"
    words = f"{t.words}: {{}} below the hole"
    return at_least(t.middle_m - bottom, least, "m", words, digits=3, limit_words=limit, at=_at(f, t, "hole_bottom_m"))


def _stress(f: Facts, s: VaneSchool, t: Tested) -> Seen | None:
    if not t.counts or t.stress_ratio is None:
        return None
    held = compare.within(t.stress_ratio, s.least_stress_ratio, s.most_stress_ratio)
    words = f"{t.words}: {plain(t.stress_ratio, 2)} of the effective stress"
    return said(held, words, f"{plain(s.least_stress_ratio)} to {plain(s.most_stress_ratio)}", _at(f, t, "peak"))


def _stone(f: Facts, s: VaneSchool, t: Tested) -> Seen | None:
    row = (f"depths[{t.row}].noted",)
    if t.noted == "stone":
        do = "A high peak may be the stone's: compare it with the depths beside it."
        return said(False, f"{t.words}: stone", "clay without stones", row, do)
    if t.noted == "fissures":
        do = (
            "The vane shears the clay between its fissures: a third of it may be all that the mass has "
            "(EN 1997-2, annex on the vane); another test, a plate, should give the strength."
        )
        return said(False, f"{t.words}: fissured", "clay without fissures", row, do)
    if t.noted == "roots":
        return said(False, f"{t.words}: roots", "clay without roots", row, "Roots hold: it reads high.")
    return None  # sand and gravel have a rule of their own


def _quick(f: Facts, s: VaneSchool, t: Tested) -> Seen | None:
    if t.sensitivity is None or not t.counts or t.remoulded_kpa is None:
        return None
    words = {scale: class_words(t.sensitivity, t.remoulded_kpa, scale) for scale in ("older", "ISO 14688-2")}
    quick = [word for word in words.values() if word.startswith("quick")]
    found = f"{t.words}: sensitivity {plain(t.sensitivity, 2)}{f', {quick[-1]}' if quick else ''}"
    return said(not quick, found, "not quick", _at(f, t, "remoulded"))


def _jumps(f: Facts, s: VaneSchool) -> Iterator[Seen]:
    """A depth against its neighbour in the profile."""
    for a, b in pairwise(f.counting):
        high, low = max(a.strength_kpa or 0, b.strength_kpa or 0), min(a.strength_kpa or 0, b.strength_kpa or 0)
        if low > 0 and not compare.at_most(high / low, s.most_jump_ratio):
            words = f"{a.words} {plain(a.strength_kpa or 0, 3)} kPa, {b.words} {plain(b.strength_kpa or 0, 3)} kPa"
            upper = a if (a.strength_kpa or 0) > (b.strength_kpa or 0) else b
            yield Seen(False, words, f"within {plain(s.most_jump_ratio)} times", _at(f, upper, "peak"))


def _spacing(f: Facts, s: VaneSchool) -> Iterator[Seen]:
    height = f.record.vane_height_mm
    least = max(s.least_spacing_m, s.least_spacing_ratio * height / 1000) if known(height) else s.least_spacing_m
    if f.record.placed == "pushed" and known(height):
        least = min(s.least_spacing_m, s.least_spacing_ratio * height / 1000)
    placed = sorted((t for t in f.tested if t.depth_m is not None), key=lambda t: t.depth_m or 0.0)
    for a, b in pairwise(placed):
        apart = (b.depth_m or 0.0) - (a.depth_m or 0.0)
        seen = at_least(apart, least, "m", f"{a.words} and {b.words}: {{}} apart", digits=3, at=_at(f, b, "depth_m"))
        if seen and not seen.held:
            yield seen


def _shape(f: Facts, s: VaneSchool) -> Seen | None:
    d, h = f.record.vane_diameter_mm, f.record.vane_height_mm
    if not (known(d) and known(h)) or d <= 0:
        return None
    held = compare.within(h / d, 0.95 * s.vane_shape_ratio, 1.05 * s.vane_shape_ratio)
    return said(held, f"{plain(h / d, 3)}", f"{plain(s.vane_shape_ratio)}")


def _in_date(f: Facts, s: VaneSchool) -> Seen | None:
    state, due = f.record.vane_in_date, f.record.vane_due_on
    if state is None:
        return None
    return said(state == "yes", f"set {f.record.vane or ''}".strip(), f"due {due:%d %b %Y}" if due else "calibrated")


def _services(f: Facts, s: VaneSchool) -> Seen | None:
    located = f.record.services_located
    return (
        None if located is None else said(located == "yes", f"located: {located}", "located before anything is pushed")
    )


RULES: tuple[Judge, ...] = (
    Rule(
        "buried services located",
        _services,
        at=("services_located",),
        source="site rules",
        level="watch",
        do="Stop and have them located before the rod goes in.",
        at_once=True,
    ),
    EachDepth(
        "torque above the rod's friction",
        _net,
        PEAK,
        source=PHYSICS,
        level="stop",
        do="The rod takes more than was read: read both again, or leave the depth out.",
    ),
    EachDepth(
        "remoulded torque above the rod's friction",
        _net_remoulded,
        REMOULDED,
        source=PHYSICS,
        level="stop",
        do="The rod takes more than was read: read both again.",
    ),
    EachDepth(
        "clay at the depth",
        _clay,
        (*PEAK, *REMOULDED),
        level="stop",
        do="No strength is reported in sand or gravel: a hint of its density at most.",
    ),
    EachDepth("time to the greatest torque", _quick_turn, PEAK, level="redo"),
    EachDepth(
        "remoulded below undisturbed",
        _below_peak,
        (*PEAK, *REMOULDED),
        source=PHYSICS,
        level="redo",
        do="Look which of the two is wrong; strike it, or test another depth.",
    ),
    EachDepth(
        "turned often enough before the second reading",
        _turned,
        REMOULDED,
        level="redo",
        do="Turn on, without pushing, and read again.",
    ),
    EachDepth(
        "torque within the set's range", _in_range, source="the set's calibration", do="Change to the smaller vane."
    ),
    EachDepth(
        "strength that a vane can test",
        _valid,
        do="Firmer than the vane is valid for: another test should give the strength.",
    ),
    EachDepth("rod friction measured", _friction, do="A slip coupling, or a blank rod at the same depth, tells it."),
    EachDepth(
        "begun soon after it was pushed", _waited, do="The clay sets up round the blades: say so beside the strength."
    ),
    EachDepth(
        "deep enough below the hole",
        _below_hole,
        do="The hole's bottom is disturbed: push deeper before the next test.",
    ),
    EachDepth(
        "strength against the stress in the ground",
        _stress,
        source=LABORATORY,
        do="Below: disturbed, or a wrong level; above: a crust, or a stone.",
    ),
    EachDepth("nothing but clay noted", _stone),
    EachDepth(
        "not a quick clay",
        _quick,
        source="ISO 14688-2 and the older scale",
        do="Tell the engineer before anything is dug or driven.",
    ),
    Rule(
        "strength like the depths beside it",
        _jumps,
        source=LABORATORY,
        level="watch",
        do="A stone, a seam, or a slip: look at the remarks, test between.",
    ),
    Rule(
        "depths far enough apart",
        _spacing,
        level="watch",
        do="The upper test disturbed the lower: space them further.",
    ),
    Rule(
        "vane twice as high as wide",
        _shape,
        at=("vane_height_mm",),
        level="watch",
        do="Say the vane's shape on the sheet.",
    ),
    Rule(
        # Thick blades push the clay aside before it is sheared.
        "area ratio of the blades",
        lambda f, s: at_most(f.record.area_ratio_percent, s.most_area_ratio_percent, "%"),
        at=("area_ratio_percent",),
        level="watch",
        do="Thick blades disturb the clay: say so on the sheet.",
    ),
    Rule(
        "set's calibration in date",
        _in_date,
        at=("vane",),
        source=LABORATORY,
        level="watch",
        do="Have it calibrated; say on the sheet that it had lapsed.",
    ),
)
