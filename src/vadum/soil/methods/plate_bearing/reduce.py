"""The ultimate by each rule, the footing by shear and by settlement, and what else a plate tells."""

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Cell, Missing, Outcome, Table
from vadum.soil.contract.results import Results
from vadum.soil.methods.plate_bearing.curve import (
    footing_pressure,
    of_two_plates,
    pressure_at,
    settlement_at,
    settlement_factor,
)
from vadum.soil.methods.plate_bearing.facts import Facts, Found
from vadum.soil.methods.plate_bearing.record import Record
from vadum.soil.methods.plate_bearing.school import BearingSchool
from vadum.soil.shared.plate import load as loads
from vadum.soil.shared.plate.rest import creep_mm
from vadum.soil.shared.water_by_tin import masses_of

KEYS = {
    "two lines": "two_lines_kpa",
    "log-log break": "log_break_kpa",
    "share of width": "width_share_kpa",
    "by hand": "by_hand_kpa",
}


def is_sand(record: Record) -> bool | None:
    """Whether the ground behaves as a sand, as said, else by its kind; None while neither is known."""
    if record.behaves_as is not None:
        return record.behaves_as == "sand"
    return None if record.ground is None else record.ground in ("sand", "gravel")


def _give_ultimates(results: Results, facts: Facts) -> None:
    for one in facts.ultimates:
        name = f"ultimate: {one.rule}"
        if one.kpa is None:
            most = facts.kpa[-1] if facts.kpa else 0.0
            results.say(KEYS[one.rule], "q_ult", name, "kPa", f"greater than {plain(most, 3)}")
            continue
        note = one.words + (f", {one.at_mm:.1f} mm" if one.at_mm is not None else "")
        results.give(KEYS[one.rule], "q_ult", name, one.kpa, "kPa", 1.0, "q", {"q": one.kpa}, note=note)
    picked = facts.ultimate
    if picked is None:
        return
    why = (
        f" because {facts.record.ultimate_because}"
        if picked.rule == "by hand" and facts.record.ultimate_because
        else ""
    )
    if picked.kpa is None:
        most = facts.kpa[-1] if facts.kpa else 0.0
        results.say(
            "ultimate_kpa", "q_ult", f"ultimate of the plate, {picked.rule}", "kPa", f"greater than {plain(most, 3)}"
        )
        return
    results.give(
        "ultimate_kpa",
        "q_ult",
        f"ultimate of the plate, {picked.rule}",
        picked.kpa,
        "kPa",
        1.0,
        "q",
        {"q": picked.kpa},
        note=picked.words + why,
    )


def footing_m(record: Record) -> float | None:
    """The footing's own width, m: never the pit's."""
    return record.footing_width_m if known(record.footing_width_m) else None


def _give_footing(results: Results, facts: Facts, school: BearingSchool) -> None:
    """From the plate to the footing: shear, settlement, and which governs."""
    record, wide, sand = facts.record, footing_m(facts.record), is_sand(facts.record)
    if wide is None or sand is None or not facts.ended:
        return
    plate = facts.plate_m
    safe = record.safety_ratio if known(record.safety_ratio) else school.safety_ratio
    may = record.permissible_mm if known(record.permissible_mm) else school.permissible_mm
    wet = record.water_factor_ratio if known(record.water_factor_ratio) else 1.0
    found: list[tuple[str, float]] = []
    picked: Found | None = facts.ultimate
    if picked is not None and picked.kpa is not None:
        whole = footing_pressure(picked.kpa, plate, wide, sand) * wet
        ways = "q_p * B_f / B_p * f_w" if sand else "q_p * f_w"
        inputs = {"q_p": picked.kpa, "f_w": wet} | ({"B_f": wide, "B_p": plate} if sand else {})
        results.give("footing_ultimate_kpa", "q_f", "ultimate of the footing", whole, "kPa", 1.0, ways, inputs)
        found.append(("shear", whole / safe))
        results.give(
            "allowable_shear_kpa",
            "q_a",
            "allowable by shear",
            whole / safe,
            "kPa",
            1.0,
            "q_f / FS",
            {"q_f": whole, "FS": safe},
        )
    times = settlement_factor(plate, wide, sand)
    plate_mm = may / times
    formula = "S_f * (B_p * (B_f + 0.3) / (B_f * (B_p + 0.3)))**2" if sand else "S_f * B_p / B_f"
    results.give(
        "plate_permissible_mm",
        "S_p",
        "settlement of the plate for that of the footing",
        plate_mm,
        "mm",
        0.01,
        formula,
        {"S_f": may, "B_p": plate, "B_f": wide},
        note=f"the footing may take {plain(may)} mm",
    )
    at = pressure_at(facts.kpa, facts.settled, plate_mm)
    if at is not None:
        found.append(("settlement", at))
        results.give(
            "allowable_settlement_kpa",
            "q_s",
            "allowable by settlement",
            at,
            "kPa",
            1.0,
            "q",
            {"q": at},
            note="read off the curve",
        )
    if len(found) < 2:
        return
    which, least = min(found, key=lambda one: one[1])
    results.give(
        "allowable_kpa",
        "q_a",
        "allowable pressure of the footing",
        least,
        "kPa",
        1.0,
        "q",
        {"q": least},
        note=f"governed by {which}",
    )
    results.say("governs", "", "which governs", "", which)
    sinks = settlement_at(facts.kpa, facts.settled, least)
    if sinks is not None:
        results.give(
            "footing_settlement_mm",
            "S_f",
            "settlement of the footing under it",
            sinks * times,
            "mm",
            0.1,
            "S_p * n",
            {"S_p": sinks, "n": times},
        )


