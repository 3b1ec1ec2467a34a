"""The rules that judge a constant-head well."""

from collections.abc import Iterator

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.rules import LABORATORY, PHYSICS, Judge, Rule, Seen, at_least, at_most, said
from vadum.soil.contract.times import span
from vadum.soil.methods.well_permeameter.facts import Facts
from vadum.soil.methods.well_permeameter.school import WellSchool
from vadum.soil.shared.force_reading import readers_in_date

FINE = ("unstructured fine soil", "compacted clay or liner")
BRUSH = "Brush the wall once or twice, not more: an auger smears it, and the smear is what is measured then."


def _steady(f: Facts, s: WellSchool) -> Iterator[Seen]:
    for one in f.heads:
        if one.head.excluded_because or not one.over or not one.rates:
            continue
        limit = f"the last {s.steady_many} rates within {plain(s.steady_percent)} %"
        if one.steady is None:
            yield Seen(False, f"{one.words}: {len(one.rates)} rates", limit, (f"heads[{one.row}].readings",))
            continue
        worst = max(one.steady.farthest_percent, one.steady.trend_percent)
        words = f"{one.words}: the last {s.steady_many} rates within {{}}"
        seen = at_most(worst, s.steady_percent, "%", words, digits=2, at=(f"heads[{one.row}].readings",))
        assert seen is not None
        yield seen


def _forward(f: Facts, s: WellSchool) -> Iterator[Seen]:
    for one in f.heads:
        back = [r for r in one.rates if r.mm_min < 0]
        if back:
            at = (f"heads[{one.row}].readings[{back[0].row}].level_mm",)
            yield Seen(False, f"{one.words}: the level came back by {plain(-back[0].mm_min, 2)} mm/min", "one way", at)
        elif one.rates:
            yield Seen(True, f"{one.words}: the level falls all through", "one way")


def _drifted(f: Facts, s: WellSchool) -> Iterator[Seen]:
    for one in f.heads:
        after, head = one.head.head_after_mm, one.head.head_mm
        if known(after) and known(head):
            seen = at_most(
                abs(after - head),
                s.most_drift_mm,
                "mm",
                f"{one.words} moved by {{}}",
                at=(f"heads[{one.row}].head_after_mm",),
            )
            assert seen is not None
            yield seen


def _shallow(f: Facts, s: WellSchool) -> Iterator[Seen]:
    for one in f.heads:
        if one.head_cm is None:
            continue
        at = (f"heads[{one.row}].head_mm",)
        least = max(s.least_head_mm, 10 * f.radius_cm)
        seen = at_least(
            10 * one.head_cm,
            least,
            "mm",
            f"head {one.row + 1} of {{}}",
            at=at,
            limit_words="{}: 50 mm, and the hole's radius",
        )
        assert seen is not None
        yield seen


def _wall(f: Facts, s: WellSchool) -> Seen | None:
    if f.record.ground not in FINE:
        return None
    wall = f.record.wall
    return said(None if wall is None and not f.heads else wall == "brushed", wall or "not said", "brushed in fine soil")


def _radius(f: Facts, s: WellSchool) -> Seen | None:
    if not f.heads:
        return None
    held = known(f.record.hole_radius_mm)
    return said(held, f"{'' if held else '# '}{10 * f.radius_cm:.0f} mm", "measured, or of a sizing auger")


def _class_said(f: Facts, s: WellSchool) -> Seen | None:
    if f.kfs_cm_s is None or f.two is not None:
        return None
    return said(f.alpha_said, f.record.ground or f"# α* {f.alpha:g} per cm taken", "texture and structure said")


def _near(f: Facts, s: WellSchool) -> Iterator[Seen]:
    deepest = max((h.head_cm or 0.0 for h in f.heads), default=0.0) / 100
    for value, words, field in (
        (f.record.water_below_m, "ground water", "water_below_m"),
        (f.record.layer_below_m, "an impeding layer", "layer_below_m"),
    ):
        if known(value) and deepest:
            seen = at_least(
                value,
                2 * deepest,
                "m",
                f"{words} {{}} below the hole",
                at=(field,),
                limit_words="{}: twice the depth of water",
            )
            assert seen is not None
            yield seen


def _air(f: Facts, s: WellSchool) -> Seen | None:
    seen = f.record.bubbling
    return said(None if seen is None else seen == "regular", f"bubbles {seen}", "regular")


def _plumb(f: Facts, s: WellSchool) -> Seen | None:
    seen = f.record.plumb
    return said(None if seen is None else seen == "yes", f"plumb: {seen}", "stands plumb")


def _warmed(f: Facts, s: WellSchool) -> Iterator[Seen]:
    for one in f.heads:
        read = [float(r.temperature_c) for r in one.head.readings if known(r.temperature_c)]
        if len(read) > 1:
            words = f"{one.words}: the water changed by {{}}"
            seen = at_most(max(read) - min(read), s.most_warming_c, "°C", words, digits=2)
            assert seen is not None
            yield seen


