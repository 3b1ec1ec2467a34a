"""Accepted ways to a compaction curve: mould, layers, blows, rammer, and how the peak is drawn."""

from typing import Literal

from vadum.soil.contract.method import School


class CompactionSchool(School):
    """The effort and the fit. A laboratory that varies the blows copies a school and holds its own figure."""

    mould_cm3: float
    layers_count: int
    blows: int | None
    rammer_kg: float
    drop_mm: float | None
    fit: Literal["parabola", "cubic", "spline"] = "parabola"
    fit_points: int | None = 5
    fresh_portions: bool = True
    least_points: int = 5
    least_each_side: int = 2
    step_percent: float = 2.0
    mould_tolerance_percent: float = 2.0
    most_oversize_percent: float = 30.0
    most_estimate_gap_percent: float = 1.5
    oven_min: float = 16 * 60
    density_to_mg_m3: float = 0.01
    water_to_percent: float = 0.5


def _school(name: str, title: str, standard: str, effort: str, **settings: object) -> CompactionSchool:
    return CompactionSchool.model_validate(
        {"name": name, "title": title, "standard": standard, "about": effort, **settings}
    )


_LIGHT, _HEAVY = {"rammer_kg": 2.495, "drop_mm": 305.0}, {"rammer_kg": 4.536, "drop_mm": 457.0}
_BS_LIGHT, _BS_HEAVY = {"rammer_kg": 2.5, "drop_mm": 300.0}, {"rammer_kg": 4.5, "drop_mm": 450.0}
_FINE = {"density_to_mg_m3": 0.01, "water_to_percent": 0.1}
_REUSED = {"fresh_portions": False}

_ALL = (
    _school(
        "standard_944",
        "Standard effort, 944 cm³ mould",
        "ASTM D698 method A or B, AASHTO T 99",
        "Three layers of 25 blows, 2.495 kg from 305 mm; a fresh portion for each point.",
        mould_cm3=944,
        layers_count=3,
        blows=25,
        **_LIGHT,
        **_FINE,
    ),
    _school(
        "standard_2124",
        "Standard effort, 152 mm mould",
        "ASTM D698 method C, AASHTO T 99",
        "Three layers of 56 blows, 2.495 kg from 305 mm.",
        mould_cm3=2124,
        layers_count=3,
        blows=56,
        **_LIGHT,
        **_FINE,
    ),
    _school(
        "modified_944",
        "Modified effort, 944 cm³ mould",
        "ASTM D1557 method A or B, AASHTO T 180",
        "Five layers of 25 blows, 4.536 kg from 457 mm.",
        mould_cm3=944,
        layers_count=5,
        blows=25,
        **_HEAVY,
        **_FINE,
    ),
    _school(
        "modified_2124",
        "Modified effort, 152 mm mould",
        "ASTM D1557 method C, AASHTO T 180",
        "Five layers of 56 blows, 4.536 kg from 457 mm.",
        mould_cm3=2124,
        layers_count=5,
        blows=56,
        **_HEAVY,
        **_FINE,
    ),
    _school(
        "light_litre",
        "2.5 kg rammer, one-litre mould",
        "BS 1377-4",
        "Three layers of 27 blows from 300 mm; one batch wetted again and again where grains are not crushed.",
        mould_cm3=1000,
        layers_count=3,
        blows=27,
        **_BS_LIGHT,
        **_REUSED,
    ),
    _school(
        "heavy_litre",
        "4.5 kg rammer, one-litre mould",
        "BS 1377-4",
        "Five layers of 27 blows from 450 mm.",
        mould_cm3=1000,
        layers_count=5,
        blows=27,
        **_BS_HEAVY,
        **_REUSED,
    ),
    _school(
        "light_cbr",
        "2.5 kg rammer, bearing-ratio mould",
        "BS 1377-4",
        "Three layers of 62 blows from 300 mm.",
        mould_cm3=2305,
        layers_count=3,
        blows=62,
        **_BS_LIGHT,
    ),
    _school(
        "middle_cbr",
        "4.5 kg rammer, bearing-ratio mould, 30 blows",
        "BS 1377-4",
        "Five layers of 30 blows from 450 mm.",
        mould_cm3=2305,
        layers_count=5,
        blows=30,
        **_BS_HEAVY,
    ),
    _school(
        "heavy_cbr",
        "4.5 kg rammer, bearing-ratio mould, 62 blows",
        "BS 1377-4",
        "Five layers of 62 blows from 450 mm.",
        mould_cm3=2305,
        layers_count=5,
        blows=62,
        **_BS_HEAVY,
    ),
    _school(
        "vibrating",
        "Vibrating hammer, bearing-ratio mould",
        "BS 1377-4",
        "Three layers of 60 s under 300 to 400 N; curve through the points by a cubic.",
        mould_cm3=2305,
        layers_count=3,
        blows=None,
        rammer_kg=35.0,
        drop_mm=None,
        fit="cubic",
        fit_points=None,
    ),
    _school(
        "standard_spline",
        "Standard effort, curve by a smooth spline",
        "laboratory practice on ASTM D698",
        "As the standard effort; the curve passes through every point.",
        mould_cm3=944,
        layers_count=3,
        blows=25,
        fit="spline",
        fit_points=None,
        **_LIGHT,
        **_FINE,
    ),
)

SCHOOLS: dict[str, CompactionSchool] = {school.name: school for school in _ALL}
