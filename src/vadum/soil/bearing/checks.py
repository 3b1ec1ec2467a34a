"""The rules that judge a push of the plunger; both methods run them."""

import itertools
from collections.abc import Iterator

from vadum.soil.bearing.calling import pace_of, rate_mm_min, timed
from vadum.soil.bearing.curve import seating_n
from vadum.soil.bearing.ends import Found, all_found, governing, penetration_of
from vadum.soil.bearing.record import BearingRecord, End
from vadum.soil.bearing.ring import divisions_of
from vadum.soil.bearing.school import BearingSchool
from vadum.soil.errors import ReductionError
from vadum.soil.judging import possible, ruling
from vadum.soil.numerics import plain
from vadum.soil.outcome import Level, Verdict
from vadum.soil.readings import known

SETTING = "laboratory setting"
RATIOS = (
    "bearing_ratio_percent",
    *(f"{e}_{k}_percent" for e in ("top", "bottom") for k in ("first", "second")),
    "first_percent",
    "second_percent",
    "top_percent",
    "bottom_percent",
    "zero_correction_mm",
    "top_zero_correction_mm",
    "bottom_zero_correction_mm",
)
IN_DATE = (
    ("proving_ring", "proving ring"),
    ("gauge", "penetration gauge"),
)


def _said(end: End, words: str, record: BearingRecord) -> str:
    return f"{end.words}: {words}" if len(record.ends()) > 1 else words


def _ratio(found: Found, record: BearingRecord, school: BearingSchool) -> float | None:
    its = governing(found, record, school)
    return its.percent if its else None


def readings_can_be(record: BearingRecord, school: BearingSchool) -> Iterator[Verdict]:
    """Readings are numbers from nothing up, and the plunger only goes in."""
    for end in record.ends():
        for i, row in enumerate(end.rows):
            at = f"{end.rows_path}[{i}]."
            yield from possible(
                [
                    (f"{at}ring_div", f"reading {i + 1}, ring", row.ring_div),
                    (f"{at}force_kn", f"reading {i + 1}, force", row.force_kn),
                    (f"{at}penetration_mm", f"reading {i + 1}, penetration", row.penetration_mm),
                ],
                affects=RATIOS,
            )
        places = [(i, penetration_of(end, i, school)) for i in range(len(end.rows))]
        known_places = [(i, p) for i, p in places if p is not None and end.rows[i].missed is None]
        for (_, a), (i, b) in itertools.pairwise(known_places):
            if b <= a:
                yield Verdict(
                    rule="the plunger only goes in",
                    level="stop",
                    found=_said(end, f"reading {i + 1} at {plain(b)} mm after {plain(a)} mm", record),
                    limit="each further than the one before",
                    source="physics",
                    remedy="Look at the penetrations; strike the wrong one.",
                    at=(f"{end.rows_path}[{i}].penetration_mm",),
                    affects=RATIOS,
                )


def ring_within_its_calibration(record: BearingRecord, school: BearingSchool) -> Iterator[Verdict]:
    """No force is read off a ring beyond its calibration."""
    ring = record.ring()
    if ring is None:
        return
    low, high = ring.range_div
    limit = f"{plain(low)} to {plain(high)} divisions" if high is not None else f"from {plain(low)} divisions"
    for end in record.ends():
        beyond = [
            i
            for i, r in enumerate(end.rows)
            if known(r.ring_div) and (r.ring_div < low or (high is not None and r.ring_div > high))
        ]
        if beyond:
            rows = ", ".join(str(i + 1) for i in beyond[:4])
            yield Verdict(
                rule="ring within its calibration",
                level="stop",
                found=_said(end, f"reading {rows}: {plain(end.rows[beyond[0]].ring_div or 0)} divisions", record),
                limit=limit,
                source="the ring's calibration",
                remedy="Stop the push; use a stiffer ring, or strike the reading if it is a slip.",
                at=tuple(f"{end.rows_path}[{i}].ring_div" for i in beyond),
                affects=RATIOS,
            )
        elif end.rows:
            most = max((r.ring_div for r in end.rows if known(r.ring_div)), default=0.0)
            yield ruling(
                "ring within its calibration",
                True,
                _said(end, f"up to {plain(most)} divisions", record),
                limit,
                "the ring's calibration",
                "",
            )


