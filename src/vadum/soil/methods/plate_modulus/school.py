"""Accepted ways to a strain modulus by plate."""

from typing import Literal

from vadum.soil.contract.school import laboratory, schools_of
from vadum.soil.shared.plate.school import PlateSchool

Evaluates = Literal["parabola", "secant", "secant of the readings", "settlement", "two secants", "subgrade reaction"]


class ModulusSchool(PlateSchool):
    """What rule books of the strain modulus differ in.

    `greatest_by_width`: (plate up to mm, greatest stress kPa, settlement mm that ends the first loading);
    `preload_by_width_kpa`: (plate up to mm, preload kPa). `step_shares` of the greatest stress make the first loading,
    unless `steps_kpa` names its steps; `down_shares` of the stress reached the unloading; the second loading takes the
    first one's steps up to the last but one, or to `again_kpa`. `fit_preload`, `fit_last_down`: whether the point under
    the preload is in the first fit, and the last unloaded one in the second. Secants lie between `secant_shares` of the
    greatest stress, or between the stresses of `secant_kpa`. `k_at_mm` or `k_at_kpa`: where a modulus of subgrade
    reaction is read, with plates of `k_width_mm` and wider. `near_share`: a step that misses a wanted stress by so much
    of it still counts as reaching it.
    """

    evaluates: Evaluates
    width_mm: float
    greatest_by_width: tuple[tuple[float, float, float], ...]
    preload_by_width_kpa: tuple[tuple[float, float], ...]
    step_shares: tuple[float, ...] = (0.16, 0.32, 0.48, 0.64, 0.84, 1.0)
    steps_kpa: tuple[float, ...] = ()
    down_shares: tuple[float, ...] = (0.5, 0.25, 0.02)
    again_kpa: float | None = None
    reloads: bool = True
    fit_preload: bool = False
    fit_last_down: bool = True
    secant_shares: tuple[float, float] = (0.3, 0.7)
    secant_kpa: tuple[float, float] = (50.0, 150.0)
    k_at_mm: float | None = None
    k_at_kpa: float | None = None
    k_width_mm: float = 0.0
    most_lever_ratio: float = laboratory(2.0, "DIN 18134, fairly sure")
    most_tilt_degrees: float = laboratory(5.0, "doubtful: laboratory setting")
    most_residual_percent: float = laboratory(5.0)
    ratio_band: tuple[float, float] = laboratory((1.2, 5.0))
    step_round_mn_m2: float = laboratory(0.01)
    near_share: float = laboratory(0.02)


SCHOOLS = schools_of(__file__, ModulusSchool)
