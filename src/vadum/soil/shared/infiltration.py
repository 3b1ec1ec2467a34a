"""Water draining from a cylinder into dry ground: a sharp front, a truncated sphere about the cylinder's base.

With `beta` of the front's radius the fall of the level is `-dH/dt = K (C + H + L + beta) / (L + beta)`, so the time to
a level is an integral over the levels, smooth and without any difference of readings; K is a scale of time alone.
Consistent for R >= L; before that a whole sphere would hold, and the truncated one is used here from the start: K is
moved by a few per cent by it, which stands on the sheet.

Source: Philip 1993; Nestingen 2007; Ahmed, Gulliver and Nieber 2014; ASTM D8152.
"""

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any, NamedTuple

if TYPE_CHECKING:
    import numpy as np
    from scipy.interpolate import PPoly

NODES = 320  # of the integral: its error is below a millionth of the time
ROUNDS = 40
CONFIDENCE = 0.95
MOST_SUCTION_CM = 400.0


class Cylinder(NamedTuple):
    """A cylinder: inside radius and driven depth in cm, the increase of the water content (a share of the volume), the
    level at the start in cm above the soil."""

    radius_cm: float
    depth_cm: float
    gains: float
    start_cm: float

    @property
    def source_cm(self) -> float:
        """Radius of the source that stands for the cylinder's base, half of the cylinder's."""
        return self.radius_cm / 2


def front_cm(cylinder: Cylinder, level_cm: "float | np.ndarray") -> Any:
    """Radius of the wetted sphere when the level has fallen to one.

    Parameters: levels above the soil in cm, a number or of shape (n,).
    Returns: cm, of the same shape.
    Source: `pi/3 (2R^3 + 3R^2 L - L^3 - 4 r0^3) dtheta = pi r1^2 (H0 - H)`.

    >>> round(front_cm(Cylinder(5.0, 5.0, 0.32, 42.0), 15.0), 4)
    12.6996
    """
    import numpy as np

    levels = np.asarray(level_cm, dtype=float)
    depth, source = cylinder.depth_cm, cylinder.source_cm
    water = np.maximum(3 * cylinder.radius_cm**2 * (cylinder.start_cm - levels) / cylinder.gains, 0.0)
    right = water + depth**3 + 4 * source**3
    radius = np.cbrt(right / 2) + depth  # above the root: Newton comes down to it, the cubic being convex there
    for _ in range(ROUNDS):
        step = (2 * radius**3 + 3 * depth * radius**2 - right) / (6 * radius * (radius + depth))
        radius = radius - step
        if float(np.max(np.abs(step))) < 1e-12:
            break
    return float(radius) if radius.ndim == 0 else radius


def beta_cm(cylinder: Cylinder, level_cm: "float | np.ndarray") -> Any:
    """The way through the sphere, as a length beside the depth driven.

    Parameters: levels above the soil in cm.
    Returns: cm, of the same shape.
    Source: `beta = (pi^2/4) r0^2 ln[R (r0 + L) / (r0 (R + L))] / L`.
    """
    import numpy as np

    radius, depth, source = front_cm(cylinder, level_cm), cylinder.depth_cm, cylinder.source_cm
    found = math.pi**2 / 4 * source**2 * np.log(radius * (source + depth) / (source * (radius + depth))) / depth
    found = np.maximum(found, 0.0)
    return float(found) if np.ndim(found) == 0 else found


def rate_cm_s(cylinder: Cylinder, k_cm_s: float, suction_cm: float, level_cm: float) -> float:
    """How fast the level falls.

    Parameters: conductivity in cm/s, suction at the front and level above the soil in cm.
    Returns: cm/s, positive while it falls.
    Source: `-dH/dt = K (C + H + L + beta) / (L + beta)`.
    """
    resists = cylinder.depth_cm + float(beta_cm(cylinder, level_cm))
    return k_cm_s * (suction_cm + level_cm + resists) / resists


