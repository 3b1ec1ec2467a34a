"""The rules that judge every plate test: before its start, while its loads are held, and what its gauges say."""

from collections.abc import Iterator
from itertools import pairwise

from vadum.soil.contract import compare
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Level
from vadum.soil.contract.rules import LABORATORY, PHYSICS, Forecast, Judge, Rule, Seen, at_least, at_most, said
from vadum.soil.contract.times import span
from vadum.soil.shared.force_reading import readers_in_date
from vadum.soil.shared.plate import load as loads
from vadum.soil.shared.plate.advice import stress_words
from vadum.soil.shared.plate.facts import PlateFacts
from vadum.soil.shared.plate.plan import distances, gives_kn
from vadum.soil.shared.plate.record import GAUGES, LETTERS
from vadum.soil.shared.plate.school import PlateSchool
from vadum.soil.shared.plate.steps import HELD, Loaded, hold_min, rest_of
from vadum.soil.shared.water_by_tin import balance_in_date, tins_possible, tins_told_apart

MOST_NAMED = 4


def words_of(f: PlateFacts, one: Loaded) -> str:
    """A step as it is said: its part of the test where that is not the first loading, and its stress."""
    part = {"preload": "preload ", "first": "", "down": "unloading ", "again": "reloading "}[one.cycle]
    return f"{part}{stress_words(f, one.kpa)}" if one.kpa is not None else f"step {one.row + 1}"


def _reaction(f: PlateFacts, s: PlateSchool) -> Seen | None:
    gives = gives_kn(f.record)
    if gives is None:
        return None
    wants, why = f.plan.reaction_kn, f.record.begun_because
    greatest = max((one.load_kn for one in f.steps if one.load_kn is not None), default=0.0)
    if greatest and compare.at_least(gives, greatest * s.reaction_factor + s.reaction_margin_kn):
        wants = greatest * s.reaction_factor + s.reaction_margin_kn
    limit = f"{plain(wants, 3)} kN: " + (
        f"{plain(s.reaction_factor, 3)} times the greatest load"
        if s.reaction_factor > 1
        else f"the greatest load and {plain(s.reaction_margin_kn)} kN"
    )
    words = f"gives {{}}; begun all the same: {why}" if why else "gives {}"
    level: Level = "watch" if why else "stop"
    return at_least(gives, wants, "kN", words, digits=4, limit_words=limit, level=level)


def _distances(f: PlateFacts, s: PlateSchool) -> Iterator[Seen]:
    for words, measured, wanted, unit, field in distances(f.record, f.plan):
        if known(measured):
            one = at_least(measured, wanted, unit, f"{words} {{}}", at=(field,))
            assert one is not None
            yield one


def _grain(f: PlateFacts, s: PlateSchool) -> Seen | None:
    grain = f.record.largest_grain_mm
    if not known(grain):
        return None
    limit = f"{{}}: the plate's width over {plain(s.width_to_grain_ratio)}"
    return at_most(grain, f.plan.grain_mm, "mm", "grain of {}", limit_words=limit)


def _held(f: PlateFacts, s: PlateSchool) -> Iterator[Seen]:
    """Each step that was left: held long enough, and at rest where the school asks for rest."""
    short: list[Seen] = []
    fine = 0
    for one in f.steps:
        if one.kpa is None or one.step.excluded_because or not (one.left or f.over):
            continue
        least, held = hold_min(one, s), one.held_min
        at = (one.path("held_min"),)
        if held is None:
            continue
        if not compare.at_least(held, HELD * least):
            words = f"{words_of(f, one)} held {span(held)}"
            short.append(Seen(False, words, f"{span(least)} or longer", at))
            continue
        rest = rest_of(one, s)
        judged = s.rest_by != "time" and one.cycle not in ("preload", "down") and bool(one.readings)
        if judged and not rest.at_rest:
            rate = "no rate" if one.rate_mm_min is None else f"{plain(one.rate_mm_min, 2)} mm/min"
            said_ = rest.words if s.rest_by == "time curve" else rate
            short.append(Seen(False, f"{words_of(f, one)} left at {said_}", rest_limit(s), at))
            continue
        fine += 1
    yield from short[:MOST_NAMED]
    if not short and fine:
        yield Seen(True, f"{fine} step{'s' if fine > 1 else ''} held", rest_limit(s))


