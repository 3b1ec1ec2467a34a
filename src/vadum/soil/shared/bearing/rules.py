"""The rules that judge a push of the plunger: how it was read, and what its curve proves; both methods run them."""

import contextlib
import itertools
from collections.abc import Iterator

from vadum.soil.contract import compare
from vadum.soil.contract.errors import ReductionError
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Level, Verdict
from vadum.soil.contract.rules import LABORATORY, PHYSICS, Forecast, Judge, Rule, Seen, at_most
from vadum.soil.shared.bearing.calls import pace_of, rate_mm_min, timed
from vadum.soil.shared.bearing.curve import seating_n
from vadum.soil.shared.bearing.ends import EndResult, PushFacts, penetration_of
from vadum.soil.shared.bearing.record import RATIOS, End
from vadum.soil.shared.bearing.school import BearingSchool
from vadum.soil.shared.proving_ring import divisions_of

SEATING_RULE = "seating load of the ratio's class"
ONE_DIV = 1.0  # a dial set to zero under a small load may read so far below it
LEAST_TIMED = 5  # readings, for a rate that means something


def _said(f: PushFacts, end: End, words: str) -> str:
    return f"{end.words}: {words}" if len(f.pushes) > 1 else words


def _goes_in(f: PushFacts, s: BearingSchool) -> Iterator[Seen]:
    for push in f.pushes:
        end = push.end
        places = [(i, penetration_of(end, i, s)) for i in range(len(end.rows))]
        read = [(i, p) for i, p in places if p is not None and end.rows[i].missed is None]
        for (_, a), (i, b) in itertools.pairwise(read):
            if b <= a:
                words = _said(f, end, f"reading {i + 1} at {plain(b)} mm after {plain(a)} mm")
                yield Seen(False, words, "each further than the one before", (f"{end.rows_path}[{i}].penetration_mm",))


def _calibrated(f: PushFacts, s: BearingSchool) -> Iterator[Seen]:
    ring = f.record.ring()
    if ring is None:
        return
    low, high = ring.range_div
    limit = f"{plain(low)} to {plain(high)} divisions" if high is not None else f"from {plain(low)} divisions"
    for push in f.pushes:
        end = push.end
        read = [(i, r.ring_div) for i, r in enumerate(end.rows) if known(r.ring_div)]
        # A dial set to zero once it was seated may stand a division below it.
        under = [i for i, d in read if low - ONE_DIV <= d < low]
        beyond = [i for i, d in read if d < low - ONE_DIV or (high is not None and d > high)]
        if under and not beyond:
            words = _said(f, end, f"reading {under[0] + 1}: {plain(end.rows[under[0]].ring_div or 0)} divisions")
            do = "Used as it is: the dial was set to zero under a small load."
            yield Seen(False, words, limit, tuple(f"{end.rows_path}[{i}].ring_div" for i in under), do, "watch")
            continue
        if beyond:
            rows = ", ".join(str(i + 1) for i in beyond[:4])
            words = _said(f, end, f"reading {rows}: {plain(end.rows[beyond[0]].ring_div or 0)} divisions")
            yield Seen(False, words, limit, tuple(f"{end.rows_path}[{i}].ring_div" for i in beyond))
        elif end.rows:
            most = max((d for _, d in read), default=0.0)
            yield Seen(True, _said(f, end, f"up to {plain(most)} divisions"), limit)


def _seated_zero(f: PushFacts, s: BearingSchool) -> Iterator[Seen]:
    for push in f.pushes:
        end = push.end
        first = end.rows[0] if end.rows else None
        if first is None or not known(first.ring_div) or not known(end.seated_div) or first.penetration_mm:
            continue
        held = compare.at_most(abs(first.ring_div - end.seated_div), s.most_zero_apart_div)
        words = f"{plain(first.ring_div)} divisions at zero, {plain(end.seated_div)} once seated"
        at = (f"{end.rows_path}[0].ring_div", f"{end.prefix}seated_div")
        yield Seen(held, _said(f, end, words), f"± {plain(s.most_zero_apart_div)} divisions", at)


FAST = "Repeat at the right rate; a fast push reads too high in clay."
SLOW = "Repeat at the right rate; a slow push reads too low in clay, and lets silt drain under it."
UNEVEN = "Wind more evenly; the stretch is marked by its times on the sheet."


def _pushed(word: str) -> str:
    """What to do about a push that was not at its rate, by which way it was wrong."""
    return SLOW if word == "too slow" else FAST


