"""Water against suction: van Genuchten and Brooks-Corey by bounded least squares, their errors and correlations."""

import math
from collections.abc import Callable, Sequence
from typing import Any, NamedTuple

LEAST_POINTS = 4
MOST_STEPS = 120  # of each search: 240 fits of virtual soils took at most 20, one of a slip would go on for seconds


class Fitted(NamedTuple):
    """A curve through points. `names` of the free parameters with their values and standard errors, in that order;
    `correlation` their matrix; `at_bound` those that lie at one; `came_to_rest` is false where the search was ended.
    Water as a share of the volume, suction in cm."""

    model: str
    names: tuple[str, ...]
    values: tuple[float, ...]
    errors: tuple[float, ...]
    correlation: tuple[tuple[float, ...], ...]
    covariance: tuple[tuple[float, ...], ...]
    fixed_residual: float | None
    rmse: float
    n: int
    at_bound: tuple[str, ...]
    came_to_rest: bool
    most_suction_cm: float

    def of(self, name: str) -> float:
        """A parameter's value, that of the fixed residual too."""
        if name == "theta_r" and self.fixed_residual is not None:
            return self.fixed_residual
        return self.values[self.names.index(name)]

    def error_of(self, name: str) -> float | None:
        """Its standard error; None where it is fixed."""
        return self.errors[self.names.index(name)] if name in self.names else None

    def water(self, suction_cm: float) -> float:
        """Water content at a suction, a share of the volume."""
        return MODELS[self.model](suction_cm, *self._whole(self.values))

    def _whole(self, values: Sequence[float]) -> tuple[float, ...]:
        return (self.fixed_residual, *values) if self.fixed_residual is not None else tuple(values)

    def error_at(self, suction_cm: float) -> float:
        """Standard uncertainty of the curve's water at a suction, by the covariance of its parameters."""
        base = self.water(suction_cm)
        slopes = []
        for i, value in enumerate(self.values):
            by = max(1e-6, 1e-5 * abs(value))
            moved = [*self.values[:i], value + by, *self.values[i + 1 :]]
            slopes.append((MODELS[self.model](suction_cm, *self._whole(moved)) - base) / by)
        many = range(len(slopes))
        return math.sqrt(max(0.0, math.fsum(slopes[i] * slopes[j] * self.covariance[i][j] for i in many for j in many)))


# What the parameters are called in a sentence.
PARAMETERS = {
    "theta_r": "residual water",
    "theta_s": "saturated water",
    "alpha_per_cm": "α",
    "n": "n",
    "entry_cm": "air entry",
    "lambda": "λ",
}


def van_genuchten(suction_cm: float, theta_r: float, theta_s: float, alpha_per_cm: float, n: float) -> float:
    """Water content by van Genuchten with `m = 1 - 1/n`.

    Parameters: suction in cm of water, 0 or more; water as shares of the volume; alpha in 1/cm; n above 1.
    Returns: a share of the volume.
    Source: van Genuchten 1980, `theta = tr + (ts - tr) / [1 + (alpha h)^n]^m`.

    >>> [round(van_genuchten(h, 0.075, 0.425, 0.022, 1.48), 3) for h in (0.0, 336.5)]
    [0.425, 0.207]
    """
    return float(theta_r + (theta_s - theta_r) / (1 + (alpha_per_cm * max(suction_cm, 0.0)) ** n) ** (1 - 1 / n))


def brooks_corey(suction_cm: float, theta_r: float, theta_s: float, entry_cm: float, pores: float) -> float:
    """Water content by Brooks and Corey.

    Parameters: suction and air entry in cm of water; the pores' index lambda.
    Returns: a share of the volume.
    Source: Brooks and Corey 1964, `theta = tr + (ts - tr) (h_b / h)^lambda` beyond the air entry.

    >>> brooks_corey(10.0, 0.05, 0.45, 20.0, 0.5), round(brooks_corey(80.0, 0.05, 0.45, 20.0, 0.5), 3)
    (0.45, 0.25)
    """
    if suction_cm <= entry_cm:
        return theta_s
    return float(theta_r + (theta_s - theta_r) * (entry_cm / suction_cm) ** pores)


MODELS: dict[str, Callable[..., float]] = {"van Genuchten": van_genuchten, "Brooks-Corey": brooks_corey}


class Bounds(NamedTuple):
    """Between what the parameters may lie: the most n, alpha in 1/cm."""

    most_n: float
    alpha_per_cm: tuple[float, float]