def rest_limit(s: PlateSchool) -> str:
    """What a step is held to, in words."""
    if s.rest_by == "time":
        return f"{span(s.hold_min)} a step"
    if s.rest_by == "time curve":
        most = f", or {span(s.most_hold_min)}" if s.most_hold_min else ""
        return f"{plain(s.rest_share_percent or 0)} % of what its time curve says{most}"
    limit = s.rest_mm_min or 0.0
    per_hour = s.rest_over_min >= 60
    return f"{plain(60 * limit)} mm/h" if per_hour else f"{plain(limit)} mm/min"


def _untimed(f: PlateFacts, s: PlateSchool) -> Seen | None:
    steps = [one for one in f.steps if one.counts and one.cycle != "preload"]
    bare = [one for one in steps if one.held_min is None]
    return (
        said(not bare, f"{len(bare)} steps without a time" if bare else "every step timed", "known of each step")
        if (steps and (f.over or len(bare) > 1))
        else None
    )


def _fell(f: PlateFacts, s: PlateSchool) -> Iterator[Seen]:
    found = [(one, one.fell) for one in f.steps if one.fell is not None]
    lost = [(one, fell[0]) for one, fell in found if not fell[1] and not compare.at_most(fell[0], s.most_fall_percent)]
    limit = f"{plain(s.most_fall_percent)} % at the most, or topped up"
    for one, fell in lost[:MOST_NAMED]:
        yield Seen(False, f"{words_of(f, one)} fell by {fell:.1f} %", limit, (one.path("lowest_bar"),))
    if found and not lost:
        up = sum(len(one.step.top_ups) for one, _ in found)
        yield Seen(True, f"topped up {up} time{'s' if up != 1 else ''}" if up else "no load fell further", limit)


def _changed(f: PlateFacts, s: PlateSchool) -> Seen | None:
    slow = [one for one in f.steps if known(one.step.changed_in_s)]
    if not slow:
        return None
    worst = max(slow, key=lambda one: one.step.changed_in_s or 0.0)
    words = f"{words_of(f, worst)} took {{}}"
    return at_most(worst.step.changed_in_s, s.change_within_s, "s", words, at=(worst.path("changed_in_s"),))


def _tilt(f: PlateFacts, s: PlateSchool) -> Iterator[Seen]:
    """The spread of the gauges against their mean, by the worst step of the first loading."""
    read = [(one, last) for one in f.steps if one.cycle == "first" and (last := one.last) is not None]
    seen = [
        (100 * spread / mean, far, one)
        for one, last in read
        if (mean := last.mean_mm or 0.0) >= s.spread_from_mm and (spread := last.spread_mm) is not None
        for far in [max(100 * abs(g - mean) / mean for g in last.gauges if g is not None)]
    ]
    if not seen:
        return
    far = max(seen, key=lambda one: one[1])
    if not compare.at_most(far[1], s.redo_spread_percent):
        words = f"at {words_of(f, far[2])} one gauge lies {far[1]:.0f} % off their mean"
        yield Seen(False, words, f"{plain(s.redo_spread_percent)} %", (far[2].path("readings"),), level="redo")
        return
    worst = max(seen, key=lambda one: one[0])
    words = f"at {words_of(f, worst[2])} the gauges spread over {{}} of their mean"
    one = at_most(worst[0], s.watch_spread_percent, "%", words, digits=2, at=(worst[2].path("readings"),))
    assert one is not None
    yield one


def _other_way(f: PlateFacts, s: PlateSchool) -> Iterator[Seen]:
    """A gauge that rises from one step of a loading to the next while the others sink."""
    found: list[Seen] = []
    for before, after in pairwise(one for one in f.steps if one.last is not None and one.cycle in ("first", "again")):
        if before.cycle != after.cycle or before.last is None or after.last is None:
            continue
        moved = [
            (i, b - a)
            for i, (a, b) in enumerate(zip(before.last.gauges, after.last.gauges, strict=True))
            if a is not None and b is not None
        ]
        back = [(i, d) for i, d in moved if d < -s.other_way_mm]
        for i, d in back:
            if len(back) < len(moved):
                words = f"gauge {LETTERS[i]} rose {-d:.2f} mm to {words_of(f, after)} while the others sank"
                row = after.last.row
                found.append(Seen(False, words, "all gauges one way", (after.path(f"readings[{row}].{GAUGES[i]}"),)))
    yield from found[:MOST_NAMED]
    if not found and sum(one.last is not None for one in f.steps) > 1:
        yield Seen(True, "every gauge sinks with the load", "all gauges one way")


