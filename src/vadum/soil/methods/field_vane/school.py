"""What the rule books of the field vane set, and what the laboratory sets for all of them."""

from typing import Literal

from vadum.soil.contract.school import School, laboratory, schools_of

Design = Literal["none", "by plasticity and time to failure", "by plasticity, read off the chart"]


class VaneSchool(School):
    """Turning, turns before the second reading, where the depth is counted to, and how sensitivity is called."""

    rate_degrees_min: tuple[float, float] = (6.0, 12.0)
    turns_count: int
    depth_to: Literal["middle", "tip"] = "middle"
    least_hole_diameters_ratio: float = 5.0
    sensitivity_classes: Literal["older", "ISO 14688-2"] = "older"
    design: Design = "none"
    failure_min: float = laboratory(10_000.0, "Chandler (1988), as ASTM D2573 cites it")
    least_peak_min: float = laboratory(1.0, "laboratory setting on ASTM D2573")
    most_peak_min: float = laboratory(5.0, "ASTM D2573, fairly sure")
    most_wait_min: float = laboratory(5.0, "ASTM D2573, fairly sure")
    least_spacing_m: float = laboratory(0.5, "ASTM D2573, fairly sure")
    least_spacing_ratio: float = laboratory(2.0, "ASTM D2573, fairly sure")
    most_strength_kpa: float = laboratory(200.0, "ASTM D2573, fairly sure")
    most_area_ratio_percent: float = laboratory(12.0, "ISO 22476-9")
    vane_shape_ratio: float = laboratory(2.0, "ASTM D2573, BS 1377-9")
    most_jump_ratio: float = laboratory(2.0)
    least_stress_ratio: float = laboratory(0.15)
    most_stress_ratio: float = laboratory(1.0)
    # In a fissured clay the vane shears the clay between the fissures; EN 1997-2's annex knows factors as low.
    fissured_ratio: float = laboratory(1 / 3, "laboratory setting; EN 1997-2, annex on the vane")
    # A young clay that was never loaded more has about so much of its effective stress; drawn beside, never a result.
    usual_stress_ratio: float = laboratory(0.22, "usual of normally consolidated clay, an order of magnitude")
    least_plasticity_percent: float = laboratory(5.0, "Chandler (1988)")
    report_to_kpa: float = laboratory(0.1)


SCHOOLS = schools_of(__file__, VaneSchool)

# Bjerrum (1972), read off his chart: plasticity index in percent, factor.
CHART: tuple[tuple[float, float], ...] = (
    (20.0, 1.0),
    (30.0, 0.92),
    (40.0, 0.86),
    (50.0, 0.81),
    (60.0, 0.77),
    (80.0, 0.70),
    (100.0, 0.65),
    (120.0, 0.62),
)
