"""The rules that judge how a push was read: its readings, its ring, its pace, and what happened meanwhile."""

import itertools
from collections.abc import Iterator
from typing import Any

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Level, Verdict
from vadum.soil.contract.verdicts import possible, ruling
from vadum.soil.shared.bearing.calls import pace_of, rate_mm_min, timed
from vadum.soil.shared.bearing.ends import all_found, penetration_of
from vadum.soil.shared.bearing.judgement import RATIOS, SETTING, said
from vadum.soil.shared.bearing.record import BearingRecord
from vadum.soil.shared.bearing.school import BearingSchool

IN_DATE = (
    ("proving_ring", "proving ring"),
    ("gauge", "penetration gauge"),
)


def readings_can_be(facts: Any, school: BearingSchool) -> Iterator[Verdict]:
    """Readings are numbers from nothing up, and the plunger only goes in."""
    record: BearingRecord = facts.record
    for end in record.ends():
        for i, row in enumerate(end.rows):
            at = f"{end.rows_path}[{i}]."
            yield from possible(
                [
                    (f"{at}ring_div", f"reading {i + 1}, ring in divisions,", row.ring_div),
                    (f"{at}force_kn", f"reading {i + 1}, force in kN,", row.force_kn),
                    (f"{at}penetration_mm", f"reading {i + 1}, penetration in mm,", row.penetration_mm),
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
                    found=said(end, f"reading {i + 1} at {plain(b)} mm after {plain(a)} mm", record),
                    limit="each further than the one before",
                    source="physics",
                    remedy="Look at the penetrations; strike the wrong one.",
                    at=(f"{end.rows_path}[{i}].penetration_mm",),
                    affects=RATIOS,
                )


def ring_within_its_calibration(facts: Any, school: BearingSchool) -> Iterator[Verdict]:
    """No force is read off a ring beyond its calibration."""
    record: BearingRecord = facts.record
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
                found=said(end, f"reading {rows}: {plain(end.rows[beyond[0]].ring_div or 0)} divisions", record),
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
                said(end, f"up to {plain(most)} divisions", record),
                limit,
                "the ring's calibration",
                "",
            )


def ring_at_zero_as_seated(facts: Any, school: BearingSchool) -> Iterator[Verdict]:
    """The ring at no penetration reads what it read once seated: forces count from there."""
    record: BearingRecord = facts.record
    for end in record.ends():
        first = end.rows[0] if end.rows else None
        if first is None or not known(first.ring_div) or not known(end.seated_div) or first.penetration_mm:
            continue
        apart = first.ring_div - end.seated_div
        yield ruling(
            "ring at zero as it was seated",
            abs(apart) <= school.most_zero_apart_div,
            said(end, f"{plain(first.ring_div)} divisions at zero, {plain(end.seated_div)} once seated", record),
            f"± {plain(school.most_zero_apart_div)} divisions",
            SETTING,
            "Every force counts from the seated reading: correct the wrong one, or seat again.",
            (f"{end.rows_path}[0].ring_div", f"{end.prefix}seated_div"),
            affects=RATIOS,
        )


def rate_within_band(facts: Any, school: BearingSchool) -> Iterator[Verdict]:
    """The plunger went in at the school's rate."""
    record: BearingRecord = facts.record
    share, band = school.rate_tolerance_percent, pace_of(school)
    limit = f"{plain(school.rate_mm_min)} mm/min ± {plain(share)} %"
    if known(record.timed_mm_min):
        word = band.word(record.timed_mm_min)
        yield ruling(
            "rate of penetration",
            word == "right",
            f"{plain(record.timed_mm_min, 3)} mm/min, noted",
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
        word = band.word(whole)
        steady = all(band.word(r) == "right" for r in (low, high))
        found = f"{plain(whole, 3)} mm/min in all; {plain(low, 2)} to {plain(high, 2)}"
        yield ruling(
            "rate of penetration",
            word == "right" and steady,
            said(end, found, record),
            limit,
            school.standard,
            "Repeat at the right rate; a fast push reads too high in clay."
            if word != "right"
            else "Wind more evenly; the stretch is marked by its times on the sheet.",
            (end.rows_path,),
            otherwise="redo" if word != "right" else "watch",
        )


def readings_not_missed(facts: Any, school: BearingSchool) -> Iterator[Verdict]:
    """Every called reading was taken; one that was missed stays empty."""
    record: BearingRecord = facts.record
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
            if i < len(school.called_mm) and abs(school.called_mm[i] - found.shift_mm - at) <= school.read_off_beside_mm
        ]
        places = ", ".join(f"{school.called_mm[i]:g}" for i in gone[:5] if i < len(school.called_mm))
        bad = bool(nearby) or len(gone) > school.most_missed
        yield ruling(
            "no called reading missed",
            not gone,
            said(end, f"{len(gone)} missed: {places} mm" if gone else f"{len(end.rows)} taken", record),
            f"at most {school.most_missed}, none side by side where the ratio is read off",
            SETTING,
            "The curve is straight across the gap; repeat where the ratio is read off across it.",
            tuple(f"{end.rows_path}[{i}].missed" for i in gone[:5]),
            otherwise="redo" if bad else "watch",
        )


def nothing_happened(facts: Any, school: BearingSchool) -> Iterator[Verdict]:
    """Nothing was noted that spoils a push."""
    record: BearingRecord = facts.record
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
            said(end, f"{words} at {plain(at_mm or 0)} mm" if notes else "nothing noted", record),
            "nothing noted",
            "BS 1377-9",
            "Penetrations after it are not to be trusted: repeat beside it."
            if bad
            else "Readings by hand cover the gap where there are any; the rest stays empty.",
            tuple(f"{end.rows_path}[{i}].noted" for i, _ in notes),
            otherwise=level,
            affects=RATIOS,
        )


def no_stone_under(facts: Any, school: BearingSchool) -> Iterator[Verdict]:
    """No large stone lay under the plunger."""
    record: BearingRecord = facts.record
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


def apparatus_in_date(facts: Any, school: BearingSchool) -> Iterator[Verdict]:
    """Ring and gauge were in date when they were used."""
    record: BearingRecord = facts.record
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