def ring_at_zero_as_seated(record: BearingRecord, school: BearingSchool) -> Iterator[Verdict]:
    """The ring at no penetration reads what it read once seated: forces count from there."""
    for end in record.ends():
        first = end.rows[0] if end.rows else None
        if first is None or not known(first.ring_div) or not known(end.seated_div) or first.penetration_mm:
            continue
        apart = first.ring_div - end.seated_div
        yield ruling(
            "ring at zero as it was seated",
            abs(apart) <= school.most_zero_apart_div,
            _said(end, f"{plain(first.ring_div)} at zero, {plain(end.seated_div)} once seated", record),
            f"± {plain(school.most_zero_apart_div)} divisions",
            SETTING,
            "Every force counts from the seated reading: correct the wrong one, or seat again.",
            (f"{end.rows_path}[0].ring_div", f"{end.prefix}seated_div"),
            affects=RATIOS,
        )


def seating_of_its_class(record: BearingRecord, school: BearingSchool) -> Iterator[Verdict]:
    """The seating load belongs to the ratio that was found."""
    for found in all_found(record, school):
        end, ratio = found.end, _ratio(found, record, school)
        if not known(end.seating_n) or ratio is None or ratio <= 0:
            continue
        wanted = seating_n(ratio, school.seating_classes)
        in_divisions = ""
        ring = record.ring()
        if ring is not None:
            try:
                in_divisions = f", {plain(divisions_of(ring, wanted / 1000), 3)} divisions"
            except ReductionError:
                in_divisions = ""
        share = school.seating_tolerance_percent / 100
        much = end.seating_n > (1 + share) * wanted
        near = not much and end.seating_n >= (1 - share) * wanted
        level: Level = "redo" if much else "watch"
        yield ruling(
            "seating load of the ratio's class",
            near,
            _said(end, f"{plain(end.seating_n)} N, ratio near {ratio:.3g} %", record),
            f"{plain(wanted)} N{in_divisions}",
            "BS 1377-9, ASTM D1883",
            "Too much seating pushes the plunger in before zero: repeat with the smaller load."
            if much
            else "Say so on the sheet, or repeat with the greater seating load.",
            (f"{end.prefix}seating_n",),
            otherwise=level,
            affects=RATIOS,
        )


def rate_within_band(record: BearingRecord, school: BearingSchool) -> Iterator[Verdict]:
    """The plunger went in at the school's rate."""
    share = school.rate_tolerance_percent
    limit = f"{plain(school.rate_mm_min)} mm/min ± {plain(share)} %"
    if known(record.timed_mm_min):
        pace = pace_of(record.timed_mm_min, school)
        yield ruling(
            "rate of penetration",
            pace.word == "right",
            f"{plain(pace.mm_min, 3)} mm/min, noted",
            limit,
            school.standard,
            "Repeat at the right rate; a fast push reads too high in clay.",
            ("timed_mm_min",),
        )
        return
    for end in record.ends():
        rows = timed(end, school)
        whole = rate_mm_min(rows)
        if len(rows) < 5 or whole is None:
            continue
        stretches = [r for i in range(len(rows) - 4) if (r := rate_mm_min(rows[i : i + 5])) is not None]
        low, high = min(stretches, default=whole), max(stretches, default=whole)
        word = pace_of(whole, school).word
        steady = all(pace_of(r, school).word == "right" for r in (low, high))
        found = f"{plain(whole, 3)} mm/min in all; {plain(low, 2)} to {plain(high, 2)}"
        yield ruling(
            "rate of penetration",
            word == "right" and steady,
            _said(end, found, record),
            limit,
            school.standard,
            "Repeat at the right rate; a fast push reads too high in clay."
            if word != "right"
            else "Wind more evenly; the stretch is marked by its times on the sheet.",
            (end.rows_path,),
            otherwise="redo" if word != "right" else "watch",
        )