def fit(
    model: str,
    suctions_cm: Sequence[float],
    waters: Sequence[float],
    bounds: Bounds,
    fixed_residual: float | None = None,
) -> Fitted | None:
    """The curve of a model through points by bounded least squares on the water content.

    Parameters: suctions in cm and waters as shares of the volume, of shape (n,); a residual that is fixed, or None
        where it is free.
    Returns: None with fewer points than parameters and one more, or where nothing is found.
    Source: trust-region least squares; the covariance `s^2 (J^T J)^-1` at the least.
    """
    import numpy as np
    from scipy.optimize import least_squares  # half a second to import, and few ask for it

    h, w = np.asarray(suctions_cm, dtype=float), np.asarray(waters, dtype=float)
    free = fixed_residual is None
    many = 4 if free else 3
    if len(h) < max(LEAST_POINTS, many + 1) or float(h.max()) <= float(h.min()):
        return None
    top, low = float(w.max()), float(w.min())
    names = (*(("theta_r",) if free else ()), "theta_s", *_shape_names(model))

    def split(p: Any) -> tuple[float, float, float, float]:
        whole = (fixed_residual, *p) if not free else tuple(p)
        r, s, a, b = whole
        return (
            float(r),
            float(s),
            math.exp(float(a)),
            (1 + math.exp(float(b))) if model == "van Genuchten" else math.exp(float(b)),
        )

    def left(p: Any) -> Any:
        r, s, a, b = split(p)
        if model == "van Genuchten":
            told = r + (s - r) / (1 + (a * np.maximum(h, 0.0)) ** b) ** (1 - 1 / b)
        else:
            told = np.where(h <= a, s, r + (s - r) * (a / np.maximum(h, a)) ** b)
        return told - w

    low_a, high_a = bounds.alpha_per_cm
    third = (
        (math.log(low_a), math.log(high_a)) if model == "van Genuchten" else (math.log(1 / high_a), math.log(1 / low_a))
    )
    fourth = (
        (math.log(0.02), math.log(bounds.most_n - 1))
        if model == "van Genuchten"
        else (math.log(0.02), math.log(bounds.most_n))
    )
    lows = [*([0.0] if free else []), max(low, 1e-3), third[0], fourth[0]]
    highs = [*([max(low, 1e-6)] if free else []), max(1.3 * top, top + 0.02), third[1], fourth[1]]
    best = None
    for a0 in (0.3, 0.6):
        for b0 in (0.25, 0.5):
            start = [
                *([0.5 * low] if free else []),
                min(top, highs[-3] * 0.99),
                third[0] + a0 * (third[1] - third[0]),
                fourth[0] + b0 * (fourth[1] - fourth[0]),
            ]
            start = [min(max(x, lo + 1e-9), hi - 1e-9) for x, lo, hi in zip(start, lows, highs, strict=True)]
            made = least_squares(
                left, start, bounds=(lows, highs), xtol=1e-12, ftol=1e-12, gtol=1e-12, max_nfev=MOST_STEPS
            )
            if best is None or made.cost < best.cost:
                best = made
    assert best is not None
    whole = split(best.x)
    values = whole if free else whole[1:]
    # Errors of the parameters themselves, not of their logarithms.
    scale = np.array([1.0] * (many - 2) + [values[-2], values[-1] - (1 if model == "van Genuchten" else 0)])
    jacobian = best.jac / scale
    variance = 2 * best.cost / (len(h) - many)
    inverse = np.linalg.pinv(jacobian.T @ jacobian)
    covariance = inverse * variance
    errors = np.sqrt(np.maximum(np.diag(covariance), 0.0))
    safe = np.where(errors > 0, errors, 1.0)
    correlation = covariance / np.outer(safe, safe)
    at_bound = tuple(
        name
        for name, x, lo, hi in zip(names, best.x, lows, highs, strict=True)
        if name != "theta_s" and (x - lo < 1e-4 * (hi - lo) or hi - x < 1e-4 * (hi - lo))
    )
    return Fitted(
        model,
        names,
        tuple(float(v) for v in values),
        tuple(float(e) for e in errors),
        tuple(tuple(float(x) for x in row) for row in correlation),
        tuple(tuple(float(x) for x in row) for row in covariance),
        fixed_residual,
        math.sqrt(2 * best.cost / len(h)),
        len(h),
        at_bound,
        best.status > 0,
        float(h.max()),
    )


def _shape_names(model: str) -> tuple[str, str]:
    return ("alpha_per_cm", "n") if model == "van Genuchten" else ("entry_cm", "lambda")
