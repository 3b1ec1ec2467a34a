"""The rules that judge a double ring."""

from collections.abc import Iterator

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.rules import LABORATORY, Judge, Rule, Seen, at_least, at_most, said, within
from vadum.soil.methods.double_ring.facts import Facts
from vadum.soil.methods.double_ring.school import RingSchool
from vadum.soil.shared.force_reading import readers_in_date


def _apart(f: Facts, s: RingSchool) -> Iterator[Seen]:
    for i, row in enumerate(f.record.readings):
        if known(row.head_inner_mm) and known(row.head_annulus_mm) and not row.excluded_because:
            off = abs(row.head_inner_mm - row.head_annulus_mm)
            seen = at_most(off, s.most_apart_mm, "mm", "heads {} apart", at=(f"readings[{i}].head_annulus_mm",))
            assert seen is not None
            yield seen


def _drifted(f: Facts, s: RingSchool) -> Iterator[Seen]:
    kept = f.record.head_mm
    for i, row in enumerate(f.record.readings):
        if known(row.head_inner_mm) and known(kept) and not row.excluded_because:
            off = abs(row.head_inner_mm - kept)
            words = f"inner head {{}} off the {plain(kept)} mm that is kept"
            seen = at_most(off, s.most_apart_mm, "mm", words, at=(f"readings[{i}].head_inner_mm",))
            assert seen is not None
            yield seen


def _rings(f: Facts, s: RingSchool) -> Seen | None:
    state = f.record.rings_state
    return said(None if state is None else state == "tight", state or "", "tight, in place", ("rings_state",))


def _steady(f: Facts, s: RingSchool) -> Seen | None:
    if not f.over or not f.rates:
        return None
    limit = f"the last {s.steady_many} intervals within {plain(s.steady_percent)} %"
    if f.steady is None:
        return Seen(False, f"{len(f.rates)} intervals", limit, ("readings",))
    long = f.lasted_min >= 60 * s.least_h - 1e-9
    worst = max(f.steady.farthest_percent, f.steady.trend_percent)
    words = f"the last {s.steady_many} intervals within {{}} after {plain(f.lasted_min / 60, 3)} h"
    return at_most(
        worst,
        s.steady_percent,
        "%",
        words,
        digits=2,
        at=("readings",),
        level="watch" if long else "redo",
        do="Six hours are over: reported as not steady." if long else "Read on: six hours, or until steady.",
    )


def _long(f: Facts, s: RingSchool) -> Seen | None:
    if not f.over or not f.is_steady:
        return None
    return at_least(f.lasted_min / 60, s.least_h, "h", "steady after {}", digits=3, at=("ended",))


def _ratio(f: Facts, s: RingSchool) -> Iterator[Seen]:
    for one in f.steady_rates:
        if one.ratio is not None:
            words = f"annulus {{}} times as fast as the inner ring, up to {plain(one.minutes)} min"
            seen = within(one.ratio, s.ratio_band, "", words, digits=3, at=(f"readings[{one.row}].annulus_ml",))
            assert seen is not None
            yield seen


def _evaporates(f: Facts, s: RingSchool) -> Seen | None:
    if f.steady is None or f.steady.value >= s.slow_mm_h:
        return None
    how = f.record.evaporation
    held = how in ("covered", "a pan beside")
    found = f"evaporation {how or 'not said'} at {plain(f.steady.value, 3)} mm/h"
    return said(held, found, f"controlled below {plain(s.slow_mm_h)} mm/h", ("evaporation",))


def _below(f: Facts, s: RingSchool) -> Iterator[Seen]:
    for value, words, field in (
        (f.record.water_below_m, "ground water {} below", "water_below_m"),
        (f.record.layer_below_m, "an impeding layer {} below", "layer_below_m"),
    ):
        seen = at_least(value, s.least_below_m, "m", words, at=(field,))
        if seen is not None:
            yield seen


