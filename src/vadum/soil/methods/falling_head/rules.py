"""The rules that judge falling-head cylinders."""

import math
from collections.abc import Iterator
from itertools import pairwise

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.rules import LABORATORY, PHYSICS, Judge, Rule, Seen, at_least, at_most, said
from vadum.soil.contract.times import span
from vadum.soil.methods.falling_head.facts import Facts, One
from vadum.soil.methods.falling_head.school import InfiltrationSchool
from vadum.soil.shared.conductivity import MM_H
from vadum.soil.shared.force_reading import readers_in_date


def _path(one: One, field: str) -> tuple[str, ...]:
    return (f"cylinders[{one.row}].{field}",)


def _counted(f: Facts) -> Iterator[One]:
    return (one for one in f.ones if one.counts)


def _wetter(f: Facts, s: InfiltrationSchool) -> Iterator[Seen]:
    for one in _counted(f):
        if one.gain is None or not one.gain.after_said:
            continue
        after, before = 100 * one.gain.after, 100 * one.gain.before
        field = "after_index" if known(one.standing.after_index) else "after_percent"
        held = after >= before - 1e-9
        yield Seen(
            held,
            f"{one.name}: {plain(before, 3)} % of the volume before, {plain(after, 3)} % after",
            "wetter after than before",
            _path(one, field),
        )


def _dry_enough(f: Facts, s: InfiltrationSchool) -> Iterator[Seen]:
    for one in _counted(f):
        if one.gain is None or one.gain.value < 0:
            continue
        held = one.gain.value > s.least_gain + 1e-12
        words = f"{one.name}: the ground took up {plain(one.gain.value, 2)} of its volume"
        field = "before_index" if known(one.standing.before_index) else "before_percent"
        yield Seen(
            held, words, f"above {plain(s.least_gain)}", _path(one, field), value=None, limit_value=None, upper=False
        )


def _many(f: Facts, s: InfiltrationSchool) -> Iterator[Seen]:
    for one in _counted(f):
        if one.over and one.points:
            useful = sum(10 * p.level_cm > s.empty_mm for p in one.points)
            seen = at_least(float(useful), float(s.least_points), "", f"{one.name}: {{}} useful levels")
            assert seen is not None
            yield seen._replace(at=_path(one, "readings"))


def _long(f: Facts, s: InfiltrationSchool) -> Iterator[Seen]:
    for one in _counted(f):
        if one.over and one.is_empty and len(one.points) > 1:
            lasted = one.points[-1].seconds - one.points[0].seconds
            seen = at_least(lasted, s.least_duration_s, "s", f"{one.name}: empty after {{}}")
            assert seen is not None
            yield seen


def _forward(f: Facts, s: InfiltrationSchool) -> Iterator[Seen]:
    for one in _counted(f):
        if len(one.points) < 2:
            continue
        rise, row = max((10 * (b.level_cm - a.level_cm), b.row) for a, b in pairwise(one.points))
        words = f"{one.name}: the level rises by {{}}" if rise > 0 else f"{one.name}: the level falls all through"
        seen = at_most(max(rise, 0.0), s.most_rise_mm, "mm", words, digits=3)
        assert seen is not None
        yield seen._replace(at=_path(one, f"readings[{row}].level_mm"))


def _inserted(f: Facts, s: InfiltrationSchool) -> Iterator[Seen]:
    for one in _counted(f):
        seen = at_least(one.standing.insertion_mm, s.least_insertion_mm, "mm", f"{one.name}: driven {{}} deep")
        if seen is not None:
            yield seen._replace(at=_path(one, "insertion_mm"))


def steps_of(one: One) -> tuple[float, int]:
    """The greatest fall between two readings beyond what its neighbours' rates tell, mm, and the row behind it."""
    worst = (0.0, 0)
    points = one.points
    for i in range(1, len(points) - 1):
        a, b, c = points[i - 1], points[i], points[i + 1]
        if b.seconds <= a.seconds or c.seconds <= b.seconds:
            continue
        rates = [(b.level_cm - c.level_cm) / (c.seconds - b.seconds)]
        if i > 1 and a.seconds > points[i - 2].seconds:
            z = points[i - 2]
            rates.append((z.level_cm - a.level_cm) / (a.seconds - z.seconds))
        told = max(rates) * (b.seconds - a.seconds)
        beyond = 10 * ((a.level_cm - b.level_cm) - told)
        if len(rates) > 1 and beyond > worst[0]:
            worst = (beyond, b.row)
    return worst


def _moved(f: Facts, s: InfiltrationSchool) -> Iterator[Seen]:
    for one in _counted(f):
        if len(one.points) < 4:
            continue
        step, row = steps_of(one)
        words = f"{one.name}: a step of {{}} in the level" if step > 0.1 else f"{one.name}: no step in the level"
        seen = at_most(step, s.most_step_mm, "mm", words, digits=3)
        assert seen is not None
        yield seen._replace(at=_path(one, f"readings[{row}].level_mm"))