def _warm_said(f: Facts, s: WellSchool) -> Seen | None:
    if f.kfs_cm_s is None:
        return None
    return said(
        f.temperature_c is not None, "read" if f.temperature_c is not None else "not read", "read with the level"
    )


def _fine_enough(f: Facts, s: WellSchool) -> Iterator[Seen]:
    step = f.record.level_reads_to_mm
    for one in f.heads:
        if not known(step) or one.steady is None or len(one.rates) < 2 or not one.over:
            continue
        every = one.rates[-1].minutes - one.rates[-2].minutes
        seen = at_least(
            one.steady.value * every,
            float(step),
            "mm",
            f"{one.words}: {{}} from reading to reading",
            digits=2,
            limit_words="{}: what the level reads to",
        )
        assert seen is not None
        yield seen


def _long(f: Facts, s: WellSchool) -> Iterator[Seen]:
    if f.record.ground != "compacted clay or liner":
        return
    for one in f.heads:
        if one.over and one.rates:
            held = one.minutes >= s.least_clay_min
            yield Seen(held, f"{one.words}: {span(one.minutes)} of record", f"{span(s.least_clay_min)} in clay")


def _usable(f: Facts, s: WellSchool) -> Seen | None:
    if sum(h.counts for h in f.heads) < 2:
        return None
    return said(
        not f.two_refused,
        f.two_refused or "both heads agree on a soil",
        "conductivity and flux potential above nothing, alpha* 0.01 to 1",
    )


def _area(f: Facts, s: WellSchool) -> Seen | None:
    if not any(h.rates for h in f.heads):
        return None
    held = all(h.flow_cm3_s is not None for h in f.heads if h.steady is not None and h.steady.value > 0)
    return said(held, "of the register" if held else "area of a reservoir not known", "known of each that was used")


RULES: tuple[Judge, ...] = (
    Rule(
        "level goes one way",
        _forward,
        source=PHYSICS,
        do="Strike the slip; air that was drawn in, or a lift of the tube, starts the head anew.",
    ),
    Rule("fall is steady", _steady, do="Read on until it is steady; a rate that still falls with log time overstates."),
    Rule("head stays", _drifted, source=LABORATORY, do="Repeat: the tube slipped, or the reservoir could not follow."),
    Rule(
        "head deep enough",
        _shallow,
        source=LABORATORY,
        level="watch",
        do="Take a deeper head: with little water the bottom alone decides.",
    ),
    Rule("wall brushed", _wall, at=("wall",), source=LABORATORY, level="watch", do=BRUSH),
    Rule(
        "radius of the hole",
        _radius,
        at=("hole_radius_mm",),
        source=LABORATORY,
        level="watch",
        do="Measure it, or name the sizing auger: it counts twice.",
    ),
    Rule(
        "class of the soil",
        _class_said,
        at=("ground",),
        source=LABORATORY,
        level="watch",
        do="Say texture and structure: one class changes the conductivity by about two.",
    ),
    Rule(
        "reservoir's area",
        _area,
        at=("both_area_cm2",),
        level="watch",
        do="Enter the area that the register has: none is built in.",
    ),
    Rule(
        "reservoir in date",
        lambda f, s: readers_in_date(f.record, (("reservoir", "reservoir"),)),
        source=LABORATORY,
        level="watch",
        do="Measure its areas again before the start: they are in every figure.",
    ),
    Rule(
        "ground water and layers far below",
        _near,
        source=LABORATORY,
        level="watch",
        do="Bore a shallower well, or report it as of this depth only: what lies so near below holds the water up.",
    ),
    Rule(
        "air rises regularly",
        _air,
        at=("bubbling",),
        source=LABORATORY,
        level="watch",
        do="Look at the seal of the reservoir: air that comes in elsewhere falsifies its fall.",
    ),
    Rule(
        "stands plumb",
        _plumb,
        at=("plumb",),
        source=LABORATORY,
        level="watch",
        do="Set it plumb; the level reads askew.",
    ),
    Rule(
        "temperature of the reservoir",
        _warmed,
        source=LABORATORY,
        level="watch",
        do="Shade it: a sealed reservoir is a thermometer.",
    ),
    Rule(
        "temperature read",
        _warm_said,
        source=LABORATORY,
        level="watch",
        do="Read it next time: ten degrees change the conductivity by a third.",
    ),
    Rule(
        "fall above the reservoir's resolution",
        _fine_enough,
        source=LABORATORY,
        level="watch",
        do="Use the inner reservoir, or read at longer intervals.",
    ),
    Rule(
        "long enough in clay", _long, source=LABORATORY, level="watch", do="Keep it running: clay takes hours to wet."
    ),
    Rule(
        "two heads agree",
        _usable,
        source=LABORATORY,
        level="watch",
        do="The mean of the single heads stands instead; look for layers or a smeared wall.",
    ),
)
