"""Strengths of several runs in one picture and one fit: specimens of a stratum or a job, switched in and out."""

import math
from collections.abc import Sequence
from typing import Any, NamedTuple

from vadum.soil.contract.outcome import Outcome
from vadum.soil.contract.shown_units import SI, Style, worth
from vadum.soil.shared.envelope import Line, Strength, band_words, by_circle_tops, by_stresses, fitted_not_below_zero

SERIES = "strength_points"  # where a method tells its failures: rows of kind, normal_kpa, shear_kpa, specimen
KINDS = {"plane": "on a forced plane", "top": "tops of circles, effective"}


class Failure(NamedTuple):
    """One specimen's failure: its run and number, `plane` (on a plane) or `top` (of a circle), and its stresses in
    kPa; `left_out` says why it does not count."""

    code: str
    specimen: int
    kind: str
    normal_kpa: float
    shear_kpa: float
    left_out: str = ""

    @property
    def name(self) -> str:
        """The specimen as it is called."""
        return f"{self.code}:{self.specimen}"


LEAST_SHOWN_KPA = 0.05  # less reads 0.0


class Joined(NamedTuple):
    """The line through the failures of one kind: its strength, how many count, the stresses it spans, an honest word,
    and what each specimen that was left out would change the angle by, degrees. `free` is the strength of the free fit
    where its cohesion came out below nothing and the line is held through zero."""

    kind: str
    line: Line
    strength: Strength
    free: Strength | None
    n: int
    honest: str
    moves: tuple[tuple[str, float], ...]

    def range_words(self, style: Style = SI) -> str:
        """The stresses that were tested, in the units of a style: the line says nothing beyond."""
        low, high = (worth(f"{x:.0f}", x, "kPa", style) for x in (self.line.least_x, self.line.most_x))
        return f"{low[0]} to {' '.join(high)}"

    def cohesion_words(self, style: Style = SI) -> str:
        """The cohesion with its unit, in the units of a style; where it is held at zero, the free fit beside it."""
        c = abs((self.free or self.strength).c_kpa)
        figure, unit = worth(f"{c:.1f}", c, "kPa", style)
        if self.free is None or c < LEAST_SHOWN_KPA:
            return f"{figure} {unit}"
        return f"0 {unit}, held (free fit: {self.free.phi_degrees:.1f}°, −{figure} {unit})"


def failures_of(code: str, outcome: Outcome, out: dict[str, str]) -> list[Failure]:
    """The failures that a run tells of; `out` gives the reason for a specimen (`TX-01:2`) that is left out."""
    found = []
    for row in outcome.series.get(SERIES, ()):
        n = int(row["specimen"] or 0)
        normal, shear = float(row["normal_kpa"] or 0.0), float(row["shear_kpa"] or 0.0)
        found.append(Failure(code, n, str(row["kind"]), normal, shear, out.get(f"{code}:{n}", "")))
    return found


def _strength(kind: str, line: Line) -> Strength | None:
    return by_stresses(line) if kind == "plane" else by_circle_tops(line)


def _fit(kind: str, some: Sequence[Failure]) -> tuple[Line, Strength, Strength | None] | None:
    made = fitted_not_below_zero([f.normal_kpa for f in some], [f.shear_kpa for f in some])
    strength = _strength(kind, made.line) if made else None
    if made is None or strength is None:
        return None
    return made.line, strength, _strength(kind, made.free) if made.free else None


def joined(failures: Sequence[Failure]) -> list[Joined]:
    """One line for each kind of failure that has two or more: a plane's and a circle's top are no points of one line.

    Parameters: `failures` with their stresses in kPa.
    Returns: the lines; those that are left out say how they would move the angle.
    Source: least squares; ASTM D3080, D4767.

    >>> rows = [Failure("DS-01", i, "plane", n, 0.7 * n + 5) for i, n in enumerate((50.0, 100.0, 200.0), 1)]
    >>> (found,) = joined(rows)
    >>> round(found.strength.phi_degrees, 1), round(found.strength.c_kpa, 1), found.range_words()
    (35.0, 5.0, '50 to 200 kPa')
    """
    found = []
    for kind in KINDS:
        mine = [f for f in failures if f.kind == kind]
        counting = [f for f in mine if not f.left_out]
        made = _fit(kind, counting)
        if made is None:
            continue
        line, strength, free = made
        moves = []
        for one in mine:
            if one.left_out:
                other = _fit(kind, [*counting, one])
                if other is not None:
                    moves.append((one.name, other[1].phi_degrees - strength.phi_degrees))
        found.append(Joined(kind, line, strength, free, len(counting), band_words(line, strength), tuple(moves)))
    return found


def drawn(failures: Sequence[Failure], lines: Sequence[Joined]) -> dict[str, list[dict[str, Any]]]:
    """The picture's data: the failures, the circles of those that have one, and the lines over the stresses tested."""
    points = [
        {
            "normal_kpa": f.normal_kpa,
            "shear_kpa": f.shear_kpa,
            "kind": f.kind,
            "label": f.name,
            "state": "left out" if f.left_out else "counts",
        }
        for f in failures
    ]
    circles = []
    for f in failures:
        if f.kind == "top":
            for i in range(41):
                turn = math.pi * i / 40
                x, y = f.normal_kpa - f.shear_kpa * math.cos(turn), f.shear_kpa * math.sin(turn)
                circles.append(
                    {
                        "normal_kpa": x,
                        "shear_kpa": y,
                        "of": f.name,
                        "order": i,
                        "state": "left out" if f.left_out else "counts",
                    }
                )
    rows = []
    for one in lines:
        phi = math.radians(one.strength.phi_degrees)
        for i, x in enumerate((0.0, one.line.least_x, one.line.most_x)):
            shear = one.strength.c_kpa + x * math.tan(phi)
            rows.append({"normal_kpa": x, "shear_kpa": shear, "kind": one.kind, "order": i, "tested": i > 0})
    return {"points": points, "circles": circles, "lines": rows}
