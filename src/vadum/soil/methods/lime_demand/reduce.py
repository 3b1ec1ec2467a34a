"""The lime demand of six bottles: pH at 25 °C, the rule that decides, as hydrated lime and as quicklime, of the fine
part and of the whole soil."""

import math

from vadum.soil.contract.compare import at_least
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Cell, Missing, Outcome, Table
from vadum.soil.contract.results import Results
from vadum.soil.methods.lime_demand.facts import Facts, One
from vadum.soil.methods.lime_demand.school import LimeSchool

WORDS = {
    "reaches": "the lowest lime that gives {reach}",
    "no longer rises": "pH goes on rising above {reach}: the lowest lime after which more no longer raises it",
    "two near": "none gives {reach}; two in turn give {near} or more: the lower of them",
    "still rises": "pH still rises at the most lime that was tried: more lime",
    "more lime": "none gives {reach}, and no two in turn {near}: more lime, or the meter set anew",
}


def rule_words(facts: Facts, school: LimeSchool) -> str:
    """The rule that decided, in one sentence; empty while nothing is decided."""
    if facts.decision is None:
        return ""
    words = WORDS[facts.decision.rule]
    if facts.decision.rule == "more lime" and not school.plateau:
        words = "none gives {reach}: more lime, or the meter set anew"
    return words.format(reach=f"{school.reaches_ph:.2f}", near=f"{school.near_ph:.2f}")


def open_between(facts: Facts, school: LimeSchool) -> str:
    """The limes that the bottles still to be read leave open, `4 or 5`; empty once one has reached the limit."""
    if any(at_least(p.ph, school.reaches_ph) for p in facts.points):
        return ""
    limes = sorted(
        b.bottle.lime_percent
        for b in facts.bottles
        if b.counts and not b.is_lime_only and b.ph25 is None and known(b.bottle.lime_percent)
    )
    named = [plain(lime) for lime in limes[:2]]
    return " or ".join([*named, "more"][:2]) if named else ""


def _give_bottle(results: Results, one: One, school: LimeSchool, facts: Facts) -> None:
    prefix = f"b{one.row + 1}_"
    bottle = one.bottle
    if one.ph25 is not None and known(bottle.read_ph):
        warm = bottle.temperature_c if known(bottle.temperature_c) else facts.record.bath_c
        t = warm if known(warm) else school.bath_c
        results.give(
            f"{prefix}ph25",
            "pH_25",
            f"pH at 25 °C, {one.words}",
            one.ph25,
            "pH",
            0.01,
            "pH_T + k * (T - T_25)",
            {"pH_T": bottle.read_ph, "k": school.per_c_ph, "T": t, "T_25": school.bath_c},
            uncertainty=school.meter_ph,
            note="" if known(bottle.temperature_c) else "temperature of the bath" if known(warm) else "# 25 °C taken",
        )
    if one.percent is not None and known(bottle.lime_g) and known(bottle.soil_g):
        results.work(
            f"{prefix}lime",
            "L",
            "100 * m_l / (m_s / (1 + w / 100))",
            {"m_l": bottle.lime_g, "m_s": bottle.soil_g, "w": facts.record.water_percent or 0.0},
            one.percent,
            "%",
            note=f"lime that is in the {one.words} bottle",
        )


def _give_told(results: Results, facts: Facts, school: LimeSchool) -> None:
    """What is told to weigh."""
    told = next((b.told_soil_g for b in facts.bottles if b.told_soil_g is not None), None)
    if told is not None and known(facts.record.water_percent):
        results.work(
            "told_soil_g",
            "m_s",
            "m_d * (1 + w / 100)",
            {"m_d": school.dry_g, "w": facts.record.water_percent},
            told,
            "g",
            note="moist soil to weigh into each bottle",
        )
    for one in facts.bottles:
        if one.told_lime_g is not None and not one.is_lime_only and known(one.bottle.lime_percent):
            results.work(
                f"b{one.row + 1}_told_g",
                "m_l",
                "m_d * L / 100",
                {"m_d": school.dry_g, "L": one.bottle.lime_percent},
                one.told_lime_g,
                "g",
                note=f"lime to weigh for {one.words}",
            )


