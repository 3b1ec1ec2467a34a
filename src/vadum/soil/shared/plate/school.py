"""Accepted ways to load a plate: how long a step is held, what has to be clear of it, what it is judged by."""

from typing import Literal

from pydantic import Field

from vadum.soil.contract.school import School, laboratory

RestBy = Literal["time", "rate", "time curve"]


class PlateSchool(School):
    """What rule books of plate tests differ in.

    `rest_by`: a step is over after `hold_min`; or once the settlement's rate, over `rest_over_min` or longer, has
    fallen to `rest_mm_min` (and `hold_min` is over); or at a share of its probable settlement by the time curve.
    `read_min`: when the gauges are read after the load is on. `supports_by_width_mm`: pairs of (plate up to, clear
    distance of the reaction's supports from its edge), both mm; else a distance by the plate's widths, and a least one.
    `reaction_margin_kn` comes on top of a factor on the greatest load.
    """

    rest_by: RestBy
    hold_min: float = Field(ge=0)
    rest_mm_min: float | None = None
    rest_over_min: float = Field(1.0, gt=0)
    most_hold_min: float | None = None
    rest_share_percent: float | None = None
    read_min: tuple[float, ...]
    then_every_min: float = Field(gt=0)
    preload_hold_s: float = 30.0
    least_steps: int
    supports_by_width_mm: tuple[tuple[float, float], ...] = ()
    supports_widths_ratio: float = 0.0
    supports_least_mm: float = 0.0
    datum_widths_ratio: float = 0.0
    datum_least_mm: float
    pit_widths_ratio: float = 0.0
    reaction_factor: float = 1.0
    reaction_margin_kn: float = 0.0
    width_to_grain_ratio: float
    uneven_percent: float = laboratory(25.0)
    most_fall_percent: float = laboratory(2.0)
    change_within_s: float = laboratory(60.0)
    watch_spread_percent: float = laboratory(10.0)
    redo_spread_percent: float = laboratory(25.0)
    spread_from_mm: float = laboratory(0.5, "below it a division of a gauge is a large share")
    most_jump_mm: float = laboratory(0.3)
    backward_slack_mm: float = laboratory(0.02, "two divisions of a gauge: less is no settlement that ran backwards")
    other_way_mm: float = laboratory(0.05, "a gauge that rises by more while the others sink does not show the plate")
    reached_ratio: float = laboratory(0.97, "of a target's stress: the load that was brought on stands for it")
    beyond_ratio: float = laboratory(1.03, "of a target's stress: up to it a load is not beyond")
    creeps_mm: tuple[tuple[str, float], ...] = laboratory(
        (("gravel", 0.03), ("sand", 0.06), ("silt", 0.2), ("clay", 0.5)),
        "a step's creep a log cycle of time, for plans",
    )
    oven_min: float = laboratory(16 * 60)
    oven_c: tuple[float, float] = (105.0, 115.0)
