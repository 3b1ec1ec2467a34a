"""What the simulated shear frame and triaxial set answer, sound and in trouble."""

import random

import pytest

from vadum.instruments.simulated_frames import PressureCell, Shear
from vadum.instruments.simulated_plate import Plate
from vadum.instruments.simulated_setting import Setting

QUIET = {"noise": 0.0, "rate_mm_min": 60.0, "running": True}
SAND = {"kind": "shear", "a_kn_mm": 0.4, "bend_mm": 1.2, "power": 2.0, "peak_mm": 2.0, "left_ratio": 0.7}


def shown(body):
    return {name: float(figure) for name, figure in (pair.split("=") for pair in body.figures().split())}


def after(body, mm):
    body.advance(mm - body.true_mm)
    return shown(body)


def shear(**more):
    return Shear(Setting(**{**QUIET, **SAND, **more}), random.Random(1))


def triaxial(**more):
    return PressureCell(Setting(kind="cell", **{**QUIET, **more}), random.Random(1))


def test_sand_peaks_and_softens_while_it_closes_and_opens():
    frame = shear(end_mm=8.0)
    first, peak, tail = after(frame, 0.4), after(frame, 2.0), after(frame, 7.9)
    assert first["vertical"] > 0 > tail["vertical"]
    assert tail["force"] == pytest.approx(0.7 * peak["force"], rel=0.02)


def test_screws_left_in_bear_at_once_and_give_way():
    frame, sound = shear(trouble=("screws",), at_mm=0.6), shear()
    assert after(frame, 0.3)["force"] > 2 * after(sound, 0.3)["force"]
    assert after(frame, 0.9)["force"] == pytest.approx(after(sound, 0.9)["force"])


def test_a_stuck_vertical_gauge_shows_one_figure_and_a_hard_carriage_adds_to_the_force():
    frame, sound = shear(trouble=("stuck", "friction"), at_mm=1.0), shear()
    assert after(frame, 1.5)["vertical"] == after(frame, 3.0)["vertical"]
    assert shown(frame)["force"] == pytest.approx(after(sound, 3.0)["force"] + 12.0)


def test_a_clay_fails_with_its_pore_pressure_and_its_cell_stands():
    cell = triaxial(deviator_kpa=200.0, failure_ratio=0.05, a_ratio=0.4)
    at = after(cell, 0.05 * 75.0)
    assert at["force"] == pytest.approx(200 * 1130 / 0.95 / 1000, rel=0.001)
    assert at["pore"] == pytest.approx(300 + 80, abs=0.1)
    assert (at["cell"], at["back"]) == (400.0, 300.0)


def test_a_leaking_membrane_lets_the_pore_pressure_creep_to_the_cells():
    cell = triaxial(trouble=("leak",), running=False)
    cell.advance(3600)
    assert shown(cell)["pore"] > 395
    assert shown(cell)["volume"] > 5


def test_a_drifting_pressure_falls():
    cell = triaxial(trouble=("drift",), running=False)
    cell.advance(600)
    assert shown(cell)["cell"] == pytest.approx(388.0)


@pytest.mark.parametrize(
    ("command", "reason"),
    [("cell 1200", "above the cell's rating of 1000"), ("back 450", "lift the membrane"), ("cell much", "no pressure")],
)
def test_a_pressure_that_is_dangerous_is_refused_with_the_reason(command, reason):
    cell = triaxial()
    cell.command(command)
    assert reason in cell.refused
    assert (cell.cell_kpa, cell.back_kpa) == (400.0, 300.0)


def test_a_pressure_within_the_rating_is_taken():
    cell = triaxial()
    cell.command("cell 900")
    cell.command("back 850")
    assert (cell.cell_kpa, cell.back_kpa, cell.refused) == (900.0, 850.0, "")


def plate(seconds, loads=3, **more):
    """A jack that was pumped through so many loads, each held as long; what its gauges show then."""
    quiet = {"noise": 0.0, "area_mm2": 70685.8, "gauges": 3, **more}
    body = Plate(Setting(kind="plate", **quiet), random.Random(1))
    for _ in range(loads):
        body.command("start")
        for _ in range(seconds):
            body.advance(1.0)
    return body, shown(body)


def test_a_plate_sinks_and_creeps_and_its_troubles_are_what_they_are_called():
    _, sound = plate(120)
    assert sound["pressure"] == pytest.approx(56.5, rel=0.01)
    assert sound["gauge_a"] == pytest.approx(4.1 * 0.16 + 1.8 * 0.16**2, rel=0.06)
    _, later = plate(1200)
    assert later["gauge_a"] > sound["gauge_a"]
    stone = plate(120, trouble=("stone",))[1]
    assert stone["gauge_a"] < 0.5 * sound["gauge_a"]
    backwards = plate(120, trouble=("backwards",))[1]
    assert backwards["gauge_b"] < 0 < backwards["gauge_a"]
    warming = plate(1200, trouble=("warming",))[1]
    assert warming["gauge_a"] < later["gauge_a"] - 0.5
    leaking, tight = plate(300, loads=4, trouble=("leaking",))[1], plate(300, loads=4)[1]
    assert leaking["pressure"] < 0.95 * tight["pressure"]
    lifting = plate(120, loads=5, trouble=("lifting",), reaction_kn=14.0)[1]
    assert lifting["load"] < 14.1


def test_a_plate_comes_back_and_is_stiffer_the_second_time():
    body, top = plate(60, loads=7)
    for _ in range(3):
        body.command("start")
        for _ in range(60):
            body.advance(1.0)
    down = shown(body)
    assert 0.4 * top["gauge_a"] < down["gauge_a"] < 0.8 * top["gauge_a"]
    for _ in range(5):
        body.command("start")
        for _ in range(60):
            body.advance(1.0)
    again = shown(body)
    assert down["gauge_a"] < again["gauge_a"] < top["gauge_a"]
