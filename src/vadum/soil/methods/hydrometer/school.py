"""Accepted ways to a hydrometer analysis: when to read, how exactly, and which depth is meant."""

from typing import Literal

from vadum.soil.contract.school import School, laboratory, schools_of


class HydrometerSchool(School):
    """Schedule in minutes, windows, and limits. Readings up to `left_in_min` are made with the hydrometer left in.

    A pipette's timetable follows from its sizes in mm, its depth in mm and the bath's temperature; its `schedule_min`
    is that of 20 °C.
    """

    schedule_min: tuple[float, ...]
    by: Literal["hydrometer", "pipette"] = "hydrometer"
    pipette_sizes_mm: tuple[float, ...] = ()
    pipette_depth_mm: float = laboratory(100.0)
    pipette_ml: float = laboratory(25.0)
    pipette_size_within_percent: float = laboratory(5.0)
    oven_min: float = laboratory(16 * 60)
    balance_error_g: float = laboratory(0.0005)
    left_in_min: float = 0.0
    lead_s: int = laboratory(30)
    after_s: int = laboratory(45)
    least_lead_s: int = laboratory(15)
    most_lead_s: int = laboratory(60)
    shake_s: int = laboratory(60)
    window_early_s: int = laboratory(5)
    early_until_min: float = laboratory(10.0)
    window_late_percent: float = laboratory(2.0)
    soak_min: float = laboratory(16 * 60)
    mix_min: float = laboratory(1.0)
    most_solution_days: int = 30
    mass_band_g: tuple[float, float] = (45.0, 105.0)
    adds_meniscus: bool = False
    dispersant: str = "125 mL of hexametaphosphate, 40 g/L"
    usual_mass: str = "About 50 g of clay, 65 to 100 g of sandy soil"
    usual_gravity: tuple[float, float] = laboratory((2.4, 2.9))
    most_after_percent: float = laboratory(1.0)
    most_clock_apart_percent: float = laboratory(5.0)
    thermometer_error_c: float = laboratory(0.1)
    most_drift_c: float = laboratory(2.0)
    watch_drift_c: float = laboratory(1.0)
    most_beyond_blank_c: float = laboratory(2.0)
    reading_error_g_l: float = laboratory(0.3)
    clay_mm: float = laboratory(0.002)
    fines_mm: float = 0.075
    report_to_percent: float = laboratory(1.0)

    def window_s(self, minutes: float) -> int:
        """How far from its time a reading may be taken, s."""
        if minutes <= self.early_until_min:
            return self.window_early_s
        return max(self.window_early_s, round(60 * minutes * self.window_late_percent / 100))


SCHOOLS = schools_of(__file__, HydrometerSchool)