def _warmed(f: Facts, s: RingSchool) -> Seen | None:
    read = [float(r.temperature_c) for r in f.record.readings if known(r.temperature_c)]
    if len(read) < 2:
        return None
    return at_most(max(read) - min(read), s.most_warming_c, "°C", "the water changed by {}", digits=2)


def _warm_said(f: Facts, s: RingSchool) -> Seen | None:
    if not f.over or not f.rates:
        return None
    read = any(known(r.temperature_c) for r in f.record.readings)
    return said(read, "temperature read" if read else "temperature never read", "read with every reading")


def _range(f: Facts, s: RingSchool) -> Seen | None:
    if f.steady is None:
        return None
    return within(f.steady.value, s.range_mm_h, "mm/h", "{}", digits=3)


def _heads(f: Facts, s: RingSchool) -> Seen | None:
    return within(f.record.head_mm, s.head_band_mm, "mm", "{} of water", at=("head_mm",))


def _driven(f: Facts, s: RingSchool) -> Iterator[Seen]:
    inner = within(f.record.inner_driven_mm, s.inner_band_mm, "mm", "inner ring driven {}", at=("inner_driven_mm",))
    outer = at_least(f.record.outer_driven_mm, s.least_outer_mm, "mm", "outer ring driven {}", at=("outer_driven_mm",))
    yield from (seen for seen in (inner, outer) if seen is not None)


def _both(f: Facts, s: RingSchool) -> Seen | None:
    if not f.rates:
        return None
    lacks = sum(r.annulus_mm_h is None for r in f.rates)
    found = f"annulus not measured in {lacks} of {len(f.rates)} intervals" if lacks else "both rings measured"
    return said(not lacks, found, "both volumes, each interval", ("readings",))


RULES: tuple[Judge, ...] = (
    Rule(
        "heads are one",
        _apart,
        source="ASTM D3385 (fairly sure)",
        do="Bring both to the mark before each reading: water runs from one ring into the other.",
        at_once=True,
    ),
    Rule("head stays", _drifted, source="ASTM D3385 (fairly sure)", do="Fill to the mark; repeat the interval."),
    Rule("rings tight", _rings, source=LABORATORY, do="Set the rings anew beside it."),
    Rule("rate is steady", _steady, do="Read on: six hours, or until steady."),
    Rule(
        "long enough",
        _long,
        source=LABORATORY,
        level="watch",
        do="Steady early: say so on the report, or keep it running for six hours.",
    ),
    Rule(
        "annulus against inner ring",
        _ratio,
        source=LABORATORY,
        level="watch",
        do="Look for a leak between the rings, or water that runs sideways: the inner ring alone is reported.",
    ),
    Rule("both rings measured", _both, level="watch", do="Measure the annulus too: without it a leak is not seen."),
    Rule(
        "evaporation controlled",
        _evaporates,
        source=LABORATORY,
        level="watch",
        do="Cover the rings, or stand a pan beside them: in a slow soil the sun takes as much as the ground.",
    ),
    Rule(
        "ground water and layers far below",
        _below,
        source=LABORATORY,
        level="watch",
        do="Say so on the report: what lies so near below holds the water up.",
    ),
    Rule("temperature of the water", _warmed, source=LABORATORY, level="watch", do="Shade it; say so on the report."),
    Rule("temperature read", _warm_said, level="watch", do="Read it with every reading."),
    Rule(
        "rate that a double ring can tell",
        _range,
        source="ASTM D3385 (fairly sure)",
        level="watch",
        do="Outside its range another test tells more: a sealed ring for tight soil, a pit for gravel.",
    ),
    Rule("depth of water", _heads, level="watch", do="25 to 150 mm of water; report what was kept."),
    Rule(
        "rings in date",
        lambda f, s: readers_in_date(f.record, (("rings", "rings"),)),
        source=LABORATORY,
        level="watch",
        do="Measure their diameters again before the start: a driven ring is no circle for long.",
    ),
    Rule("rings driven", _driven, level="watch", do="Drive them deeper: water comes round a shallow ring."),
)