def _rate(f: PushFacts, s: BearingSchool) -> Iterator[Seen]:
    band = pace_of(s)
    limit = f"{plain(s.rate_mm_min)} mm/min ± {plain(s.rate_tolerance_percent)} %"
    noted = f.record.timed_mm_min
    if known(noted):
        yield Seen(
            band.word(noted) == "right",
            f"{plain(noted, 3)} mm/min, noted",
            limit,
            ("timed_mm_min",),
            _pushed(band.word(noted)),
        )
        return
    for push in f.pushes:
        rows = timed(push.end, s)
        whole = rate_mm_min(rows)
        if len(rows) < LEAST_TIMED or whole is None:
            continue
        pieces = (rows[i : i + LEAST_TIMED] for i in range(len(rows) - LEAST_TIMED + 1))
        stretches = [r for piece in pieces if (r := rate_mm_min(piece)) is not None]
        low, high = min(stretches, default=whole), max(stretches, default=whole)
        right = band.word(whole) == "right"
        steady = all(band.word(r) == "right" for r in (low, high))
        words = f"{plain(whole, 3)} mm/min in all; {plain(low, 2)} to {plain(high, 2)}"
        do = (
            "Wind more evenly; the stretch is marked by its times on the sheet." if right else _pushed(band.word(whole))
        )
        level: Level = "watch" if right else "redo"
        yield Seen(right and steady, _said(f, push.end, words), limit, (push.end.rows_path,), do, level)


def _missed(f: PushFacts, s: BearingSchool) -> Iterator[Seen]:
    limit = f"at most {s.most_missed}, none side by side where the ratio is read off"
    for push in f.pushes:
        end = push.end
        if not end.rows:
            continue
        gone = [i for i, r in enumerate(end.rows) if r.force_kn is None and r.ring_div is None]
        pairs = [b for a, b in itertools.pairwise(gone) if b == a + 1]
        nearby = any(
            abs(s.called_mm[i] - push.shift_mm - at) <= s.read_off_beside_mm
            for i in pairs
            for at in (s.first_mm, s.second_mm)
            if i < len(s.called_mm)
        )
        places = ", ".join(f"{s.called_mm[i]:g}" for i in gone[:5] if i < len(s.called_mm))
        words = f"{len(gone)} missed: {places} mm" if gone else f"{len(end.rows)} taken"
        at_paths = tuple(f"{end.rows_path}[{i}].missed" for i in gone[:5])
        level: Level = "redo" if nearby or len(gone) > s.most_missed else "watch"
        yield Seen(not gone, _said(f, end, words), limit, at_paths, level=level)


def _undisturbed(f: PushFacts, s: BearingSchool) -> Iterator[Seen]:
    for push in f.pushes:
        end = push.end
        if not end.rows:
            continue
        notes = [(i, r.noted) for i, r in enumerate(end.rows) if r.noted]
        bad = [n for n in notes if n[1] != "line lost"]
        if not notes:
            yield Seen(True, _said(f, end, "nothing noted"), "nothing noted")
            continue
        i, words = (bad or notes)[0]
        at = tuple(f"{end.rows_path}[{i}].noted" for i, _ in notes)
        do = "Readings by hand cover the gap where there are any; the rest stays empty."
        if bad:
            do = "Penetrations after it are not to be trusted: repeat beside it."
        said = _said(f, end, f"{words} at {plain(penetration_of(end, i, s) or 0)} mm")
        yield Seen(False, said, "nothing noted", at, do, "redo" if bad else "watch")


def _seating(f: PushFacts, s: BearingSchool) -> Iterator[Seen]:
    ring = f.record.ring()
    for push in f.pushes:
        end, ratio = push.end, push.governs.percent if push.governs else None
        if not known(end.seating_n) or ratio is None or ratio <= 0:
            continue
        at = (f"{end.prefix}seating_n",)
        if s.seating_most_n is not None:
            # The least that seats it is right: little is no fault.
            do = "Too much seating pushes the plunger in before zero: repeat with less."
            words, most = _said(f, end, "{}"), "the least, at most {}"
            seen = at_most(end.seating_n, s.seating_most_n, "N", words, limit_words=most, at=at, do=do)
            if seen:
                yield seen
            continue
        wanted, share = seating_n(ratio, s.seating_classes), s.seating_tolerance_percent / 100
        limit = f"{plain(wanted)} N"
        if ring is not None:
            with contextlib.suppress(ReductionError):  # below the ring's table the newtons stand alone
                limit += f", {plain(divisions_of(ring, wanted / 1000), 3)} divisions"
        much = not compare.at_most(end.seating_n, (1 + share) * wanted)
        near = not much and compare.at_least(end.seating_n, (1 - share) * wanted)
        do = "Say so on the sheet, or repeat with the greater seating load."
        if much:
            do = "Too much seating pushes the plunger in before zero: repeat with the smaller load."
        words = _said(f, end, f"{plain(end.seating_n)} N, ratio near {ratio:.3g} %")
        yield Seen(near, words, limit, at, do, "redo" if much else "watch")


