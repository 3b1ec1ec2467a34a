"""Accepted ways to a specific gravity: how many pycnometers, how well they agree, how long the air is drawn."""

from vadum.soil.contract.method import School


class SpecificGravitySchool(School):
    """Numbers that differ between the rule books."""

    least_determinations: int = 2
    most_apart: float = 0.03
    vacuum_min: float = 120.0
    boiling_min: float = 10.0
    most_from_calibration_c: float = 4.0
    usual: tuple[float, float] = (2.5, 2.9)
    report_to: float = 0.01
    oven_min: float = 16 * 60


_ALL = (
    SpecificGravitySchool(
        name="astm",
        title="Water pycnometer, two determinations",
        standard="ASTM D854, AASHTO T 100",
        about="Two pycnometers within 0.03; corrected to 20 °C.",
        report_to=0.001,
    ),
    SpecificGravitySchool(
        name="iso",
        title="Fluid pycnometer, two determinations",
        standard="ISO 17892-3",
        about="Two pycnometers within 0.03; an hour of vacuum; reported to 0.01.",
        vacuum_min=60.0,
    ),
    SpecificGravitySchool(
        name="three_replicates",
        title="Three replicates",
        standard="soil-science three-replicate practice",
        about="Three pycnometers; mean and spread.",
        least_determinations=3,
        vacuum_min=60.0,
    ),
)

SCHOOLS: dict[str, SpecificGravitySchool] = {school.name: school for school in _ALL}