def readings_not_missed(record: BearingRecord, school: BearingSchool) -> Iterator[Verdict]:
    """Every called reading was taken; one that was missed stays empty."""
    for found in all_found(record, school):
        end = found.end
        gone = [i for i in range(len(end.rows)) if end.rows[i].force_kn is None and end.rows[i].ring_div is None]
        if not end.rows:
            continue
        pairs = [b for a, b in itertools.pairwise(gone) if b == a + 1]
        nearby = [
            i
            for i in pairs
            for at in (school.first_mm, school.second_mm)
            if i < len(school.called_mm) and abs(school.called_mm[i] - found.shift_mm - at) <= 0.6
        ]
        places = ", ".join(f"{school.called_mm[i]:g}" for i in gone[:5] if i < len(school.called_mm))
        bad = bool(nearby) or len(gone) > school.most_missed
        yield ruling(
            "no called reading missed",
            not gone,
            _said(end, f"{len(gone)} missed: {places} mm" if gone else f"{len(end.rows)} taken", record),
            f"at most {school.most_missed}, none side by side where the ratio is read off",
            SETTING,
            "The curve is straight across the gap; repeat where the ratio is read off across it.",
            tuple(f"{end.rows_path}[{i}].missed" for i in gone[:5]),
            otherwise="redo" if bad else "watch",
        )


def force_never_falls(record: BearingRecord, school: BearingSchool) -> Iterator[Verdict]:
    """The force rises, or stays, as the plunger goes in."""
    for found in all_found(record, school):
        if len(found.points) < 3:
            continue
        most = max(p.force_kn for p in found.points)
        least = school.most_fall_percent / 100 * most
        falls = [(b.row, a.force_kn - b.force_kn) for a, b in itertools.pairwise(found.points)]
        row, deepest = max(falls, key=lambda f: f[1])
        yield ruling(
            "force never falls",
            deepest <= least,
            _said(
                found.end,
                f"falls by {plain(deepest, 2)} kN to reading {row + 1}" if deepest > least else "it rises",
                record,
            ),
            f"no fall above {plain(school.most_fall_percent)} % of the highest",
            SETTING,
            f"Look at reading {row + 1}: a slip is corrected; a crack, a stone or a lifted reaction is noted.",
            (f"{found.end.rows_path}[{row}].ring_div",),
            otherwise="watch",
        )


def correction_small(record: BearingRecord, school: BearingSchool) -> Iterator[Verdict]:
    """The zero moves by little; a large shift says that the surface was not ready."""
    for found in all_found(record, school):
        if not found.over or found.computed is None:
            continue
        yield ruling(
            "zero correction small",
            found.shift_mm <= school.most_correction_mm,
            _said(found.end, f"{plain(found.shift_mm, 3)} mm", record),
            f"{plain(school.most_correction_mm)} mm",
            SETTING,
            "The surface was loose or uneven, or the plunger not seated: level it and repeat.",
            (f"{found.end.prefix}zero_mm",),
        )


def zero_drawn_as_computed(record: BearingRecord, school: BearingSchool) -> Iterator[Verdict]:
    """An analyst's zero stands beside the computed one, with its reason."""
    for found in all_found(record, school):
        if found.by != "analyst" or found.computed is None:
            continue
        apart = abs(found.shift_mm - found.computed.shift_mm)
        near = apart <= school.most_zero_apart_mm
        reasoned = bool(found.end.zero_because)
        yield ruling(
            "drawn zero near the computed one, with its reason",
            near and reasoned,
            _said(
                found.end,
                f"drawn {plain(found.shift_mm, 3)}, computed {plain(found.computed.shift_mm, 3)} mm"
                f"{'' if reasoned else ', no reason'}",
                record,
            ),
            f"{plain(school.most_zero_apart_mm)} mm apart",
            SETTING,
            "Both stand on the sheet; say why it was drawn so." if reasoned else "Say why it was drawn so.",
            (f"{found.end.prefix}zero_mm",),
            otherwise="watch",
        )


def bends_over(record: BearingRecord, school: BearingSchool) -> Iterator[Verdict]:
    """The curve bends over; one that still steepens at its end is being densified and gets no correction."""
    for found in all_found(record, school):
        if not found.over or found.computed is None or found.computed.why == "too short":
            continue
        still = found.computed.why == "still steepening at its end"
        yield ruling(
            "the curve bends over",
            not still,
            _said(found.end, found.computed.why, record),
            "bends over before its end",
            "BS 1377-4",
            "The soil is densified under the plunger: no zero correction applies; say so on the sheet.",
            (found.end.rows_path,),
            otherwise="watch",
        )


