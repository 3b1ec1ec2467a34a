"""Accepted ways of drying a specimen."""

from typing import Literal

from vadum.soil.contract.method import School


class WaterContentSchool(School):
    """How the soil is dried, for how long, and when its mass counts as constant."""

    dried_by: Literal["oven", "microwave", "direct heat"]
    temperature_c: tuple[float, float] | None
    first_min: float
    again_min: float
    cool_min: float
    second_weighing: bool
    constant_percent: float
    tare_drift_g: float = 0.05
    most_hours_since_sampling: float = 24.0
    balance_error_percent: float = 0.1
    least_mass_g: float = 0.0


# D2216, table 1: largest particle, mm -> least wet mass, g, for reporting to 1 % and to 0.1 %.
SPECIMEN_SIZES: tuple[tuple[float, float, float], ...] = (
    (2.0, 20, 20),
    (4.75, 20, 100),
    (9.5, 50, 500),
    (19.0, 250, 2500),
    (37.5, 1000, 10000),
    (75.0, 5000, 50000),
)

_ALL = (
    WaterContentSchool(
        name="oven_110",
        title="Oven 110 °C, overnight",
        standard="ASTM D2216, AASHTO T 265",
        about="110 ± 5 °C for at least 16 h; a second weighing only when in doubt.",
        dried_by="oven",
        temperature_c=(105, 115),
        first_min=16 * 60,
        again_min=60,
        cool_min=5,
        second_weighing=False,
        constant_percent=0.1,
    ),
    WaterContentSchool(
        name="oven_105",
        title="Oven 105 °C, to constant mass",
        standard="ISO 17892-1",
        about="105 ± 5 °C for at least 16 h, then weighed again until the mass is constant.",
        dried_by="oven",
        temperature_c=(100, 110),
        first_min=16 * 60,
        again_min=60,
        cool_min=5,
        second_weighing=True,
        constant_percent=0.1,
    ),
    WaterContentSchool(
        name="oven_105_day",
        title="Oven 105 °C, a full day",
        standard="soil-science practice",
        about="105 °C for 18 to 24 h.",
        dried_by="oven",
        temperature_c=(100, 110),
        first_min=18 * 60,
        again_min=60,
        cool_min=10,
        second_weighing=False,
        constant_percent=0.1,
    ),
    WaterContentSchool(
        name="oven_100_half_day",
        title="Oven at no more than 100 °C, 12 h",
        standard="soil-science practice",
        about="Never above 100 °C, for at least 12 h.",
        dried_by="oven",
        temperature_c=(90, 100),
        first_min=12 * 60,
        again_min=60,
        cool_min=10,
        second_weighing=True,
        constant_percent=0.1,
    ),
    WaterContentSchool(
        name="oven_60",
        title="Oven 60 °C, for gypsum or organic soil",
        standard="ASTM D2216, note on gypsum and organic soil",
        about="60 ± 5 °C for at least 24 h, weighed again every few hours until the mass is constant.",
        dried_by="oven",
        temperature_c=(55, 65),
        first_min=24 * 60,
        again_min=240,
        cool_min=5,
        second_weighing=True,
        constant_percent=0.1,
    ),
    WaterContentSchool(
        name="microwave",
        title="Microwave",
        standard="ASTM D4643",
        about="3 min at full power with a heat sink, then cycles of 1 min until the mass is constant.",
        dried_by="microwave",
        temperature_c=None,
        first_min=3,
        again_min=1,
        cool_min=3,
        second_weighing=True,
        constant_percent=0.1,
    ),
    WaterContentSchool(
        name="microwave_cup",
        title="Microwave, small subsample in a paper cup",
        standard="soil-science practice",
        about="Two cycles of 4 min with the door open for 1 min between.",
        dried_by="microwave",
        temperature_c=None,
        first_min=4,
        again_min=4,
        cool_min=1,
        second_weighing=True,
        constant_percent=0.1,
    ),
    WaterContentSchool(
        name="direct_heat",
        title="Hot plate or stove",
        standard="ASTM D4959",
        about="Stir over heat until a cool mirror stays clear, weigh, heat again, weigh again.",
        dried_by="direct heat",
        temperature_c=None,
        first_min=15,
        again_min=5,
        cool_min=5,
        second_weighing=True,
        constant_percent=0.1,
    ),
    WaterContentSchool(
        name="oven_110_500g",
        title="Oven 110 °C, 500 g always",
        standard="field practice on ASTM D2216",
        about="As overnight at 110 °C, with 500 g of wet soil whatever its grain.",
        dried_by="oven",
        temperature_c=(105, 115),
        first_min=16 * 60,
        again_min=60,
        cool_min=5,
        second_weighing=False,
        constant_percent=0.1,
        least_mass_g=500,
    ),
)

SCHOOLS: dict[str, WaterContentSchool] = {school.name: school for school in _ALL}
