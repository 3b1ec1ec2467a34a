"""Accepted ways to a compaction curve: mould, layers, blows, rammer, and how the peak is drawn."""

from typing import Literal

from vadum.soil.contract.numerics import significant_step
from vadum.soil.contract.school import School, laboratory, schools_of
from vadum.soil.shared.physics import GRAVITY_M_S2


class CompactionSchool(School):
    """The effort and the fit. A laboratory that varies the blows copies a school and holds its own figure."""

    mould_cm3: float
    layers_count: int
    blows: int | None
    rammer_kg: float
    drop_mm: float | None
    fit: Literal["parabola", "cubic", "spline"] = "parabola"
    fit_points: int | None = 5
    fresh_portions: bool = True
    least_points: int = laboratory(5)
    least_each_side: int = laboratory(2)
    step_percent: float = laboratory(2.0)
    mould_tolerance_percent: float = 2.0
    oversize_over_mm: float = 4.75
    most_oversize_percent: float = 30.0
    least_oversize_percent: float = laboratory(5.0)
    energy_within_percent: float = laboratory(2.0)
    saturation_band_percent: tuple[float, float] = laboratory((75.0, 95.0))
    flat_mg_m3: float = laboratory(0.02)
    unit_weight_to_kn_m3: float = 0.1
    water_figures: int = 0
    most_estimate_gap_percent: float = laboratory(1.5)
    oven_min: float = laboratory(16 * 60)
    oven_c: tuple[float, float] = (105.0, 115.0)
    density_to_mg_m3: float = laboratory(0.01)
    water_to_percent: float = 0.1

    @property
    def energy_kj_m3(self) -> float | None:
        """The school's own effort; None where the rammer vibrates."""
        if self.blows is None or self.drop_mm is None:
            return None
        return energy_kj_m3(self.layers_count, self.blows, self.rammer_kg, self.drop_mm, self.mould_cm3)

    def water_step(self, percent: float) -> float:
        """The step an optimum is reported to, percent: so many figures, or a fixed step."""
        return significant_step(percent, self.water_figures) if self.water_figures else self.water_to_percent


def energy_kj_m3(layers: int, blows: float, rammer_kg: float, drop_mm: float, volume_cm3: float) -> float:
    """`E = layers blows m g h / V`, the work of the rammer in the mould's volume.

    Parameters: `layers` and `blows` a layer, above 0; `rammer_kg` in kg; `drop_mm` in mm; `volume_cm3` in cm³, above 0.
    Returns: kJ/m³.
    Source: ASTM D698 prints 600 kN m/m³ for its own effort, D1557 2700.

    >>> round(energy_kj_m3(3, 25, 2.495, 305, 944)), round(energy_kj_m3(5, 25, 4.536, 457, 944))
    (593, 2692)
    """
    return layers * blows * rammer_kg * GRAVITY_M_S2 * (drop_mm / 1000) / (volume_cm3 / 1e6) / 1000


SCHOOLS = schools_of(__file__, CompactionSchool)
