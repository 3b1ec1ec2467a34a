"""What rule books of the double ring set, and what the laboratory sets for all of them."""

from vadum.soil.contract.school import School, laboratory, schools_of


class RingSchool(School):
    """What schools of the double ring differ in.

    `calls_min`: when both rings are read, then every `then_every_min`. Steady are the last `steady_many` intervals
    within `steady_percent` of their mean and without a longer drift. `to_c`: the rate is referred to water of that
    temperature beside; none where it is not set.
    """

    calls_min: tuple[float, ...]
    then_every_min: float
    steady_many: int
    steady_percent: float
    to_c: float | None
    least_h: float = laboratory(6.0, "fairly sure")
    window_s: int = laboratory(60)
    rings_mm: tuple[float, float] = laboratory((300.0, 600.0))
    most_apart_mm: float = laboratory(5.0, "fairly sure")
    head_band_mm: tuple[float, float] = laboratory((25.0, 150.0))
    inner_band_mm: tuple[float, float] = laboratory((50.0, 100.0))
    least_outer_mm: float = laboratory(100.0, "about 150 mm")
    ratio_band: tuple[float, float] = laboratory((0.8, 2.0), "annulus over inner ring")
    range_mm_h: tuple[float, float] = laboratory((0.036, 360.0), "1e-6 to 1e-2 cm/s, fairly sure")
    slow_mm_h: float = laboratory(5.0, "evaporation tells from here down")
    least_below_m: float = laboratory(1.0)
    most_warming_c: float = laboratory(2.0)
    u_ml: float = laboratory(5.0, "how well a volume is measured")
    u_diameter_mm: float = laboratory(1.0, "how round a driven ring is")


SCHOOLS = schools_of(__file__, RingSchool)