def reached_the_second(record: BearingRecord, school: BearingSchool) -> Iterator[Verdict]:
    """The record reaches the second penetration; otherwise less can be said, and it is said."""
    for found in all_found(record, school):
        if not found.over or found.curve is None:
            continue
        reach = found.curve.end_mm - found.shift_mm
        its = governing(found, record, school)
        yield ruling(
            f"read to {plain(school.second_mm)} mm",
            reach >= school.second_mm,
            _said(
                found.end,
                f"ends at {plain(found.curve.end_mm, 3)} mm{f', {found.end.stopped}' if found.end.stopped else ''}",
                record,
            ),
            f"{plain(school.second_mm)} mm from the corrected zero",
            school.standard,
            f"Report what the record proves: {its.sentence}" if its else "Nothing can be read off: repeat.",
            (found.end.rows_path,),
            otherwise="watch" if its else "redo",
        )


def second_not_higher(record: BearingRecord, school: BearingSchool) -> Iterator[Verdict]:
    """By some schools a second ratio above the first asks for a repeat."""
    if school.governs == "the higher":
        return
    for found in all_found(record, school):
        if len(found.ratios) < 2 or not found.over:
            continue
        first, second = (r.percent for r in found.ratios)
        if first is None or second is None:
            continue
        yield ruling(
            "second ratio not above the first",
            second <= first or record.repeated == "yes",
            _said(found.end, f"{plain(first, 3)} and {plain(second, 3)} %", record),
            "the first is the higher, or the test is a repeat",
            school.standard,
            "Repeat the test; if the second is higher again, it is reported.",
            ("repeated",),
        )


def nothing_happened(record: BearingRecord, school: BearingSchool) -> Iterator[Verdict]:
    """Nothing was noted that spoils a push."""
    for end in record.ends():
        if not end.rows:
            continue
        notes = [(i, r.noted) for i, r in enumerate(end.rows) if r.noted]
        bad = [n for n in notes if n[1] != "line lost"]
        level: Level = "redo" if bad else "watch"
        i, words = (bad or notes)[0] if notes else (0, None)
        at_mm = penetration_of(end, i, school)
        yield ruling(
            "gauge and datum undisturbed",
            not notes,
            _said(end, f"{words} at {plain(at_mm or 0)} mm" if notes else "nothing noted", record),
            "nothing noted",
            "BS 1377-9",
            "Penetrations after it are not to be trusted: repeat beside it."
            if bad
            else "Readings by hand cover the gap where there are any; the rest stays empty.",
            tuple(f"{end.rows_path}[{i}].noted" for i, _ in notes),
            otherwise=level,
            affects=RATIOS,
        )


def no_stone_under(record: BearingRecord, school: BearingSchool) -> Iterator[Verdict]:
    """No large stone lay under the plunger."""
    if not known(record.stone_under_mm):
        return
    yield ruling(
        "no large stone under the plunger",
        record.stone_under_mm <= school.most_stone_mm,
        f"{plain(record.stone_under_mm)} mm",
        f"{plain(school.most_stone_mm)} mm",
        school.standard,
        "Repeat beside it: the plunger stood on the stone.",
        ("stone_under_mm",),
    )


def apparatus_in_date(record: BearingRecord, school: BearingSchool) -> Iterator[Verdict]:
    """Ring and gauge were in date when they were used."""
    for field, words in IN_DATE:
        state = getattr(record, f"{field}_in_date")
        if state is None:
            continue
        due = getattr(record, f"{field}_due_on")
        yield ruling(
            f"{words} in date",
            state == "yes",
            f"{words} {getattr(record, field)}",
            f"due {due:%d %b %Y}" if due else "calibrated",
            SETTING,
            "Have it calibrated; say on the sheet that it had lapsed.",
            (field,),
            otherwise="watch",
        )


SHARED = (
    readings_can_be,
    ring_within_its_calibration,
    ring_at_zero_as_seated,
    seating_of_its_class,
    rate_within_band,
    readings_not_missed,
    force_never_falls,
    correction_small,
    zero_drawn_as_computed,
    bends_over,
    reached_the_second,
    second_not_higher,
    nothing_happened,
    no_stone_under,
    apparatus_in_date,
)
