"""The rules that judge what a push proves: its seating, its curve, its zero, and the ratio that governs."""

import itertools
from collections.abc import Iterator
from typing import Any

from vadum.soil.contract.errors import ReductionError
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Level, Verdict
from vadum.soil.contract.verdicts import ruling
from vadum.soil.shared.bearing.curve import seating_n
from vadum.soil.shared.bearing.ends import Found, all_found, governing
from vadum.soil.shared.bearing.judgement import RATIOS, SETTING, said
from vadum.soil.shared.bearing.record import BearingRecord
from vadum.soil.shared.bearing.school import BearingSchool
from vadum.soil.shared.proving_ring import divisions_of

SEATING_RULE = "seating load of the ratio's class"


def _ratio(found: Found, record: BearingRecord, school: BearingSchool) -> float | None:
    its = governing(found, record, school)
    return its.percent if its else None


def seating_of_its_class(facts: Any, school: BearingSchool) -> Iterator[Verdict]:
    """The seating load belongs to the ratio that was found."""
    record: BearingRecord = facts.record
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
            SEATING_RULE,
            near,
            said(end, f"{plain(end.seating_n)} N, ratio near {ratio:.3g} %", record),
            f"{plain(wanted)} N{in_divisions}",
            "BS 1377-9, ASTM D1883",
            "Too much seating pushes the plunger in before zero: repeat with the smaller load."
            if much
            else "Say so on the sheet, or repeat with the greater seating load.",
            (f"{end.prefix}seating_n",),
            otherwise=level,
            affects=RATIOS,
        )


def force_never_falls(facts: Any, school: BearingSchool) -> Iterator[Verdict]:
    """The force rises, or stays, as the plunger goes in."""
    record: BearingRecord = facts.record
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
            said(
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


def correction_small(facts: Any, school: BearingSchool) -> Iterator[Verdict]:
    """The zero moves by little; a large shift says that the surface was not ready."""
    record: BearingRecord = facts.record
    for found in all_found(record, school):
        if not found.over or found.computed is None:
            continue
        yield ruling(
            "zero correction small",
            found.shift_mm <= school.most_correction_mm,
            said(found.end, f"{plain(found.shift_mm, 3)} mm", record),
            f"{plain(school.most_correction_mm)} mm",
            SETTING,
            "The surface was loose or uneven, or the plunger not seated: level it and repeat.",
            (f"{found.end.prefix}zero_mm",),
        )


def zero_drawn_as_computed(facts: Any, school: BearingSchool) -> Iterator[Verdict]:
    """An analyst's zero stands beside the computed one, with its reason."""
    record: BearingRecord = facts.record
    for found in all_found(record, school):
        if found.by != "analyst" or found.computed is None:
            continue
        apart = abs(found.shift_mm - found.computed.shift_mm)
        near = apart <= school.most_zero_apart_mm
        reasoned = bool(found.end.zero_because)
        yield ruling(
            "drawn zero near the computed one, with its reason",
            near and reasoned,
            said(
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


def bends_over(facts: Any, school: BearingSchool) -> Iterator[Verdict]:
    """The curve bends over; one that still steepens at its end is being densified and gets no correction."""
    record: BearingRecord = facts.record
    for found in all_found(record, school):
        if not found.over or found.computed is None or found.computed.why == "too short":
            continue
        still = found.computed.why == "still steepening at its end"
        yield ruling(
            "the curve bends over",
            not still,
            said(found.end, found.computed.why, record),
            "bends over before its end",
            "BS 1377-4",
            "The soil is densified under the plunger: no zero correction applies; say so on the sheet.",
            (found.end.rows_path,),
            otherwise="watch",
        )


def reached_the_second(facts: Any, school: BearingSchool) -> Iterator[Verdict]:
    """The record reaches the second penetration; otherwise less can be said, and it is said."""
    record: BearingRecord = facts.record
    for found in all_found(record, school):
        if not found.over or found.curve is None:
            continue
        reach = found.curve.end_mm - found.shift_mm
        its = governing(found, record, school)
        yield ruling(
            f"read to {plain(school.second_mm)} mm",
            reach >= school.second_mm,
            said(
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


def second_not_higher(facts: Any, school: BearingSchool) -> Iterator[Verdict]:
    """By some schools a second ratio above the first asks for a repeat."""
    record: BearingRecord = facts.record
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
            said(found.end, f"{plain(first, 3)} and {plain(second, 3)} %", record),
            "the first is the higher, or the test is a repeat",
            school.standard,
            "Repeat the test; if the second is higher again, it is reported.",
            ("repeated",),
        )