def _give_demand(results: Results, facts: Facts, school: LimeSchool) -> None:
    decision = facts.decision
    if decision is None:
        if facts.points and facts.only_word == "stop":
            results.withhold("demand_percent", "LD", school.named, "%")
        return
    open_ = not facts.all_read
    if open_ and (between := open_between(facts, school)):
        results.say("open_percent", "", "decision open between", "%", between)
    results.say("decided_by", "", "decided by", "", rule_words(facts, school), provisional=open_)
    if facts.flip is not None:
        change = abs(facts.flip.change_ph)
        where = "in all bottles" if facts.flip.row is None else f"in the {facts.bottles[facts.flip.row].words} bottle"
        then = "none" if facts.flip.lime_percent is None else f"{plain(facts.flip.lime_percent)} %"
        results.give(
            "flip_ph",
            "",
            "distance to another decision",
            change,
            "pH",
            0.01,
            "d",
            {"d": change},
            note=f"{facts.flip.change_ph:+.2f} {where} would make it {then}",
            uncertainty=school.meter_ph,
            estimate=open_,
            until="all bottles are read" if open_ else "",
        )
    if decision.lime_percent is None:
        results.withhold("demand_percent", "LD", school.named, "%")
        return
    demand = decision.lime_percent
    below = max((p.lime_percent for p in facts.points if p.lime_percent < demand), default=0.0)
    error = (demand - below) / math.sqrt(12)
    until = "all bottles are read" if open_ else ""
    step = 1.0 if all(p.lime_percent == int(p.lime_percent) for p in facts.points) else 0.1
    hydrated = facts.record.lime_kind != "quicklime, crushed"
    used = facts.record.lime_kind or "# hydrated lime taken"
    results.give(
        "demand_percent",
        "LD",
        f"{school.named}, of the part below 0.425 mm",
        demand,
        "%",
        step,
        "L",
        {"L": demand},
        note=used,
        uncertainty=error,
        estimate=open_,
        until=until,
    )
    if decision.plain_percent is not None and decision.rule == "no longer rises":
        results.give(
            "plain_percent",
            "LD_1",
            f"lowest lime that gives {school.reaches_ph:.2f} alone",
            decision.plain_percent,
            "%",
            step,
            "L",
            {"L": decision.plain_percent},
            uncertainty=error,
            estimate=open_,
            until=until,
        )
    to_hydrated, to_quick = (1.0, school.quick_ratio) if hydrated else (1 / school.quick_ratio, 1.0)
    for key, symbol, name, ratio in (
        ("demand_hydrated_percent", "LD_h", "as hydrated lime", to_hydrated),
        ("demand_quicklime_percent", "LD_q", "as quicklime", to_quick),
    ):
        results.give(
            key,
            symbol,
            name,
            ratio * demand,
            "%",
            0.1,
            "LD * r",
            {"LD": demand, "r": ratio},
            note="as used" if ratio == 1.0 else f"ratio {school.quick_ratio:g}",
            uncertainty=ratio * error,
            estimate=open_,
            until=until,
        )
    share = facts.record.finer_0425_percent
    if known(share):
        whole = demand * share / 100
        results.give(
            "demand_whole_percent",
            "LD_w",
            "referred to the whole soil",
            whole,
            "%",
            0.1,
            "LD * P_425 / 100",
            {"LD": demand, "P_425": share},
            note=used,
            uncertainty=error * share / 100,
            estimate=open_,
            until=until,
        )


def _series(facts: Facts, school: LimeSchool) -> dict[str, Table]:
    points: list[dict[str, Cell]] = []
    near = facts.flip.row if facts.flip else None
    for p in facts.points:
        one = facts.bottles[p.row]
        points.append(
            {
                "lime": p.lime_percent,
                "ph": p.ph,
                "low": p.ph - school.meter_ph,
                "high": p.ph + school.meter_ph,
                "label": f"{p.ph:.2f}",
                "decides": facts.decision is not None and facts.decision.row == p.row,
                "near": near == p.row,
                "words": one.words,
                "read": one.bottle.read_ph,
                "row": p.row + 1,
            }
        )
    bounds: list[dict[str, Cell]] = [{"ph": school.reaches_ph, "label": f"{school.reaches_ph:.2f} decides"}]
    if school.plateau:
        bounds.append({"ph": school.near_ph, "label": f"{school.near_ph:.2f} if none reaches"})
    only: list[dict[str, Cell]] = []
    if facts.only_ph is not None:
        only.append({"ph": facts.only_ph, "label": f"lime-only bottle {facts.only_ph:.2f}"})
    return {"points": tuple(points), "bounds": tuple(bounds), "only": tuple(only)}


def reduce(facts: Facts, school: LimeSchool) -> Outcome:
    """Everything that the readings so far allow."""
    results = Results(school.standard)
    _give_told(results, facts, school)
    for one in facts.bottles:
        if one.counts:
            _give_bottle(results, one, school, facts)
    _give_demand(results, facts, school)
    missing = []
    if facts.decision is None or not facts.all_read:
        missing.append(Missing(name=school.named, waits_for="all bottles read", at="bottles"))
    return Outcome(
        method="lime_demand",
        school=school.name,
        values=tuple(results.values),
        missing=tuple(missing),
        working=tuple(results.working),
        series=_series(facts, school),
    )
