"""Accepted ways to a bearing ratio in the mould: effort, ends, soaking, rate, reference and rounding."""

from vadum.soil.shared.bearing.school import ASTM_CALLED, ASTM_SEATING, BearingSchool


class MouldSchool(BearingSchool):
    """The specimen besides the push. A laboratory that varies the blows copies a school and holds its own figure."""

    effort: str
    mould_cm3: float = 2305.0
    height_mm: float = 127.0
    both_ends: bool = True
    average_within_percent: float = 10.0
    soak_days: float = 4.0
    least_soak_share: float = 0.95
    most_target_gap_percent: float = 2.0
    most_water_gap_percent: float = 1.0
    most_swell_percent: float = 3.0
    most_oversize_percent: float = 25.0
    oven_min: float = 16 * 60
    density_to_mg_m3: float = 0.01


def _school(name: str, title: str, standard: str, about: str, **settings: object) -> MouldSchool:
    return MouldSchool.model_validate({"name": name, "title": title, "standard": standard, "about": about, **settings})


_ASTM = {
    "called_mm": ASTM_CALLED,
    "rate_mm_min": 1.27,
    "first_mm": 2.54,
    "second_mm": 5.08,
    "reference": "stress",
    "governs": "the first, unless the second is higher twice",
    "rounding": "whole",
    "seating_classes": ASTM_SEATING,
    "mould_cm3": 2124.0,
    "height_mm": 116.4,
    "both_ends": False,
    "most_stone_mm": 19.0,
}
_LIGHT, _HEAVY = "3 × 62 blows, 2.5 kg from 300 mm", "5 × 62 blows, 4.5 kg from 450 mm"

_ALL = (
    _school(
        "bs_light",
        "Both ends, 2.5 kg rammer",
        "BS 1377-4",
        "Read each 0.25 mm at 1 mm/min; forces against 13.2 and 20.0 kN, the higher governs; two figures.",
        effort=_LIGHT,
    ),
    _school(
        "bs_heavy",
        "Both ends, 4.5 kg rammer",
        "BS 1377-4",
        "As the light effort, with five layers of the heavy rammer.",
        effort=_HEAVY,
    ),
    _school(
        "bs_vibrating",
        "Both ends, vibrating hammer",
        "BS 1377-4",
        "Three layers of 60 s under the hammer.",
        effort="3 layers, 60 s each under the hammer",
    ),
    _school(
        "steps_of_five",
        "Both ends, 2.5 kg rammer, rounded in steps",
        "laboratory practice on BS 1377-4",
        "As the light effort; below 30 % to 1, to 100 % to 5, above to 10; "
        "an instrument's samples are taken as they are, nothing between them.",
        effort=_LIGHT,
        interpolates=False,
        rounding="one, five, ten",
    ),
    _school(
        "en_13286",
        "One end, 1.27 mm/min",
        "EN 13286-47",
        "One end at 1.27 mm/min; forces against 13.2 and 20.0 kN, the higher governs.",
        effort="as the mixture's Proctor test",
        rate_mm_min=1.27,
        both_ends=False,
        height_mm=120.0,
        mould_cm3=2120.0,
    ),
    _school(
        "astm_standard",
        "One end, standard effort",
        "ASTM D1883",
        "Stress against 6.9 MPa at 2.54 mm; 10.3 MPa at 5.08 mm only where higher twice.",
        effort="3 × 56 blows, 2.495 kg from 305 mm",
        **_ASTM,
    ),
    _school(
        "astm_modified",
        "One end, modified effort",
        "ASTM D1883",
        "As the standard effort, with the heavy rammer.",
        effort="5 × 56 blows, 4.536 kg from 457 mm",
        **_ASTM,
    ),
    _school(
        "aashto_t193",
        "One end, AASHTO",
        "AASHTO T 193",
        "As ASTM; three specimens of 10, 30 and 65 blows bracket the wanted density.",
        effort="the wanted blows, 4.536 kg from 457 mm",
        **_ASTM,
    ),
)

SCHOOLS: dict[str, MouldSchool] = {school.name: school for school in _ALL}
