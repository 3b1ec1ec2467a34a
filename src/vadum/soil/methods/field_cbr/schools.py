"""Accepted ways to a bearing ratio in place."""

from vadum.soil.shared.bearing.school import ASTM_CALLED, ASTM_SEATING, BearingSchool


class SpotSchool(BearingSchool):
    """The reaction and the datum besides the push."""

    reaction_margin_percent: float = 20.0
    least_datum_mm: float = 1000.0
    plateau_mm: float = 1.0
    plateau_percent: float = 1.5
    most_vehicle_mm: float = 0.5
    near_reaction_percent: float = 10.0
    most_ring_back_div: float = 2.0
    oven_min: float = 16 * 60


def _school(name: str, title: str, standard: str, about: str, **settings: object) -> SpotSchool:
    return SpotSchool.model_validate({"name": name, "title": title, "standard": standard, "about": about, **settings})


_ALL = (
    _school(
        "bs_in_place",
        "In place, 1 mm/min",
        "BS 1377-9",
        "Called each 0.25 mm to 7.5 mm; forces against 13.2 and 20.0 kN, the higher governs; two figures.",
    ),
    _school(
        "bs_steps",
        "In place, rounded in steps",
        "laboratory practice on BS 1377-9",
        "As BS; below 30 % to 1, to 100 % to 5, above to 10; nothing is read between an instrument's samples.",
        interpolates=False,
        rounding="one, five, ten",
    ),
    _school(
        "astm_in_place",
        "In place, 1.27 mm/min",
        "ASTM D4429",
        "Stress against 6.9 MPa at 2.54 mm; 10.3 MPa at 5.08 mm only where higher twice; whole percent.",
        called_mm=ASTM_CALLED,
        rate_mm_min=1.27,
        first_mm=2.54,
        second_mm=5.08,
        reference="stress",
        governs="the first, unless the second is higher twice",
        rounding="whole",
        seating_classes=ASTM_SEATING,
        most_stone_mm=19.0,
    ),
)

SCHOOLS: dict[str, SpotSchool] = {school.name: school for school in _ALL}
