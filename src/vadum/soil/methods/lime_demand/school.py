"""What the rule books of a lime demand by pH set, and what the laboratory sets for all of them."""

from vadum.soil.contract.school import School, laboratory, schools_of


class LimeSchool(School):
    """What rule books of the lime demand differ in.

    `dry_g` of soil and `limes_percent` of it in each bottle. `reaches_ph` decides; where `plateau`, a pH that goes on
    rising above it, and two bottles above `near_ph`, decide too. `only_ph` is the band of the lime-only bottle, from
    its least without a word to its most; down to `only_stop_ph` it is a *watch*. `named`: what the result is called.
    """

    named: str
    dry_g: float
    limes_percent: tuple[float, ...]
    only_g: float
    reaches_ph: float
    only_ph: tuple[float, float]
    only_stop_ph: float
    plateau: bool
    buffers_ph: tuple[float, ...]
    water_ml: float = laboratory(100.0)
    near_ph: float = laboratory(12.30)
    more_limes_percent: tuple[float, ...] = laboratory((7.0, 8.0, 10.0))
    rises_ph: float = laboratory(0.05, "above the lime-only bottle, doubtful: scatter near saturation is no rise")
    meter_ph: float = laboratory(0.02, "accuracy of the meter")
    per_c_ph: float = laboratory(0.03, "pH25 = pHT + 0.03 (T - 25)")
    shake_every_min: float = laboratory(10.0)
    shake_s: float = laboratory(30.0)
    shaken_at_once: int = laboratory(2, "bottles in two hands")
    shake_window_s: int = laboratory(120)
    leave_min: float = laboratory(2.0, "so near a call nothing else is begun")
    temperature_owed_min: float = laboratory(10.0, "so long after a reading the probe's temperature is asked")
    stands_min: float = laboratory(60.0)
    gate_min: float = laboratory(15.0)
    reading_min: float = laboratory(1.5, "a reading of a slurry that stands still")
    bath_c: float = laboratory(25.0)
    bath_near_c: float = laboratory(1.0)
    bath_far_c: float = laboratory(3.0)
    most_fall_ph: float = laboratory(0.05)
    most_mass_g: float = laboratory(0.01)
    least_prepared_g: float = laboratory(350.0)
    least_purity_percent: float = laboratory(90.0, "of the label")
    most_sulphate_mg_kg: float = laboratory(3000.0, "heave of lime-treated soil, fairly sure")
    most_organic_percent: float = laboratory(2.0, "fairly sure")
    least_pi_percent: float = laboratory(10.0, "fairly sure")
    untreated_band_ph: tuple[float, float] = laboratory((4.0, 9.5))
    most_check_ph: float = laboratory(0.05, "a third buffer, fairly sure")
    slope_band_percent: tuple[float, float] = laboratory((92.0, 103.0), "of the ideal slope")
    quick_ratio: float = laboratory(0.757, "CaO over Ca(OH)2, 56.08 / 74.09")


SCHOOLS = schools_of(__file__, LimeSchool)