class Curve:
    """The way of the level down to a lowest one, by suction: worked out once for its nodes, K being a scale of time."""

    def __init__(self, cylinder: Cylinder, lowest_cm: float) -> None:
        import numpy as np

        self.cylinder = cylinder
        low = min(lowest_cm, cylinder.start_cm - 1e-6)
        # Nodes are dense at the start, where the front's radius changes fastest.
        share = np.linspace(0.0, 1.0, NODES) ** 2
        self.levels = cylinder.start_cm - (cylinder.start_cm - low) * share
        self._steps = -np.diff(self.levels)
        half = (self.levels[:-1] + self.levels[1:]) / 2
        self._resists = cylinder.depth_cm + np.asarray(beta_cm(cylinder, self.levels))
        self._half_resists = cylinder.depth_cm + np.asarray(beta_cm(cylinder, half))
        self._half = half

    def times_of_one(self, suction_cm: float) -> "np.ndarray":
        """Times to the nodes at K = 1 cm/s, s; by Simpson's rule."""
        import numpy as np

        ends = self._resists / (suction_cm + self.levels + self._resists)
        middle = self._half_resists / (suction_cm + self._half + self._half_resists)
        pieces = self._steps * (ends[:-1] + 4 * middle + ends[1:]) / 6
        return np.concatenate(([0.0], np.cumsum(pieces)))

    def way_of_one(self, suction_cm: float) -> "PPoly":
        """The level, cm, by the time at K = 1 cm/s, s: cubics through the nodes with the rate that each one has."""
        import numpy as np
        from scipy.interpolate import PPoly

        one = self.times_of_one(suction_cm)
        rates = -(suction_cm + self.levels + self._resists) / self._resists
        lasts = np.diff(one)
        mean = np.diff(self.levels) / lasts
        bends = (rates[:-1] + rates[1:] - 2 * mean) / lasts
        cubics = np.array((bends / lasts, (mean - rates[:-1]) / lasts - bends, rates[:-1], self.levels[:-1]))
        # Made hundreds of times while a suction is sought: its checks of the input would take longer than the search.
        return PPoly.construct_fast(cubics, one)

    def levels_at(self, times_s: "np.ndarray", k_cm_s: float, suction_cm: float) -> "np.ndarray":
        """The level at those times, cm above the soil."""
        import numpy as np

        way = self.way_of_one(suction_cm)
        scaled = np.minimum(times_s * k_cm_s, way.x[-1] * 1.5)
        return np.asarray(way(scaled))


class Fit(NamedTuple):
    """K in cm/s with the standard error of its logarithm, the suction it holds for in cm, the root mean square of what
    is left in cm, the count of readings, and the sum of squares."""

    k_cm_s: float
    u_ln_k: float
    suction_cm: float
    rms_cm: float
    n: int
    squares: float


class Free(NamedTuple):
    """Both of K and C by least squares: their profile intervals (K in cm/s, C in cm) and how they go together."""

    fit: Fit
    k_interval: tuple[float, float]
    c_interval: tuple[float, float]
    correlation: float


class Series(NamedTuple):
    """Readings of a cylinder: times in s from the start and levels in cm above the soil, of shape (n,)."""

    times_s: "np.ndarray"
    levels_cm: "np.ndarray"


def series_of(times_s: Sequence[float], levels_cm: Sequence[float]) -> Series:
    """Readings as arrays."""
    import numpy as np

    return Series(np.asarray(times_s, dtype=float), np.asarray(levels_cm, dtype=float))


