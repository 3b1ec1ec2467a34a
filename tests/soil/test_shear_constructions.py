"""What a strength is made of, by independent ways: areas by integration, t50 and t90 of computed curves, errors of the
envelope against a Monte Carlo, corrections by hand; and what must not matter."""

import math
import random

import pytest

from vadum.soil.contract.errors import ReductionError
from vadum.soil.methods.direct_shear.box import lens_mm2, square_mm2
from vadum.soil.methods.triaxial.cell import (
    area_at_mm2,
    consolidated_area_mm2,
    drains_kpa,
    membrane_kpa,
    saturation_volume_cm3,
)
from vadum.soil.register import METHODS
from vadum.soil.shared.consolidation import T50, T90, Moved, by_log_time, by_root_time
from vadum.soil.shared.envelope import by_circle_tops, by_stresses, fitted

TIMES = [0.0, *(0.1 * 1.45**i for i in range(26))]


def terzaghi(factor):
    """The average degree of consolidation by its series, not by the two branches that the program uses."""
    if factor <= 0:
        return 0.0
    terms = ((math.pi * (2 * n + 1) / 2) ** 2 for n in range(400))
    return 1 - math.fsum(2 / m * math.exp(-m * factor) for m in terms)


def settled(cv_per_min, whole=0.8, start=0.03, creep=0.0):
    return [
        Moved(t, start + whole * terzaghi(cv_per_min * t) + creep * math.log10(1 + t / 60)) for t in TIMES if t < 2e4
    ]


@pytest.mark.parametrize("per_min", [0.005, 0.02, 0.1, 0.6])
def test_the_two_constructions_find_what_the_theory_put_in(per_min):
    root, log = by_root_time(settled(per_min)), by_log_time(settled(per_min))
    assert root.t90_min == pytest.approx(T90 / per_min, rel=0.05)
    assert root.t50_min == pytest.approx(T50 / per_min, rel=0.08)
    assert log.t50_min == pytest.approx(T50 / per_min, rel=0.08)
    assert root.at_100 == pytest.approx(0.83, abs=0.02)
    assert log.at_100 == pytest.approx(0.83, abs=0.02)


def test_creep_does_not_take_the_root_time_with_it():
    plain, creeping = by_root_time(settled(0.05)), by_root_time(settled(0.05, creep=0.02))
    assert creeping.t90_min == pytest.approx(plain.t90_min, rel=0.12)


@pytest.mark.parametrize("travel", [0.0, 1.0, 6.0, 20.0, -0.5])
def test_the_lens_is_what_two_circles_share(travel):
    d, n = 63.5, 40_000
    step = d / n
    reach = abs(travel) / 2
    share = 0.0
    for i in range(n):
        y = -d / 2 + (i + 0.5) * step
        share += max(0.0, 2 * (math.sqrt((d / 2) ** 2 - y * y) - reach)) * step
    assert lens_mm2(d, travel) == pytest.approx(share, rel=1e-4)


@pytest.mark.parametrize("area", [lens_mm2, square_mm2])
def test_halves_that_share_nothing_have_no_area(area):
    with pytest.raises(ReductionError):
        area(0.5, 1.0)


def test_a_travel_behind_the_start_of_a_tiny_box_is_no_crash():
    with pytest.raises(ReductionError):
        lens_mm2(0.5, -1.0)


def test_nominal_and_corrected_areas_agree_at_no_travel():
    assert square_mm2(60.0, 0.0) == pytest.approx(3600)
    assert lens_mm2(63.5, 0.0) == pytest.approx(math.pi * 63.5**2 / 4)


def test_a_specimen_by_hand():
    v0 = math.pi * 38.0**2 / 4 * 76.0 / 1000
    assert v0 == pytest.approx(86.193, abs=0.001)
    lost = saturation_volume_cm3(v0, 0.05, 76.0)
    assert lost == pytest.approx(3 * 86.193 * 0.05 / 76, abs=1e-4)
    area = consolidated_area_mm2(v0, lost, 4.0, 76.0, 0.05 + 1.2)
    assert area == pytest.approx(1000 * (86.193 - 0.1701 - 4.0) / 74.75, rel=1e-4)
    assert area_at_mm2(area, 0.10) == pytest.approx(area / 0.9)
    assert membrane_kpa(1400, 0.2, 0.10, 38.0) == pytest.approx(4 * 1400 * 0.2 * 0.10 / 38)
    assert drains_kpa(0.19, 60.0, 1134.0, 0.02) == pytest.approx(1000 * 0.19 * 60 / 1134)
    assert drains_kpa(0.19, 60.0, 1134.0, 0.005) == pytest.approx(0.25 * 1000 * 0.19 * 60 / 1134)


NORMALS = (50.0, 100.0, 150.0, 200.0, 300.0, 400.0)


@pytest.mark.parametrize(
    ("made_by", "slope"),
    [(by_stresses, math.tan(math.radians(29))), (by_circle_tops, math.sin(math.radians(29)))],
    ids=["on a plane", "tops of circles"],
)
def test_the_errors_of_an_envelope_are_those_of_a_monte_carlo(made_by, slope):
    dice = random.Random(11)
    angles, cohesions, phi_told, c_told = [], [], [], []
    for _ in range(3000):
        line = fitted(NORMALS, [12.0 + slope * n + dice.gauss(0, 4.0) for n in NORMALS])
        found = made_by(line)
        angles.append(found.phi_degrees)
        cohesions.append(found.c_kpa)
        phi_told.append(found.phi_error_degrees**2)
        c_told.append(found.c_error_kpa**2)

    def spread(values):
        middle = sum(values) / len(values)
        return math.sqrt(sum((v - middle) ** 2 for v in values) / (len(values) - 1))

    assert math.sqrt(sum(phi_told) / len(phi_told)) == pytest.approx(spread(angles), rel=0.06)
    assert math.sqrt(sum(c_told) / len(c_told)) == pytest.approx(spread(cohesions), rel=0.06)


ENVELOPES = ("phi_peak_degrees", "c_peak_kpa", "phi_tail_degrees", "phi_degrees", "c_kpa", "shear_strength_kpa")


@pytest.mark.parametrize(
    ("method", "school", "rows"),
    [
        (name, s, rows)
        for name, rows in (("direct_shear", "stages"), ("triaxial", "specimens"))
        for s in METHODS[name].schools
    ],
)
def test_the_order_of_the_specimens_does_not_matter(method, school, rows):
    its = METHODS[method]
    by = its.school(school)
    record = its.virtual(5, by, None).record
    other = record.model_copy(update={rows: getattr(record, rows)[::-1]})
    one, turned = its.outcome(record, by), its.outcome(other, by)
    for key in ENVELOPES:
        a, b = one.value(key), turned.value(key)
        assert (a is None) == (b is None), key
        if a is not None:
            assert b.value == pytest.approx(a.value, rel=1e-9, abs=1e-9), key
