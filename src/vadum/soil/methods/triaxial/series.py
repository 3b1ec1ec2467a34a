"""The pictures' data: circles, envelope, stress paths, curves and consolidation."""

import math
from typing import Any

from vadum.soil.contract.fields import known
from vadum.soil.contract.outcome import Cell, Table
from vadum.soil.methods.triaxial.facts import Facts, too_few
from vadum.soil.methods.triaxial.school import TriaxialSchool

MOST_DRAWN = 300


def circle(s: float, t: float, many: int = 40) -> list[tuple[float, float]]:
    """The upper half of a Mohr circle: normal and shear stress in kPa, from its lesser to its greater stress.

    Parameters: `s` the centre and `t` the radius, kPa; `many` pieces.
    Returns: points.
    Source: definition.

    >>> [round(v, 6) for v in circle(100.0, 50.0, 2)[1]]
    [100.0, 50.0]
    """
    return [(s - t * math.cos(math.pi * i / many), t * math.sin(math.pi * i / many)) for i in range(many + 1)]


def circles(facts: Facts, school: TriaxialSchool) -> tuple[Table, Table]:
    """The circles at failure, and where their names stand."""
    rows: list[dict[str, Cell]] = []
    names: list[dict[str, Cell]] = []
    for t in facts.tested:
        at = t.failure(school)
        if at is None or not (t.over or t.fell_percent > 0):
            continue
        effective = facts.measures_pore
        shown = [("effective" if effective else "total", at.s_kpa)]
        if effective and not facts.drained and known(t.specimen.cell_kpa) and known(t.specimen.back_kpa):
            shown.append(("total", t.specimen.cell_kpa - t.specimen.back_kpa + at.deviator_kpa / 2))
        for of, s in shown:
            out = bool(t.specimen.excluded_because)
            rows += [
                {"specimen": t.row + 1, "of": of, "normal_kpa": x, "shear_kpa": y, "order": i, "out": out}
                for i, (x, y) in enumerate(circle(s, at.t_kpa))
            ]
        names.append({"normal_kpa": shown[0][1], "shear_kpa": at.t_kpa, "label": f"{t.row + 1}"})
    return tuple(rows), tuple(names)


def series(facts: Facts, school: TriaxialSchool) -> dict[str, Table]:
    """All tables that the pictures are drawn from."""
    curves: list[dict[str, Cell]] = []
    for t in facts.tested:
        step = max(1, math.ceil(len(t.points) / MOST_DRAWN))
        now = facts.hand is None or facts.hand == t.row
        for i, p in enumerate(t.points):
            if i % step and i != len(t.points) - 1:
                continue
            row: dict[str, Any] = {
                "specimen": t.row + 1,
                "words": t.words.replace(f"specimen {t.row + 1}, ", ""),
                "strain_percent": 100 * p.strain,
                "deviator_kpa": p.deviator_kpa,
                "rise_kpa": 100 * p.volume_strain if facts.drained else p.rise_kpa,
                "s_kpa": p.s_kpa,
                "t_kpa": p.t_kpa,
                "p_kpa": p.p_kpa,
                "obliquity": p.obliquity,
                "now": now,
                "order": i,
            }
            curves.append(row)
    rows, names = circles(facts, school)
    tangent: list[dict[str, Cell]] = []
    said: list[dict[str, Cell]] = []
    env = facts.effective if facts.measures_pore else facts.total
    most = max((float(r["normal_kpa"] or 0.0) for r in rows), default=0.0)
    if env is not None and most > 0:
        tan = math.tan(math.radians(env.strength.phi_degrees))
        tangent = [
            {"normal_kpa": x, "shear_kpa": env.strength.c_kpa + x * tan} for x in (max(0.0, -env.strength.c_kpa), most)
        ]
        about = "about " if too_few(facts, school) else ""
        label = f"{about}φ′ {env.strength.phi_degrees:.1f}°, c′ {env.strength.c_kpa:.0f} kPa"
        if not facts.measures_pore:
            label = f"su {facts.shear_strength_kpa or 0:.0f} kPa"
        said = [{"normal_kpa": 0.45 * most, "shear_kpa": env.strength.c_kpa + 0.45 * most * tan, "label": label}]
    failures: Table = tuple(
        {
            "specimen": t.row + 1,
            "strain_percent": 100 * at.strain,
            "deviator_kpa": at.deviator_kpa,
            "label": f"{abs(at.deviator_kpa):.0f}",
        }
        for t in facts.tested
        if (at := t.failure(school)) is not None and t.over and not t.specimen.excluded_because
    )
    drained: Table = tuple(
        {"specimen": t.row + 1, "root": math.sqrt(max(r.minutes, 0.0)), "minutes": r.minutes, "volume_cm3": r.moved}
        for t in facts.tested
        for r in t.drainage.readings
    )
    return {
        "curves": tuple(curves),
        "ends": tuple({row["specimen"]: row for row in curves}.values()),
        "circles": rows,
        "names": names,
        "tangent": tuple(tangent),
        "said": tuple(said),
        "failures": failures,
        "drained": drained,
        "specimens": listed(facts, school),
        "strength_points": tuple(
            {"kind": "top", "specimen": t.row + 1, "normal_kpa": at.s_kpa, "shear_kpa": at.t_kpa}
            for t in facts.counting
            if facts.measures_pore and (at := t.failure(school)) is not None
        ),
        "truth": (),
    }


def listed(facts: Facts, school: TriaxialSchool) -> Table:
    """What each specimen came to, for the table of specimens."""
    found: list[dict[str, Cell]] = []
    for t in facts.tested:
        at = t.failure(school)
        done = at if t.over else None
        found.append(
            {
                "specimen": t.row + 1,
                "pressure": t.effective_kpa if t.effective_kpa is not None else t.specimen.cell_kpa,
                "b": t.b_ratio,
                "q": done.deviator_kpa if done else None,
                "strain": 100 * abs(done.strain) if done else None,
                "u": done.rise_kpa if done else None,
                "minor": done.radial_kpa if done and facts.measures_pore else None,
                "e": t.state.void_ratio,
            }
        )
    return tuple(found)
