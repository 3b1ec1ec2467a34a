"""What rule books of water retention set, and what the laboratory sets for all of them."""

from vadum.soil.contract.school import School, laboratory, schools_of


class RetentionSchool(School):
    """What rule books of water retention differ in.

    `steps_kpa` are offered when a run begins. A step is settled when the mass changed by no more than `settled_g` a day
    over `settled_days`. `field_capacity_kpa` is a national custom.
    """

    steps_kpa: tuple[float, ...]
    settled_g: float
    settled_days: int
    field_capacity_kpa: float
    wilting_kpa: float = laboratory(1500.0)
    settled_percent: float = laboratory(0.05, "of its water a day, where that is more than the mass")
    weigh_every_h: float = laboratory(24.0)
    same_day_min: float = laboratory(60.0, "so long before its hour a cell may be weighed")
    least_between_h: float = laboratory(2.0, "re-seated: plate and soil come to rest in 2 to 6 h")
    usual_particle_mg_m3: float = laboratory(2.65)
    water_mg_m3: float = laboratory(0.9982, "at 20 °C")
    residual_percent: float = laboratory(0.0, "fixed: water held beyond all suction")
    residual_free_from_kpa: float = laboratory(1000.0, "from here on a residual can be found")
    most_n: float = laboratory(15.0, "bound of the fit")
    alpha_band_per_cm: tuple[float, float] = laboratory((1e-4, 2.0), "bounds of the fit")
    most_step_ratio: float = laboratory(20.0, "a pressure over the one before: else a unit is wrong")
    most_rise_percent: float = laboratory(0.5, "water that comes back with more suction, of the volume")
    usual_filled_ratio: float = laboratory(0.95, "saturated water over porosity, until the oven tells")
    least_filled_ratio: float = laboratory(0.85, "saturated water over porosity")
    most_filled_ratio: float = laboratory(1.02, "saturated water over porosity")
    most_jump_g: float = laboratory(1.0, "a mass that rises: something was added to the cell")
    most_warming_c: float = laboratory(2.0)
    alike_loss_percent: float = laboratory(10.0, "losses of so many days alike: it evaporates")
    alike_days: int = laboratory(4)
    most_oven_g: float = laboratory(1.0, "last mass against the oven's water")
    u_mass_g: float = laboratory(0.05, "re-seating a plate")


SCHOOLS = schools_of(__file__, RetentionSchool)
