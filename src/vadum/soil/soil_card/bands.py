"""Bands of the cross-readings: what two tests of one soil may differ by unremarked. Laboratory settings."""

from pydantic import Field

from vadum.soil.contract.outcome import Frozen

Band = tuple[float, float]


class Bands(Frozen):
    """Every band with its start value: a pair is from, to; a single figure the most."""

    water_points: float = Field(3.0, gt=0, title="two water contents of a sample, points apart")
    compaction_percent: Band = Field((80.0, 103.0), title="degree of compaction of ground that is likely, %")
    activity_ratio: Band = Field((0.3, 2.0), title="activity that is likely")
    core_to_vane_ratio: Band = Field((0.5, 1.25), title="strength of a core over a vane's")
    depths_m: float = Field(1.0, gt=0, title="core and vane are of one soil up to a depth apart of, m")
    liquidity_times: float = Field(6.0, gt=1, title="strength against the liquidity index, times apart")
    usual_ratio_times: float = Field(1.5, ge=1, title="bearing ratio beyond what is usual of its class, times")
    mould_to_ground_times: float = Field(2.0, gt=1, title="bearing ratios of mould and ground, times apart")
    strength_ratio: Band = Field((0.5, 2.0), title="undrained strengths by two tests, one over the other")
    stress_ratio: Band = Field((0.15, 1.0), title="undrained strength over the stress in the ground")
    stiffness_ratio: Band = Field((50.0, 1000.0), title="E50 over the undrained strength")
    sand_cohesion_kpa: float = Field(5.0, ge=0, title="cohesion of a clean sand, at most, kPa")
    density_ratio: Band = Field((0.95, 1.05), title="dry density of specimens over the ground's")
    sine_of_angle: float = Field(0.1, gt=0, title="sine of the friction angle about 0.8 − 0.094 ln PI")
    angles_degrees: float = Field(4.0, gt=0, title="friction angles by two tests, degrees apart")
    modulus_over_ratio: Band = Field((1.0, 12.0), title="plate modulus Ev2 in MN/m² over a bearing ratio in %")
    plate_strength_ratio: Band = Field((0.5, 2.0), title="strength under a plate over another test's")
    dense_percent: float = Field(98.0, gt=0, title="dense from a degree of compaction of, %")
    hazen_c: float = Field(1.0, gt=0, title="C of K = C D10², K in cm/s and D10 in mm")
    conductivity_times: float = Field(10.0, gt=1, title="conductivity against that of its grading, times apart")
    filled_ratio: Band = Field((0.8, 1.05), title="saturated water of rings over the pores of the ground")
    capacity_points: float = Field(10.0, gt=0, title="water at 33 kPa against its texture, points apart")
    lime_over_clay: Band = Field((0.03, 0.4), title="hydrated lime in % over clay in %")
    least_lime_pi: float = Field(10.0, ge=0, title="plasticity index from which lime is the right agent")
    much_lime_percent: float = Field(4.0, gt=0, title="hydrated lime that is much for so little clay, %")
    loose_modulus_ratio: float = Field(3.0, gt=1, title="ratio of the moduli of dense ground, at most")
