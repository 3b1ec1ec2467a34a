"""The rules that judge a bearing capacity by plate."""

from collections.abc import Iterator
from itertools import pairwise

from vadum.soil.contract import compare
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.rules import LABORATORY, PHYSICS, Judge, Rule, Seen, at_least, at_most, said
from vadum.soil.methods.plate_bearing.facts import Facts
from vadum.soil.methods.plate_bearing.record import FOOTING
from vadum.soil.methods.plate_bearing.reduce import footing_m, is_sand
from vadum.soil.methods.plate_bearing.school import BearingSchool
from vadum.soil.shared.plate.rules import RULES as SHARED
from vadum.soil.shared.plate.rules import enough_steps, even_steps, runs_backwards

CAPILLARY = (
    "Pump it down or flood it, and say which; in a fine sand the water that stands above it makes it look strong."
)


def _mixed_up(f: Facts, s: BearingSchool) -> Seen | None:
    """The footing's width taken for the pit's: a common mix-up that makes the footing too weak or too strong."""
    footing, pit = footing_m(f.record), f.record.pit_width_m
    if footing is None or not known(pit):
        return None
    same = compare.alike(footing, pit) and not f.record.footing_because
    why = f": {f.record.footing_because}" if f.record.footing_because else ""
    return said(
        not same, f"footing {plain(footing)} m, pit {plain(pit)} m{why}", "the footing's own width, not the pit's"
    )


def _footing_said(f: Facts, s: BearingSchool) -> Seen | None:
    if not f.ended or footing_m(f.record) is None:
        return None
    sand = is_sand(f.record)
    return said(sand is not None, "not said" if sand is None else "sand" if sand else "clay", "clay or sand, said")


def _reached(f: Facts, s: BearingSchool) -> Seen | None:
    if not f.ended or f.ultimate is None:
        return None
    held = f.ultimate.kpa is not None
    most = f.kpa[-1] if f.kpa else 0.0
    words = (
        f"{f.ultimate.kpa:.0f} kPa by {f.ultimate.rule}"
        if f.ultimate.kpa is not None
        else f"greater than {most:.0f} kPa"
    )
    return said(held, words, "reached")


def _by_hand(f: Facts, s: BearingSchool) -> Seen | None:
    if not known(f.record.ultimate_hand_kpa):
        return None
    own = next((one.kpa for one in f.ultimates if one.rule == s.ultimate_by), None)
    words = f"{plain(f.record.ultimate_hand_kpa)} kPa by hand" + ("" if own is None else f", {own:.0f} by the rule")
    return said(bool(f.record.ultimate_because), words, "a reason beside a construction of one's own")


def _eccentric(f: Facts, s: BearingSchool) -> Seen | None:
    seen = f.record.eccentric
    return said(None if seen is None else seen == "no", f"eccentric: {seen}", "centred")


def _warmed(f: Facts, s: BearingSchool) -> Seen | None:
    a, b = f.record.datum_before_c, f.record.datum_after_c
    if not known(a) or not known(b):
        return None
    return at_most(abs(b - a), s.most_warming_c, "°C", "datum changed by {}")


def _water(f: Facts, s: BearingSchool) -> Seen | None:
    deep = f.record.water_depth_m
    if not known(deep):
        return None
    near = deep < f.plate_m
    done = f.record.water_done
    held = not near or done in ("pumped down", "flooded")
    words = f"water {plain(deep)} m below the plate" + (f", {done}" if done else "")
    return said(held, words, f"deeper than one plate width, {plain(f.plate_m)} m, or said what was done")


def _wide(f: Facts, s: BearingSchool) -> Iterator[Seen]:
    if known(f.record.plate_width_mm):
        one = at_least(f.plate_m, s.least_width_m, "m", "plate of {}", at=("plate_width_mm",))
        assert one is not None
        yield one
    footing = footing_m(f.record)
    if footing is not None:
        one = at_most(
            footing / f.plate_m,
            s.most_widths_ratio,
            "",
            "footing {} plate widths wide",
            digits=3,
            at=("footing_width_m",),
        )
        assert one is not None
        yield one


def _deep(f: Facts, s: BearingSchool) -> Seen | None:
    footing, layer = footing_m(f.record), f.record.layer_below_m
    if footing is None or not known(layer):
        return None
    return at_least(
        layer, 2 * footing, "m", "this layer reaches {} below the footing", limit_words="{}: two footing widths"
    )


def _steps_small(f: Facts, s: BearingSchool) -> Seen | None:
    first = [one.kpa for one in f.steps if one.cycle == "first" and one.kpa is not None]
    if len(first) < 2:
        return None
    expected = f.record.expected_ultimate_kpa
    most = min(s.most_step_kpa, expected / s.steps_to_ultimate_ratio) if known(expected) else s.most_step_kpa
    greatest = max(b - a for a, b in pairwise([0.0, *first]))
    return at_most(greatest / s.beyond_ratio, most, "kPa", "steps up to {}", digits=3)


RULES: tuple[Judge, ...] = (
    *SHARED,
    Rule(
        "footing's own width",
        _mixed_up,
        at=("footing_width_m",),
        source=LABORATORY,
        affects=FOOTING,
        do="Enter the width of the footing to be built; where it is as wide as the pit, say why.",
    ),
    Rule(
        "ground behaves as said",
        _footing_said,
        at=("behaves_as",),
        source=LABORATORY,
        level="watch",
        do="Say whether it behaves as a clay or as a sand: the footing follows from it.",
    ),
    Rule(
        "steps enough",
        lambda f, s: enough_steps(f, s, f.ended),
        level="watch",
        do="Take smaller steps from here on: few points draw no knee.",
    ),
    Rule(
        "steps small enough", _steps_small, level="watch", do="Take smaller steps: the knee lies between two of them."
    ),
    Rule(
        "steps even", even_steps, source=LABORATORY, level="watch", do="Space the steps that are still to come evenly."
    ),
    Rule(
        "settlement runs forward",
        runs_backwards,
        source=PHYSICS,
        do="Look at the gauges and at the slip of the reading; repeat beside it where it stands.",
    ),
    Rule(
        "ultimate reached",
        _reached,
        level="watch",
        do="Report it as greater than the last load, or load on as far as the reaction holds.",
    ),
    Rule(
        "ultimate by hand has a reason",
        _by_hand,
        at=("ultimate_because",),
        source=LABORATORY,
        level="watch",
        do="Say why the construction was drawn otherwise than by the rule.",
    ),
    Rule(
        "load centred",
        _eccentric,
        at=("eccentric",),
        source=LABORATORY,
        level="watch",
        do="Centre the jack: an eccentric plate gives way at its edge first.",
    ),
    Rule(
        "datum's temperature",
        _warmed,
        at=("datum_after_c",),
        source=LABORATORY,
        level="watch",
        do="Shade the datum: steel in the sun grows by more than the plate settles.",
    ),
    Rule("ground water", _water, at=("water_depth_m",), source=LABORATORY, level="watch", do=CAPILLARY),
    Rule(
        "widths",
        _wide,
        source=LABORATORY,
        level="watch",
        do="Test a second, wider plate or lean on a boring: a wide footing feels ground that was not tested.",
    ),
    Rule(
        "layer deep enough",
        _deep,
        at=("layer_below_m",),
        source=LABORATORY,
        level="watch",
        do="Ask what lies below: the footing feels two of its widths, the plate did not.",
    ),
)