def _give_stiffness(results: Results, facts: Facts, school: BearingSchool) -> None:
    """What the first straight part says: strength of a clay, deformation modulus, subgrade reaction."""
    record = facts.record
    picked = facts.ultimate
    if picked is not None and picked.kpa is not None and is_sand(record) is False and not facts.square:
        results.give(
            "undrained_strength_kpa",
            "c_u",
            "undrained strength, round plate on clay",
            picked.kpa / school.strength_divisor_ratio,
            "kPa",
            1.0,
            "q_ult / N",
            {"q_ult": picked.kpa, "N": school.strength_divisor_ratio},
            note="plate at the surface of its pit",
        )
    if len(facts.kpa) < 3 or not facts.ended:
        return
    half = facts.kpa[: max(2, len(facts.kpa) // 2)]
    q, s = half[-1], facts.settled[len(half) - 1]
    if s <= 0:
        return
    shape = school.square_shape_factor if facts.square else school.round_shape_factor
    nu = school.poisson_ratio
    results.give(
        "deformation_modulus_mpa",
        "E",
        "deformation modulus",
        q * facts.plate_m * (1 - nu**2) * shape / s,
        "MPa",
        0.1,
        "q * B * (1 - nu**2) * I / s",
        {"q": q, "B": facts.plate_m, "nu": nu, "I": shape, "s": s},
        note=f"secant to {q:.0f} kPa; # ν {nu:g} taken",
    )
    results.give(
        "subgrade_reaction_mn_m3",
        "k",
        "subgrade reaction of this plate",
        q / s,
        "MN/m³",
        1.0,
        "q / s",
        {"q": q, "s": s},
        note=f"secant to {q:.0f} kPa; of a footing it is another",
    )
    _give_of_the_footing(results, facts, q / s)


def _give_of_the_footing(results: Results, facts: Facts, k: float) -> None:
    """The subgrade reaction of the footing from the plate's: it settles so much more under the same pressure."""
    wide, sand = footing_m(facts.record), is_sand(facts.record)
    if wide is None or sand is None:
        return
    times = settlement_factor(facts.plate_m, wide, sand)
    results.give(
        "footing_reaction_mn_m3",
        "k_f",
        "subgrade reaction of the footing",
        k / times,
        "MN/m³",
        0.1,
        "k / n",
        {"k": k, "n": times},
        note="by how much more the footing settles",
    )


def _give_rest(results: Results, facts: Facts) -> None:
    """Rebound, tilt, and two plates together."""
    record = facts.record
    first = [one for one in facts.steps if one.cycle == "first" and one.counts]
    down = [one for one in facts.steps if one.cycle == "down" and one.counts]
    if first and down:
        top = max(one.settlement_mm or 0.0 for one in first)
        left = down[-1].settlement_mm or 0.0
        if top > 0:
            results.give(
                "elastic_share_percent",
                "R",
                "rebound as a share of the settlement",
                100 * (top - left) / top,
                "%",
                1.0,
                "100 * (s_max - s_0) / s_max",
                {"s_max": top, "s_0": left},
            )
    wide, kpa, at = record.second_plate_mm, record.second_plate_kpa, record.compared_at_mm
    if not (known(wide) and known(kpa) and known(at)) or not facts.kpa:
        return
    own = pressure_at(facts.kpa, facts.settled, at)
    if own is None:
        return
    area, edge = facts.plate_mm2 / 1e6, loads.perimeter_mm(facts.width_mm, facts.square) / 1000
    area_2, edge_2 = loads.area_mm2(wide, facts.square) / 1e6, loads.perimeter_mm(wide, facts.square) / 1000
    both = of_two_plates(own * area, area, edge, kpa * area_2, area_2, edge_2)
    if both is None:
        return
    q, s = both
    inputs = {"Q_1": own * area, "Q_2": kpa * area_2, "A_1": area, "A_2": area_2, "P_1": edge, "P_2": edge_2}
    results.work(
        "two_plates_kpa",
        "q",
        "(Q_1 * P_2 - Q_2 * P_1) / (A_1 * P_2 - A_2 * P_1)",
        inputs,
        (own * area * edge_2 - kpa * area_2 * edge) / (area * edge_2 - area_2 * edge),
        "kPa",
    )
    width = footing_m(record)
    if width is None:
        return
    length = record.footing_length_m if known(record.footing_length_m) else width
    footing = width * length * q + 2 * (width + length) * s
    results.give(
        "footing_load_kn",
        "Q_f",
        f"load of the footing at {plain(at)} mm, two plates",
        footing,
        "kN",
        1.0,
        "B * L * q + 2 * (B + L) * s",
        {"B": width, "L": length, "q": q, "s": s},
        note="Q = A q + P s",
    )


def _series(facts: Facts) -> dict[str, Table]:
    names = {"preload": "seating", "first": "load", "down": "rebound", "again": "load"}
    rows: list[dict[str, Cell]] = []
    times: list[dict[str, Cell]] = []
    for one in facts.steps:
        if one.kpa is None or one.settlement_mm is None:
            continue
        minutes, mm = one.timed
        still = one is facts.hand and facts.rest is not None and not facts.rest.at_rest
        rows.append(
            {
                "step": one.row + 1,
                "part": names[one.cycle],
                "kpa": one.kpa,
                "settlement_mm": one.settlement_mm,
                "order": one.row,
                "rate": one.rate_mm_min,
                "held_min": one.held_min,
                "moving": still,
                "creep_mm": creep_mm(minutes, mm),
                "label": f"{one.settlement_mm:.2f} mm, still moving" if still else "",
            }
        )
        if one.cycle == "first":
            times += [
                {"minutes": t, "settlement_mm": s, "step": f"{one.kpa:.0f} kPa"}
                for t, s in zip(minutes, mm, strict=True)
                if t > 0
            ]
    lines: list[dict[str, Cell]] = []
    if facts.lines is not None and facts.kpa:
        its, o = facts.lines, facts.origin_mm
        start = max(0.0, -its.first.intercept / its.first.slope) if its.first.slope > 0 else 0.0
        for name, line, a, b in (
            ("first", its.first, start, 1.08 * its.x),
            ("last", its.last, 0.94 * its.x, facts.kpa[-1]),
        ):
            lines += [{"line": name, "kpa": x, "settlement_mm": line.at(x) + o} for x in (a, b)]
    marks: list[dict[str, Cell]] = [
        {
            "kpa": one.kpa,
            "settlement_mm": (one.at_mm or 0.0) + facts.origin_mm,
            "label": f"{one.kpa:.0f} kPa by {one.rule}",
            "picked": one == facts.ultimate,
        }
        for one in facts.ultimates
        if one.kpa is not None and one.at_mm is not None
    ]
    handle = facts.ultimate
    handles: list[dict[str, Cell]] = []
    if handle is not None and handle.kpa is not None and facts.over:
        handles = [
            {
                "at": handle.kpa,
                "label": f"{handle.kpa:.0f} kPa",
                "words": "{} kPa",
                "digits": 0,
                "path": "ultimate_hand_kpa",
                "high": settlement_at(facts.kpa, facts.settled, min(handle.kpa, facts.kpa[-1])),
            }
        ]
    return {
        "steps": tuple(rows),
        "times": tuple(times),
        "lines": tuple(lines),
        "marks": tuple(marks),
        "handles": tuple(handles),
        "truth": (),
    }


def reduce(facts: Facts, school: BearingSchool) -> Outcome:
    """Everything that the readings so far allow."""
    results = Results(school.standard)
    if facts.kpa:
        last = facts.settled[-1]
        results.give(
            "settlement_mm",
            "s",
            "settlement at the last load",
            last,
            "mm",
            0.01,
            "s - s_0",
            {"s": last + facts.origin_mm, "s_0": facts.origin_mm},
            estimate=not facts.ended,
            until="" if facts.ended else "the last load",
            note=f"at {facts.kpa[-1]:.0f} kPa"
            + (f"; {facts.origin_mm:.2f} mm of bedding-in taken off" if facts.origin_mm else ""),
        )
    _give_ultimates(results, facts)
    _give_footing(results, facts, school)
    _give_stiffness(results, facts, school)
    _give_rest(results, facts)
    tin = masses_of(facts.record.tins[0]) if facts.record.tins else None
    if tin:
        results.give_water("water_content_percent", "water content beside", tin)
    missing = []
    if not facts.ended:
        missing.append(Missing(name="ultimate", waits_for="the last load", at="steps"))
    if footing_m(facts.record) is None:
        missing.append(Missing(name="allowable pressure", waits_for="the width of the footing", at="footing_width_m"))
    return Outcome(
        method="plate_bearing",
        school=school.name,
        values=tuple(results.values),
        missing=tuple(missing),
        working=tuple(results.working),
        series=_series(facts),
    )