class _Fitting:
    """One cylinder's curve and readings; every fit of them is a search over the suction."""

    def __init__(self, cylinder: Cylinder, series: Series) -> None:
        import numpy as np

        self.series = series
        self.curve = Curve(cylinder, float(np.min(series.levels_cm)))

    def by_suction(self, suction_cm: float, k_from: float | None = None) -> Fit:
        """K by least squares on the levels, its logarithm free, at one suction."""
        import numpy as np

        times, levels = self.series
        way = self.curve.way_of_one(suction_cm)
        one = way.x
        if k_from is None:
            # Where the level of each reading would be reached at K = 1: their ratio to the times is K.
            rising = self.curve.levels[::-1]
            reached = np.interp(levels, rising, one[::-1])
            late = times > 0
            k_from = float(np.sum(reached[late] * times[late]) / np.sum(times[late] ** 2))
        ln_k = math.log(max(k_from, 1e-12))
        last = one[-1] * 1.5
        gradient = None
        left = levels
        for _ in range(ROUNDS):
            scaled = np.minimum(times * math.exp(ln_k), last)
            left = levels - way(scaled)
            gradient = way(scaled, 1) * scaled
            weight = float(gradient @ gradient)
            if weight <= 0:
                break
            step = max(-0.7, min(0.7, float(gradient @ left) / weight))
            ln_k += step
            if abs(step) < 1e-10:
                break
        squares = float(left @ left)
        n = len(times)
        weight = float(gradient @ gradient) if gradient is not None else 0.0
        u = math.sqrt(squares / max(n - 1, 1) / weight) if weight > 0 else math.inf
        return Fit(math.exp(ln_k), u, suction_cm, math.sqrt(squares / n), n, squares)


def fit_k(cylinder: Cylinder, series: Series, suction_cm: float) -> Fit:
    """Conductivity by least squares on the levels, the suction given.

    Parameters: the cylinder; readings of shape (n,), n >= 3, the first at the start; suction in cm, 0 or more.
    Returns: the fit.
    """
    return _Fitting(cylinder, series).by_suction(suction_cm)


def fit_both(cylinder: Cylinder, series: Series) -> Free:
    """Conductivity and suction by least squares together, with profile intervals: K and C go together so closely that
    a covariance at the least would be falsely tight.

    Parameters: as `fit_k`, n >= 5.
    Returns: the fit with its 95 % profile intervals; C is bounded from 0 to 400 cm.
    Source: profile likelihood, F of (1, n - 2).
    """
    import numpy as np
    from scipy.optimize import brentq, minimize_scalar
    from scipy.stats import f as snedecor

    fitting = _Fitting(cylinder, series)
    found: dict[float, Fit] = {}

    def of(root: float) -> Fit:
        """By the square root of the suction, in which the squares are closer to a parabola."""
        if root not in found:
            near = min(found, key=lambda r: abs(r - root), default=None)
            found[root] = fitting.by_suction(root * root, found[near].k_cm_s if near is not None else None)
        return found[root]

    most = math.sqrt(MOST_SUCTION_CM)
    grid = np.linspace(0.0, most, 12)
    start = min(grid, key=lambda r: of(float(r)).squares)
    place = int(np.argmin(np.abs(grid - start)))
    low, high = float(grid[max(place - 1, 0)]), float(grid[min(place + 1, len(grid) - 1)])
    best_root = float(minimize_scalar(lambda r: of(float(r)).squares, bounds=(low, high), method="bounded").x)
    best_root = min((best_root, low, high), key=lambda r: of(r).squares)
    best = of(best_root)
    n = best.n
    limit = best.squares * (1 + float(snedecor.ppf(CONFIDENCE, 1, n - 2)) / (n - 2))

    def over(root: float) -> float:
        return of(root).squares - limit

    def end(bound: float) -> float:
        """Where the squares reach the limit between the best suction and a bound; the bound where they do not."""
        if best_root == bound or over(bound) <= 0:
            return bound
        return float(brentq(over, *sorted((best_root, bound)), xtol=1e-4))

    c_low, c_high = end(0.0), end(most)
    ks = [of(c_low).k_cm_s, of(c_high).k_cm_s, best.k_cm_s]
    # Along the profile K changes with C nearly on a line; what is left of its own is the fit's at one suction.
    spread = (math.log(max(ks)) - math.log(min(ks))) / 2 / 1.96
    own = best.u_ln_k
    correlation = -spread / math.hypot(spread, own) if spread > 0 else 0.0
    beside = 1.96 * own * own / math.hypot(spread, own) if spread > 0 else 1.96 * own
    return Free(
        best,
        (min(ks) * math.exp(-beside), max(ks) * math.exp(beside)),
        (c_low**2, c_high**2),
        correlation,
    )