def _sealed(f: Facts, s: InfiltrationSchool) -> Iterator[Seen]:
    for one in _counted(f):
        seal = one.standing.seal
        if seal is None:
            continue
        level = "redo" if seal == "loosened" else "watch"
        do = (
            "Set another cylinder beside it: a loosened seal lets water past."
            if seal == "loosened"
            else "Press earth round its outside; water that comes up there was not infiltrated below."
        )
        yield Seen(seal == "tight", f"{one.name}: seal {seal}", "tight", _path(one, "seal"), do, level)  # type: ignore[arg-type]


def _frozen(f: Facts, s: InfiltrationSchool) -> Seen | None:
    frozen = f.record.frozen
    return said(None if frozen is None else frozen == "no", f"ground frozen: {frozen}", "not frozen", ("frozen",))


def _leak(f: Facts, s: InfiltrationSchool) -> Iterator[Seen]:
    for one in _counted(f):
        if one.found is None or one.found.excess is None:
            continue
        words = f"{one.name}: at first {{}} times as fast as the rest tells"
        seen = at_most(max(one.found.excess, 0.0), s.most_excess_ratio, "", words, digits=3)
        assert seen is not None
        yield seen._replace(at=_path(one, "readings"))


def _still(f: Facts, s: InfiltrationSchool) -> Iterator[Seen]:
    for one in _counted(f):
        if len(one.points) < s.most_still:
            continue
        run = longest = 1
        for a, b in pairwise(one.points):
            run = run + 1 if a.level_cm == b.level_cm else 1
            longest = max(longest, run)
        falls = 10 * (one.points[0].level_cm - one.points[-1].level_cm)
        alike = math.ceil(len(one.points) / max(falls, 1.0))  # a slow soil read often stands for several readings
        most = max(s.most_still, 3 * alike)
        words = f"{one.name}: {longest} levels in a row alike"
        yield Seen(longest <= most, words, f"at most {most}: else the sensor hangs", _path(one, "readings"))


def _filled(f: Facts, s: InfiltrationSchool) -> Iterator[Seen]:
    for one in _counted(f):
        if one.points:
            seen = at_least(
                10 * one.points[0].level_cm, s.least_start_mm, "mm", f"{one.name}: {{}} of water at the start"
            )
            assert seen is not None
            yield seen._replace(at=_path(one, "readings[0].level_mm"))


def _deep(f: Facts, s: InfiltrationSchool) -> Iterator[Seen]:
    for one in _counted(f):
        radius, depth = one.standing.cylinder_radius_mm, one.standing.insertion_mm
        if known(radius) and known(depth) and radius > 0:
            words = f"{one.name}: driven {{}} of its radius"
            seen = at_least(depth / radius, s.least_depth_ratio, "", words, digits=3)
            assert seen is not None
            yield seen._replace(at=_path(one, "insertion_mm"))


def _water(f: Facts, s: InfiltrationSchool) -> Seen | None:
    return at_least(f.record.water_below_m, s.least_water_below_m, "m", "ground water {} below", at=("water_below_m",))


def _cracked(f: Facts, s: InfiltrationSchool) -> Seen | None:
    seen = f.record.cracks
    return said(None if seen is None else seen == "none seen", seen or "", "none seen", ("cracks",))


def _of_its_texture(f: Facts, s: InfiltrationSchool) -> Iterator[Seen]:
    for one in _counted(f):
        if one.found is None or not f.texture_said:
            continue
        ratio = MM_H * one.found.fit.k_cm_s / f.texture.k_mm_h
        words = f"{one.name}: {{}} times what {f.texture.name} usually lets through"
        seen = at_most(ratio, s.most_over_texture, "", words, digits=3)
        assert seen is not None
        yield seen


def _texture(f: Facts, s: InfiltrationSchool) -> Seen | None:
    if not any(one.points for one in f.ones):
        return None
    held = f.texture_said and f.porosity_said
    lacks = [w for w, there in (("texture", f.texture_said), ("porosity", f.porosity_said)) if not there]
    return said(held, f"# {' and '.join(lacks)} taken" if lacks else "both said", "said, not taken", ("texture",))


def _warm(f: Facts, s: InfiltrationSchool) -> Iterator[Seen]:
    for one in _counted(f):
        if one.over and one.points:
            held = known(one.standing.temperature_c)
            yield Seen(
                held, f"{one.name}: temperature {'read' if held else 'not read'}", "read", _path(one, "temperature_c")
            )


def _agrees(f: Facts, s: InfiltrationSchool) -> Iterator[Seen]:
    for one in _counted(f):
        if one.found is None or one.found.late.last_cm_s is None or not one.over:
            continue
        off = 100 * abs(one.found.late.last_cm_s / one.found.fit.k_cm_s - 1)
        words = f"{one.name}: fit and late slope {{}} apart"
        seen = at_most(off, s.most_apart_percent, "%", words, digits=2)
        assert seen is not None
        yield seen