def _jumped(f: PlateFacts, s: PlateSchool) -> Iterator[Seen]:
    """All gauges moving together while the load is held, by more than the ground does so soon: the datum moved."""
    found: list[Seen] = []
    for one in f.steps:
        noted = next((i for i, r in enumerate(one.step.readings) if r.noted in ("datum knocked", "gauge moved")), None)
        if noted is not None:
            words = f"{one.step.readings[noted].noted} at {words_of(f, one)}"
            found.append(Seen(False, words, "datum and gauges untouched", (one.path(f"readings[{noted}].noted"),)))
            continue
        for before, after in pairwise(one.readings):
            moved = [b - a for a, b in zip(before.gauges, after.gauges, strict=True) if a is not None and b is not None]
            up = -1 if one.cycle != "down" else 1
            if moved and all(up * d > s.most_jump_mm for d in moved):
                words = f"all gauges jumped {abs(sum(moved) / len(moved)):.2f} mm at {words_of(f, one)}"
                found.append(Seen(False, words, "none against the load", (one.path(f"readings[{after.row}]"),)))
                break
    yield from found[:MOST_NAMED]
    if not found and any(len(one.readings) > 1 for one in f.steps):
        yield Seen(True, "no jump while a load was held", "datum and gauges untouched")


def _possible(f: PlateFacts, s: PlateSchool) -> Iterator[Seen]:
    record = f.record
    most = record.jack_most_bar
    pumped = [(one, one.step.pump_bar) for one in f.steps if known(one.step.pump_bar)]
    if known(most) and pumped:
        one, bar = max(pumped, key=lambda p: p[1])
        yield Seen(
            compare.at_most(bar, most), f"jack at {plain(bar)} bar", f"up to {plain(most)} bar", (one.path("pump_bar"),)
        )
    cell = record.load_cell_most_n
    read = [(one, one.step.force_kn) for one in f.steps if known(one.step.force_kn)]
    if known(cell) and read:
        one, kn = max(read, key=lambda p: p[1])
        held = compare.at_most(1000 * kn, cell)
        yield Seen(held, f"load cell at {plain(kn)} kN", f"up to {plain(cell / 1000)} kN", (one.path("force_kn"),))


def _zeroed(f: PlateFacts, s: PlateSchool) -> Seen | None:
    preload = next((one for one in f.steps if one.cycle == "preload"), None)
    if not any(one.cycle == "first" for one in f.steps):
        return None
    if preload is None:
        return said(False, "no preload in the record", "preloaded, then zero")
    if f.record.zeroed is None and not known(preload.step.settlement_mm):
        return said(False, "# taken as set to zero after the preload", "said", ("zeroed",))
    return said(True, f.record.zeroed or "settlement of the preload typed", "said")


def _plate_said(f: PlateFacts, s: PlateSchool) -> Seen | None:
    if not f.steps:
        return None
    held = known(f.record.plate_width_mm)
    return said(held, f"{'' if held else '# '}{f.width_mm:g} mm {'square' if f.square else 'round'}", "measured")


def _two(f: PlateFacts) -> bool:
    return f.over and any(one.counts for one in f.steps)


def _beside(f: PlateFacts, s: PlateSchool) -> Seen | None:
    record = f.record
    water = any(known(t.mass_wet_g) for t in record.tins)
    dense = known(record.dry_density_beside_mg_m3) or known(record.compaction_beside_percent)
    if not _two(f) and not (water or dense):
        return None
    lacks = [w for w, there in (("water content", water), ("density", dense)) if not there]
    return said(not lacks, f"{' and '.join(lacks)} not taken" if lacks else "both taken", "taken beside the plate")


def _foreseen(f: PlateFacts, s: PlateSchool) -> str:
    gives, ahead = gives_kn(f.record), f.ahead
    if gives is None or not ahead or f.hand is None:
        return ""
    load = loads.load_for_kn(ahead[0].kpa, f.plate_mm2)
    if compare.at_least(gives, load * s.reaction_factor + (s.reaction_margin_kn if s.reaction_factor == 1 else 0.0)):
        return ""
    return f"The next step wants {load:.1f} kN of a reaction of {gives:.1f} kN: watch whether it lifts."


def runs_backwards(f: PlateFacts, s: PlateSchool) -> Iterator[Seen]:
    """A settlement that falls while the load of a loading rises."""
    found: list[Seen] = []
    steps = [one for one in f.steps if one.counts and one.cycle != "down"]
    for before, after in pairwise(steps):
        a, b = before.settlement_mm or 0.0, after.settlement_mm or 0.0
        one_loading = before.cycle == after.cycle or (before.cycle, after.cycle) == ("preload", "first")
        if one_loading and b < a - s.backward_slack_mm:
            words = f"{b:.2f} mm at {words_of(f, after)} after {a:.2f} mm"
            found.append(Seen(False, words, "it sinks as the load rises", (after.path("settlement_mm"),)))
    yield from found
    if not found and len(steps) > 1:
        yield Seen(True, "it sinks with every step", "it sinks as the load rises")