def _rises(f: PushFacts, s: BearingSchool) -> Iterator[Seen]:
    limit = f"no fall above {plain(s.most_fall_percent)} % of the highest"
    for push in f.pushes:
        if len(push.points) < 3:
            continue
        least = s.most_fall_percent / 100 * max(p.force_kn for p in push.points)
        falls = [(b.row, a.force_kn - b.force_kn) for a, b in itertools.pairwise(push.points)]
        row, deepest = max(falls, key=lambda one: one[1])
        held = compare.at_most(deepest, least)
        words = "it rises" if held else f"falls by {plain(deepest, 2)} kN to reading {row + 1}"
        do = f"Look at reading {row + 1}: a slip is corrected; a crack, a stone or a lifted reaction is noted."
        at = (f"{push.end.rows_path}[{row}].ring_div",)
        last = row == push.points[-1].row and not push.over
        yield Seen(held, _said(f, push.end, words), limit, at, do, just_now=last)


def _small(f: PushFacts, s: BearingSchool) -> Iterator[Seen]:
    for push in f.pushes:
        if push.over and push.computed is not None:
            at = (f"{push.end.prefix}zero_mm",)
            words = _said(f, push.end, "{}")
            seen = at_most(push.shift_mm, s.most_correction_mm, "mm", words, digits=3, at=at)
            if seen:
                yield seen


def _drawn(f: PushFacts, s: BearingSchool) -> Iterator[Seen]:
    for push in f.pushes:
        if push.by != "analyst" or push.computed is None:
            continue
        near = compare.at_most(abs(push.shift_mm - push.computed.shift_mm), s.most_zero_apart_mm)
        reasoned = bool(push.end.zero_because)
        words = f"drawn {plain(push.shift_mm, 3)}, computed {plain(push.computed.shift_mm, 3)} mm"
        words += "" if reasoned else ", no reason"
        do = "Both stand on the sheet; say why it was drawn so." if reasoned else "Say why it was drawn so."
        at = (f"{push.end.prefix}zero_mm",)
        yield Seen(near and reasoned, _said(f, push.end, words), f"{plain(s.most_zero_apart_mm)} mm apart", at, do)


def _bends(f: PushFacts, s: BearingSchool) -> Iterator[Seen]:
    for push in f.pushes:
        if push.over and push.computed is not None and push.computed.why != "too short":
            still = push.computed.why == "still steepening at its end"
            words = _said(f, push.end, push.computed.why)
            yield Seen(not still, words, "bends over before its end", (push.end.rows_path,))


def reached_the_second(facts: PushFacts, school: BearingSchool) -> Iterator[Verdict]:
    """The record reaches the second penetration; the rule bears the school's own figure in its name."""
    s = school
    for push in facts.pushes:
        if not push.over or push.curve is None:
            continue
        reach, its = push.curve.end_mm - push.shift_mm, push.governs
        ends = f"ends at {plain(push.curve.end_mm, 3)} mm{f', {push.end.stopped}' if push.end.stopped else ''}"
        do = f"Report what the record proves: {its.sentence}" if its else "Nothing can be read off: repeat."
        level: Level = "watch" if its else "redo"
        held = compare.at_least(reach, s.second_mm)
        limit = f"{plain(s.second_mm)} mm from the corrected zero"
        seen = Seen(held, _said(facts, push.end, ends), limit, (push.end.rows_path,), do, level)
        yield from Rule(f"read to {plain(s.second_mm)} mm", lambda f, s, seen=seen: seen)(facts, school)  # type: ignore[misc]


def _second(f: PushFacts, s: BearingSchool) -> Iterator[Seen]:
    if s.governs == "the higher":
        return
    for push in f.pushes:
        if len(push.ratios) < 2 or not push.over:
            continue
        first, second = (r.percent for r in push.ratios)
        if first is not None and second is not None:
            held = compare.at_most(second, first) or f.record.repeated == "yes"
            words = _said(f, push.end, f"{plain(first, 3)} and {plain(second, 3)} %")
            yield Seen(held, words, "the first is the higher, or the test is a repeat", ("repeated",))


