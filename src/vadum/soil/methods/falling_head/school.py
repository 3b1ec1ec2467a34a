"""What differs between ways to a falling-head cylinder, and the laboratory's own numbers."""

from typing import Literal

from vadum.soil.contract.school import School, laboratory, schools_of

RAWLS = "Rawls, Brakensiek and Miller 1983: mean and one standard deviation of the wetting-front suction"


class InfiltrationSchool(School):
    """What the schools differ in.

    `suction`: C of the texture's class, with its spread in K's uncertainty, or both of K and C by the fit. `site`: what
    stands for a place of several cylinders. `rounds_up`: a reading of the 0-10 moisture scale is taken to the next ten
    per cent. `read_every_s` is the timetable of a hand; a sensor reads every `sensor_every_s`.
    """

    suction: Literal["of the texture", "free"]
    site: Literal["geometric", "effective", "least"]
    rounds_up: bool
    read_every_s: float
    sensor_every_s: float = laboratory(5.0)
    leave_s: float = laboratory(20.0, "so near a call nothing else is begun")
    least_to_fit: int = laboratory(5, "levels before anything is fitted")
    early_share: float = laboratory(0.3, "of a record: where a leak shows")
    early_suctions_cm: tuple[float, ...] = laboratory((0.0, 5.0, 15.0, 40.0, 100.0), "tried on the rest of the record")
    to_c: float = laboratory(20.0)
    cylinders: int = laboratory(3)
    # texture, C in cm with one standard deviation down and up, porosity in %, conductivity in mm/h
    textures: tuple[tuple[str, float, float, float, float, float], ...] = laboratory(
        (
            ("sand", 4.95, 0.97, 25.36, 43.7, 117.8),
            ("loamy sand", 6.13, 1.35, 27.94, 43.7, 29.9),
            ("sandy loam", 11.01, 2.67, 45.47, 45.3, 10.9),
            ("loam", 8.89, 1.33, 59.38, 46.3, 3.4),
            ("silt loam", 16.68, 2.92, 95.39, 50.1, 6.5),
            ("sandy clay loam", 21.85, 4.42, 108.0, 39.8, 1.5),
            ("clay loam", 20.88, 4.79, 91.1, 46.4, 1.0),
            ("silty clay loam", 27.3, 5.67, 131.5, 47.1, 1.0),
            ("sandy clay", 23.9, 4.08, 140.2, 43.0, 0.6),
            ("silty clay", 29.22, 6.13, 139.4, 47.9, 0.5),
            ("clay", 31.63, 6.39, 156.5, 47.5, 0.3),
        ),
        RAWLS,
    )
    usual_texture: str = laboratory("sandy loam")
    u_scale_percent: float = laboratory(5.0, "of saturation: a scale that is rounded up to the next ten")
    u_probe_percent: float = laboratory(2.0, "of the volume, a direct probe")
    usual_after_percent: float = laboratory(100.0, "of the pores, where none was read after")
    least_gain: float = laboratory(0.02, "water that the ground takes, of its volume")
    least_points: int = laboratory(20)
    least_duration_s: float = laboratory(60.0)
    least_insertion_mm: float = laboratory(40.0)
    least_start_mm: float = laboratory(300.0)
    least_depth_ratio: float = laboratory(1.0, "driven depth over radius: shallower overestimates K")
    least_water_below_m: float = laboratory(1.0)
    most_apart_percent: float = laboratory(30.0, "fit and late slope")
    most_rise_mm: float = laboratory(3.0)
    most_step_mm: float = laboratory(8.0, "a fall between two readings beyond what its neighbours tell")
    most_excess_ratio: float = laboratory(1.12, "early fall over what the rest tells: sound ones stay below 1.09")
    most_still: int = laboratory(8, "readings alike in a row while water is in it")
    most_over_texture: float = laboratory(30.0, "conductivity over that of its texture")
    most_guard_percent: float = laboratory(1.0, "of the water in the cylinder")
    empty_mm: float = laboratory(8.0, "above the soil: the rest is bumps")
    may_stop_min: float = laboratory(240.0, "clay: long enough for its slope")
    may_stop_fall_mm: float = laboratory(50.0)
    effective_share: float = laboratory(0.32, "of the arithmetic mean in an effective one")


SCHOOLS = schools_of(__file__, InfiltrationSchool)