RULES: tuple[Judge, ...] = (
    Rule(
        "reaction enough",
        _reaction,
        at=("reaction_kn",),
        level="stop",
        do="Take a heavier machine or more kentledge before it starts, or say why it may begin.",
    ),
    Rule(
        "distances kept",
        _distances,
        level="watch",
        do="Move it further off: ground that sinks beneath a support or a leg moves the datum along.",
    ),
    Rule(
        "plate wide against the grain",
        _grain,
        at=("largest_grain_mm",),
        do="Take a wider plate or another place: one stone carries it.",
    ),
    Rule(
        "jack and load cell within their range",
        _possible,
        source=PHYSICS,
        level="stop",
        do="Beyond its calibration nothing is known of the load: strike the slip, or repeat with a larger jack.",
    ),
    Rule(
        "jack and load cell in date",
        lambda f, s: readers_in_date(f.record, (("jack", "jack"), ("load_cell", "load cell"))),
        source=LABORATORY,
        level="watch",
        do="Check it before the next test, and say on the sheet that it had lapsed.",
    ),
    Rule("steps held", _held, do="Repeat beside it: a step left too soon makes the ground look stiffer."),
    Rule(
        "time of the steps known",
        _untimed,
        at=("steps",),
        source=LABORATORY,
        level="watch",
        do="Enter how long each was held: whether it had come to rest cannot be told.",
    ),
    Rule(
        "load held",
        _fell,
        source=LABORATORY,
        do="Top the pressure up as soon as it falls; repeat what was read after a load that had gone.",
    ),
    Rule(
        "load changed quickly",
        _changed,
        level="watch",
        do="Say so on the sheet; bring the next step on in one go.",
    ),
    Rule(
        "plate stays level",
        _tilt,
        source=LABORATORY,
        level="watch",
        do="Look whether the plate or the jack stands askew; bed it again beside where it tilts further.",
    ),
    Rule(
        "gauges all one way",
        _other_way,
        source=PHYSICS,
        do="Look at that gauge's foot and its arm; strike its readings with a reason if it was not on the plate.",
    ),
    Rule(
        "datum untouched",
        _jumped,
        source=LABORATORY,
        do="Everything read behind a jump counts from another zero: repeat, or leave those readings out with a reason.",
    ),
    Rule(
        "zero after the preload",
        _zeroed,
        at=("zeroed",),
        source=LABORATORY,
        level="watch",
        do="Say whether the gauges were set to zero after the preload or read on as they stood.",
    ),
    Rule(
        "plate's size said",
        _plate_said,
        at=("plate_width_mm",),
        source=LABORATORY,
        level="watch",
        do="Enter the plate's width: until then the school's stands for it.",
    ),
    Rule(
        "water and density beside",
        _beside,
        at=("tins",),
        source=LABORATORY,
        level="watch",
        do="Take a tin and a ring beside the plate before the machine drives off.",
    ),
    Forecast("reaction soon short", _foreseen),
    *tins_told_apart("tins", "tin"),
    tins_possible("tins", "tin", affects=("water_content_percent",)),
    balance_in_date,
)


def even_steps(f: PlateFacts, s: PlateSchool) -> Seen | None:
    """The steps of the first loading against their mean, by the one that lies furthest off it."""
    first = [one.kpa for one in f.steps if one.cycle == "first" and one.kpa is not None]
    if len(first) < 3:
        return None
    rises = [b - a for a, b in pairwise([0.0, *first])]
    rises = rises[1:] if len(rises) > 3 else rises  # the first counts from the preload
    mean = sum(rises) / len(rises)
    if mean <= 0:
        return None
    worst = max(rises, key=lambda r: abs(r - mean))
    off = 100 * abs(worst - mean) / mean
    words = (
        f"one of {plain(worst / f.per_unit, 3)} against {plain(mean / f.per_unit, 3)} {f.unit} in the mean, {{}} off"
    )
    return at_most(off, s.uneven_percent, "%", words, digits=2)


def enough_steps(f: PlateFacts, s: PlateSchool, ended: bool) -> Seen | None:
    """How many steps the first loading had, once it has ended."""
    many = sum(one.cycle == "first" and one.kpa is not None and not one.step.excluded_because for one in f.steps)
    if not ended or not many:
        return None
    return at_least(float(many), float(s.least_steps), "", "{} steps", limit_words="{} or more")