def _guard(f: Facts, s: InfiltrationSchool) -> Iterator[Seen]:
    for one in _counted(f):
        guard, radius = one.standing.guard_ml, one.standing.cylinder_radius_mm
        if known(guard) and known(radius) and radius > 0 and one.points:
            water = math.pi * (radius / 10) ** 2 * max(one.points[0].level_cm, 0.1)
            words = f"{one.name}: the splash guard takes {{}} of the water's place"
            seen = at_most(100 * guard / water, s.most_guard_percent, "%", words, digits=2)
            assert seen is not None
            yield seen._replace(at=_path(one, "guard_ml"))


def _in_date(f: Facts, s: InfiltrationSchool) -> Iterator[Seen]:
    for one in _counted(f):
        for seen in readers_in_date(one.standing, (("infiltrometer", "cylinder"),)):
            yield seen._replace(at=_path(one, "infiltrometer"))


def _slow(f: Facts, s: InfiltrationSchool) -> Iterator[Seen]:
    for one in _counted(f):
        if one.standing.ended == "called off":
            passed = span((one.points[-1].seconds - one.points[0].seconds) / 60) if one.points else "nothing"
            yield Seen(False, f"{one.name}: called off after {passed}", "run until empty, or slow enough")


RULES: tuple[Judge, ...] = (
    Rule(
        "wetter after than before",
        _wetter,
        source=PHYSICS,
        level="stop",
        do="Read both again beside the cylinder: water went in, so one of them is a slip.",
    ),
    Rule("dry enough before", _dry_enough, source=LABORATORY, do="Too wet: repeat after it has drained."),
    Rule("levels enough", _many, source=LABORATORY, do="Read more often: a logger, or a smaller interval."),
    Rule("drained slowly enough", _long, source=LABORATORY, do="Too quick to read: a taller fill, or a larger ring."),
    Rule(
        "level goes one way",
        _forward,
        source=PHYSICS,
        do="Strike the slip; water that was added starts the cylinder anew.",
    ),
    Rule("driven deep enough", _inserted, source=LABORATORY, do="Drive it 5 cm: shallow, the water runs out sideways."),
    Rule(
        "cylinder stays",
        _moved,
        source=LABORATORY,
        do="It moved or was bumped: leave out what came before the step, or set it anew.",
    ),
    Rule("seal is tight", _sealed, source=LABORATORY, do="Press earth round its outside."),
    Rule("ground not frozen", _frozen, source=LABORATORY, do="Repeat when it has thawed: ice closes the pores."),
    Rule(
        "no leak round the base",
        _leak,
        source=LABORATORY,
        level="watch",
        do="Look round its base: water that comes up outside was not infiltrated; set another beside it.",
        at_once=True,
    ),
    Rule("sensor is alive", _still, source=LABORATORY, level="watch", do="Look at the sensor head; read by hand."),
    Rule("filled high enough", _filled, level="watch", do="Fill to 30 cm or more: a low fill tells little."),
    Rule(
        "depth driven against radius",
        _deep,
        source=LABORATORY,
        level="watch",
        do="Shallower than its radius it overestimates: about a tenth at once, a quarter at half.",
    ),
    Rule(
        "ground water far below",
        _water,
        source=LABORATORY,
        level="watch",
        do="Say so on the report: water that stands near below holds the front up.",
    ),
    Rule(
        "no cracks or holes",
        _cracked,
        at=("cracks",),
        source=LABORATORY,
        level="watch",
        do="It is the holes' conductivity then: name them on the report, and set more cylinders.",
    ),
    Rule(
        "conductivity of its texture",
        _of_its_texture,
        source=LABORATORY,
        level="watch",
        do="Cracks, roots or a leak: say which was seen, or look again at the texture.",
    ),
    Rule(
        "texture and porosity said",
        _texture,
        source=LABORATORY,
        level="watch",
        do="Say the hand texture; take a ring for the porosity: C and the water taken up hang on them.",
    ),
    Rule(
        "temperature read",
        _warm,
        source=LABORATORY,
        level="watch",
        do="Read it next time: ten degrees change the conductivity by a third.",
    ),
    Rule(
        "fit and late slope agree",
        _agrees,
        source=LABORATORY,
        level="watch",
        do="Look at the residuals: layers, a leak, or a suction that is not this soil's.",
    ),
    Rule(
        "splash guard is small",
        _guard,
        source=LABORATORY,
        level="watch",
        do="Take it out once the water stands, or report the volume that it takes.",
    ),
    Rule(
        "cylinders in date",
        _in_date,
        source=LABORATORY,
        level="watch",
        do="Measure its radius again before the start: it counts twice.",
    ),
    Rule(
        "moisture probe in date",
        lambda f, s: readers_in_date(f.record, (("moisture_probe", "moisture probe"),)),
        source=LABORATORY,
        level="watch",
        do="Try it on rings that are dried before the start: the water taken up hangs on it.",
    ),
    Rule("run to its end", _slow, source=LABORATORY, level="watch", do="Let it run: a short record tells little."),
)
