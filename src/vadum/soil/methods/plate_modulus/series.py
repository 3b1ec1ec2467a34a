"""What the picture of a strain modulus is drawn from: steps, fits, slopes and what is read off them."""

from vadum.soil.contract.outcome import Cell, Table
from vadum.soil.methods.plate_modulus.facts import CYCLES, KPA, Curve, Facts
from vadum.soil.methods.plate_modulus.school import ModulusSchool

CURVE_POINTS = 24


def _secants(facts: Facts, school: ModulusSchool) -> Table:
    """Where a secant between the school's shares of the greatest stress meets the fitted curves."""
    rows: list[dict[str, Cell]] = []
    if facts.greatest is not None:
        for name, _, _ in CYCLES:
            fit = getattr(facts, name).fit
            if fit is not None and (name == "first" or facts.over):
                places = (share * facts.greatest for share in school.secant_shares)
                rows += [{"part": name, "stress": at, "settlement_mm": fit.at(at)} for at in places]
    return tuple(rows)


def series(facts: Facts, school: ModulusSchool) -> dict[str, Table]:
    """The picture: readings of each part, fitted curves, the secant's marks, what is expected."""
    names = {"preload": "preload", "first": "first loading", "down": "unloading", "again": "second loading"}
    rows: list[dict[str, Cell]] = []
    for one in facts.steps:
        if one.kpa is None or one.settlement_mm is None:
            continue
        still = one is facts.hand and facts.rest is not None and not facts.rest.at_rest
        rows.append(
            {
                "step": one.row + 1,
                "part": names[one.cycle],
                "stress": one.kpa / KPA,
                "settlement_mm": one.settlement_mm,
                "load_kn": one.load_kn,
                "rate": one.rate_mm_min,
                "held_min": one.held_min,
                "order": one.row,
                "moving": still,
                "out": bool(one.step.excluded_because),
                "label": f"{one.settlement_mm:.2f} mm, still moving" if still else "",
            }
        )
    curves: list[dict[str, Cell]] = []
    marks: list[dict[str, Cell]] = []
    for name, symbol, _ in CYCLES:
        curve: Curve = getattr(facts, name)
        if curve.fit is None or not curve.sigma:
            continue
        low, high = (0.0 if name == "first" else curve.sigma[0]), curve.sigma[-1]
        to = max(high, facts.ahead_first_kpa / KPA) if name == "first" and not facts.ended else high
        for i in range(CURVE_POINTS + 1):
            at = low + (to - low) * i / CURVE_POINTS
            curves.append({"part": name, "stress": at, "settlement_mm": curve.fit.at(at), "ahead": at > high + 1e-9})
        greatest = facts.greatest or to
        if name == "first" or facts.over:
            slope = curve.fit.a1 + curve.fit.a2 * greatest
            at = greatest if name == "first" else high
            ends = curve.fit.at(at)
            for x in (low, at):
                marks.append({"name": symbol, "stress": x, "settlement_mm": ends - slope * (at - x), "label": ""})
            marks[-2]["label"] = f"this slope is {symbol}"
    return {
        "steps": tuple(rows),
        "curves": tuple(curves),
        "slopes": tuple(marks),
        "secants": _secants(facts, school),
        "truth": (),
    }
