"""Conductivities and retention curves of a job beside each other: by place and depth, as a log-normal, as curves."""

import math
from collections.abc import Iterable
from typing import Any, NamedTuple

from vadum.soil.contract.fields import known
from vadum.soil.contract.outcome import Cell, Outcome, Table


class Conducts(NamedTuple):
    """One conductivity of a job: mm/h with its interval of one standard uncertainty, None where it has none; the depth
    in m it was measured at."""

    code: str
    title: str
    where: str
    depth_m: float
    k_mm_h: float
    low: float | None
    high: float | None
    provisional: bool


def _depth_m(record: Any, top_m: float | None) -> float:
    """A hole's own depth; else the specimen's or the sample's; the surface where nothing says more."""
    for value in (getattr(record, "hole_depth_m", None), getattr(record, "specimen_depth_m", None), top_m):
        if known(value):
            return float(value)
    return 0.0


def conducts_of(
    code: str, title: str, where: str, top_m: float | None, record: Any, outcome: Outcome
) -> Conducts | None:
    """A run's conductivity; None where it gives none that may be set beside others."""
    value = outcome.value("kfs_mm_h")
    if value is None or value.value is None or value.value <= 0 or value.withheld or value.estimate:
        return None
    k, u = value.value, value.uncertainty
    low, high = (k / math.exp(u / k), k * math.exp(u / k)) if u else (None, None)
    return Conducts(code, title, where, _depth_m(record, top_m), k, low, high, value.provisional)


def standard_normal(share: float) -> float:
    """The standard normal's quantile.

    Parameters: a probability, above 0 and below 1.
    Returns: standard deviations from the mean.
    Source: the inverse of the normal distribution.

    >>> round(standard_normal(0.975), 3), standard_normal(0.5)
    (1.96, 0.0)
    """
    from statistics import NormalDist

    return NormalDist().inv_cdf(share)


class Together(NamedTuple):
    """So many conductivities as a log-normal: geometric and arithmetic mean, the least, the standard deviation of the
    logarithms (None below two)."""

    many: int
    geometric: float
    arithmetic: float
    least: float
    sd_ln: float | None


def together(found: Iterable[Conducts]) -> Together | None:
    """The conductivities of a job as one; None without any."""
    values = [one.k_mm_h for one in found]
    if not values:
        return None
    logs = [math.log(v) for v in values]
    middle = math.fsum(logs) / len(logs)
    spread = math.sqrt(math.fsum((x - middle) ** 2 for x in logs) / (len(logs) - 1)) if len(logs) > 1 else None
    return Together(len(values), math.exp(middle), math.fsum(values) / len(values), min(values), spread)


def drawn(found: Iterable[Conducts], curves: Iterable[tuple[str, Table]]) -> dict[str, Table]:
    """The series of the pictures: conductivities by depth and by probability, retention curves by run."""
    ranked = sorted(found, key=lambda one: one.k_mm_h)
    rows: list[dict[str, Cell]] = []
    for i, one in enumerate(ranked):
        rows.append(
            {
                "code": one.code,
                "where": one.where,
                "depth": one.depth_m,
                "k": one.k_mm_h,
                "low": one.low,
                "high": one.high,
                "normal": standard_normal((i + 0.5) / len(ranked)),
                "state": "provisional" if one.provisional else "final",
            }
        )
    lines: list[dict[str, Cell]] = []
    for code, curve in curves:
        lines += [
            {"code": code, "suction": r["suction"], "water": r["water"], "beyond": r.get("beyond", False)}
            for r in curve
        ]
    return {"conducts": tuple(rows), "curves": tuple(lines)}
