"""Accepted ways to a density by ring: how many headspaces, how much subsample, how it is dried."""

from vadum.soil.contract.method import School


class RingDensitySchool(School):
    """Numbers that differ between the rule books."""

    full_ring: bool = False
    least_headspaces: int = 4
    most_askew_mm: float = 5.0
    most_shortened_mm: float = 3.0
    least_subsample_percent: float = 10.0
    least_subsample_g: float = 30.0
    usual_mg_m3: tuple[float, float] = (0.6, 2.4)
    most_hours_since_sampling: float = 24.0
    oven_min: float = 16 * 60
    report_to_mg_m3: float = 0.01


_ALL = (
    RingDensitySchool(
        name="headspace",
        title="Driven ring, headspace measured",
        standard="ISO 11272",
        about="Headspace at four or more places; bagged in the field; subsample for water.",
    ),
    RingDensitySchool(
        name="full_ring",
        title="Full ring, trimmed flush",
        standard="ASTM D2937",
        about="Trimmed at both ends; the soil's height is the ring's.",
        full_ring=True,
    ),
    RingDensitySchool(
        name="microwave",
        title="Driven ring, subsample by microwave",
        standard="ISO 11272 with ASTM D4643",
        about="As with headspace; the subsample dries in short spells.",
        oven_min=20,
    ),
)

SCHOOLS: dict[str, RingDensitySchool] = {school.name: school for school in _ALL}