class Late(NamedTuple):
    """K by the slope of the last third and of the first alone, cm/s; None where the readings do not tell."""

    last_cm_s: float | None
    first_cm_s: float | None


def _by_slope(cylinder: Cylinder, times: "np.ndarray", levels: "np.ndarray", suction_cm: float) -> float | None:
    from vadum.soil.contract.numerics import straight_line

    if len(times) < 3 or float(times[-1]) <= float(times[0]):
        return None
    slope = -straight_line([float(t) for t in times], [float(h) for h in levels]).slope
    level = float(levels.mean())
    one = rate_cm_s(cylinder, 1.0, suction_cm, level)
    return slope / one if slope > 0 else None


def by_slopes(cylinder: Cylinder, series: Series, suction_cm: float) -> Late:
    """Conductivity without an optimiser: by the slopes of the last third of the record and of the first.

    Parameters: as `fit_k`.
    Returns: cm/s.
    Source: `K = -dH/dt (L + beta) / (C + H + L + beta)`.
    """
    times, levels = series
    third = float(times[-1]) / 3
    early, late = times <= third, times >= 2 * third
    return Late(
        _by_slope(cylinder, times[late], levels[late], suction_cm),
        _by_slope(cylinder, times[early], levels[early], suction_cm),
    )


def early_excess(
    cylinder: Cylinder, series: Series, share: float = 0.3, suctions_cm: Sequence[float] = (0.0, 5.0, 15.0, 40.0, 100.0)
) -> float | None:
    """How much faster the level fell over the first part of the record than the rest of it tells: a leak round the
    base, which seals itself or dries up.

    Parameters: as `fit_k`, n >= 12; the share of the record that is early; suctions of which the rest picks its own.
    Returns: the time that the rest tells over the time it took, 1 where nothing leaked; None with too few readings.
    Source: the rate above, of the rest of the record.
    """
    import numpy as np
    from scipy.interpolate import CubicSpline

    times, levels = series
    rest = times >= share * float(times[-1])
    if int(rest.sum()) < 8 or int((~rest).sum()) < 3:
        return None
    from_s = float(times[rest][0])
    curve = Curve(cylinder, float(levels.min()))
    best: tuple[float, float] | None = None
    for suction in suctions_cm:
        one = curve.times_of_one(suction)
        # Times at K = 1 to the levels of the rest lie on a line over their times; it tells when the first was due.
        reached = CubicSpline(curve.levels[::-1], one[::-1])(levels[rest])
        k, base = np.polyfit(times[rest], reached, 1)
        if k <= 0:
            continue
        left = (reached - base - k * times[rest]) / k
        squares = float(left @ left)
        if best is None or squares < best[0]:
            best = (squares, float((base + k * from_s) / k))
    return None if best is None else best[1] / from_s


def time_to_s(cylinder: Cylinder, k_cm_s: float, suction_cm: float, level_cm: float) -> float:
    """When the level comes down to one.

    Parameters: conductivity in cm/s, suction and level in cm, the level below the start's.
    Returns: s from the start.
    Source: the integral of the rate over the levels.

    >>> round(time_to_s(Cylinder(5.0, 5.0, 0.32, 42.0), 0.0045, 5.0, 15.0))
    1082
    """
    return float(Curve(cylinder, level_cm).times_of_one(suction_cm)[-1]) / k_cm_s