def _in_date(f: PushFacts, s: BearingSchool) -> Iterator[Verdict]:
    """Ring and gauge were in date when they were used."""
    for field, words in (("proving_ring", "proving ring"), ("gauge", "penetration gauge")):
        state, due = getattr(f.record, f"{field}_in_date"), getattr(f.record, f"{field}_due_on")
        if state is None:
            continue
        limit = f"due {due:%d %b %Y}" if due else "calibrated"
        seen = Seen(state == "yes", f"{words} {getattr(f.record, field)}", limit, (field,))
        do = "Have it calibrated; say on the sheet that it had lapsed."
        rule = Rule(f"{words} in date", lambda f, s, seen=seen: seen, source=LABORATORY, level="watch", do=do)  # type: ignore[misc]
        yield from rule(f, s)


def _pushing(f: PushFacts, s: BearingSchool) -> tuple[EndResult, float] | None:
    """The push in hand, and the penetration that is called next, mm."""
    open_ = next((p for p in f.pushes if not p.over and p.end.rows), None)
    return None if open_ is None else (open_, s.called_mm[min(len(open_.end.rows), len(s.called_mm) - 1)])


def _ring_ends(f: PushFacts, s: BearingSchool) -> str:
    """At the slope of its last two readings the ring leaves its calibration before the next call."""
    ring, pushing = f.record.ring(), _pushing(f, s)
    high = ring.range_div[1] if ring else None
    if high is None or pushing is None:
        return ""
    push, next_mm = pushing
    rows = enumerate(push.end.rows)
    read = [(s.called_mm[i], r.ring_div) for i, r in rows if known(r.ring_div) and i < len(s.called_mm)]
    if len(read) < 2 or read[-1][1] > high:
        return ""
    at, last = read[-1]
    slope = (last - read[-2][1]) / (at - read[-2][0])
    if slope <= 0 or last + slope * (next_mm - at) <= high:
        return ""
    return f"The ring comes to its {plain(high)} divisions at about {plain(at + (high - last) / slope, 2)} mm: stop."


def _gauge_ends(f: PushFacts, s: BearingSchool) -> str:
    travel, pushing = f.record.gauge_travel_mm, _pushing(f, s)
    if not known(travel) or pushing is None or pushing[1] <= travel:
        return ""
    return f"The gauge's travel of {plain(travel)} mm ends before the next call: stop."


SHARED: tuple[Judge, ...] = (
    Rule(
        "the plunger only goes in",
        _goes_in,
        source=PHYSICS,
        level="stop",
        do="Look at the penetrations; strike the wrong one.",
        affects=RATIOS,
    ),
    Rule(
        # A ring that was bent beyond its calibration reads wrong for ever after: said at once.
        "ring within its calibration",
        _calibrated,
        source="the ring's calibration",
        level="stop",
        do="Stop the push; use a stiffer ring, or strike the reading if it is a slip.",
        affects=RATIOS,
        at_once=True,
    ),
    Forecast("ring at the end of its calibration", _ring_ends),
    Forecast("gauge at the end of its travel", _gauge_ends),
    Rule(
        "ring at zero as it was seated",
        _seated_zero,
        source=LABORATORY,
        do="Every force counts from the seated reading: correct the wrong one, or seat again.",
        affects=RATIOS,
    ),
    Rule(
        SEATING_RULE,
        _seating,
        source="BS 1377-9, ASTM D1883",
        affects=RATIOS,
    ),
    Rule("rate of penetration", _rate),
    Rule(
        "no called reading missed",
        _missed,
        source=LABORATORY,
        do="The curve is straight across the gap; repeat where the ratio is read off across it.",
    ),
    Rule("force never falls", _rises, source=LABORATORY, level="watch", at_once=True),
    Rule(
        "zero correction small",
        _small,
        source=LABORATORY,
        do="The surface was loose or uneven, or the plunger not seated: level it and repeat.",
    ),
    Rule("drawn zero near the computed one, with its reason", _drawn, source=LABORATORY, level="watch"),
    Rule(
        # A soil that still stiffens under the plunger is being densified: a tangent there would shift by nonsense.
        "the curve bends over",
        _bends,
        source="BS 1377-4",
        level="watch",
        do="The soil is densified under the plunger: no zero correction applies; say so on the sheet.",
    ),
    reached_the_second,
    Rule(
        "second ratio not above the first",
        _second,
        do="Repeat the test; if the second is higher again, it is reported.",
    ),
    Rule("gauge and datum undisturbed", _undisturbed, source="BS 1377-9", affects=RATIOS),
    Rule(
        "no large stone under the plunger",
        lambda f, s: at_most(f.record.stone_under_mm, s.most_stone_mm, "mm"),
        at=("stone_under_mm",),
        do="Repeat beside it: the plunger stood on the stone.",
    ),
    _in_date,
)
