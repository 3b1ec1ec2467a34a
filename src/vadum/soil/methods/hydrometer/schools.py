"""Accepted ways to a hydrometer analysis: when to read, how exactly, and which depth is meant."""

from vadum.soil.contract.method import School

TEACHING = (2.0, 4.0, 8.0, 16.0, 32.0, 60.0, 90.0)
D422 = (2.0, 5.0, 15.0, 30.0, 60.0, 250.0, 1440.0)
D7928 = (1.0, 2.0, 4.0, 15.0, 30.0, 60.0, 120.0, 240.0, 1440.0)
ISO = (0.5, 1.0, 2.0, 4.0, 8.0, 30.0, 120.0, 480.0, 1440.0)


class HydrometerSchool(School):
    """Schedule in minutes, windows, and limits. Readings up to `left_in_min` are made with the hydrometer left in."""

    schedule_min: tuple[float, ...]
    left_in_min: float = 0.0
    lead_s: int = 30
    after_s: int = 45
    least_lead_s: int = 15
    most_lead_s: int = 60
    shake_s: int = 60
    window_early_s: int = 5
    early_until_min: float = 10.0
    window_late_percent: float = 2.0
    soak_min: float = 16 * 60
    mix_min: float = 1.0
    most_solution_days: int = 30
    mass_band_g: tuple[float, float] = (45.0, 105.0)
    most_drift_c: float = 2.0
    watch_drift_c: float = 1.0
    most_beyond_blank_c: float = 2.0
    reading_error_g_l: float = 0.3
    clay_mm: float = 0.002
    fines_mm: float = 0.075
    report_to_percent: float = 1.0

    def window_s(self, minutes: float) -> int:
        """How far from its time a reading may be taken, s."""
        if minutes <= self.early_until_min:
            return self.window_early_s
        return max(self.window_early_s, round(60 * minutes * self.window_late_percent / 100))


_ALL = (
    HydrometerSchool(
        name="teaching",
        title="Seven readings in ninety minutes",
        standard="soil-science practice on ASTM D422",
        about="2, 4, 8, 16, 32, 60 and 90 min; the hydrometer out between readings.",
        schedule_min=TEACHING,
    ),
    HydrometerSchool(
        name="d422",
        title="Seven readings in a day",
        standard="ASTM D422",
        about="2, 5, 15, 30, 60, 250 and 1440 min; depths as tabled for the bulb.",
        schedule_min=D422,
    ),
    HydrometerSchool(
        name="d7928",
        title="Nine readings in a day",
        standard="ASTM D7928",
        about="1, 2, 4, 15, 30, 60, 120, 240 and 1440 min; left in for the first two minutes.",
        schedule_min=D7928,
        left_in_min=2.0,
        most_solution_days=7,
    ),
    HydrometerSchool(
        name="aashto",
        title="Seven readings in a day",
        standard="AASHTO T 88",
        about="2, 5, 15, 30, 60, 250 and 1440 min; 65 or 100 g.",
        schedule_min=D422,
    ),
    HydrometerSchool(
        name="iso",
        title="Nine readings in a day",
        standard="ISO 17892-4",
        about="0.5, 1, 2, 4, 8, 30, 120, 480 and 1440 min; left in for the first two minutes; fines under 0.063 mm.",
        schedule_min=ISO,
        left_in_min=2.0,
        fines_mm=0.063,
    ),
)

SCHOOLS: dict[str, HydrometerSchool] = {school.name: school for school in _ALL}
