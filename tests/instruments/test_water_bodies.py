"""Simulated instruments of water, sound and in trouble, and readings by the clock out of their samples."""

import random
from datetime import UTC, datetime, timedelta

import pytest

from vadum.instruments.profile import profile
from vadum.instruments.simulated_bodies import BODIES
from vadum.instruments.simulated_setting import setting
from vadum.recording.clocked import ClockTaker, followed
from vadum.soil.contract.block import rows_of
from vadum.soil.contract.called import Called
from vadum.soil.contract.errors import FieldError
from vadum.soil.shared.infiltration import Cylinder, fit_k, series_of

NOON = datetime(2026, 5, 12, 12, tzinfo=UTC)


def body(kind, **pairs):
    its = setting({"kind": kind, "noise": "0", "running": "1", **pairs})
    return BODIES[kind](its, random.Random(1))


def shown(its):
    return {name: float(figure) for name, figure in (pair.split("=") for pair in its.figures().split())}


def along(its, step_s, many):
    found = [shown(its)]
    for _ in range(many):
        its.advance(step_s)
        found.append(shown(its))
    return found


def test_three_heads_drain_each_by_its_own_ground():
    read = along(body("levels"), 30, 20)
    for n, k in enumerate((3.1e-3, 3.4e-3, 1.3e-3), 1):
        series = series_of([30.0 * i for i in range(21)], [r[f"level_{n}"] / 10 for r in read])
        assert fit_k(Cylinder(5.0, 5.0, 0.29, 42.0), series, 11.0).k_cm_s == pytest.approx(k, rel=0.01)


@pytest.mark.parametrize(("trouble", "alike"), [("flat", True), ("jumps", False)])
def test_a_head_that_hangs_shows_one_level_and_one_that_jumps_rises(trouble, alike):
    its = body("levels", trouble=trouble)
    read = along(its, 60, 6)
    assert (read[-1]["level_2"] == read[-2]["level_2"]) is alike
    assert (read[4]["level_2"] > read[3]["level_2"]) is not alike
    assert read[-1]["level_1"] < read[-2]["level_1"]


def test_a_leak_is_an_early_excess_of_one_cylinder_alone():
    sound, leaking = along(body("levels"), 60, 10), along(body("levels", trouble="leaking"), 60, 10)
    assert leaking[-1]["level_2"] < sound[-1]["level_2"] - 50
    assert leaking[-1]["level_3"] == sound[-1]["level_3"]


def test_a_reservoir_falls_steadily_and_in_the_sun_is_a_thermometer():
    cool, sunny = body("reservoir"), body("reservoir", trouble="warming", sun_c_h="6")
    for its in (cool, sunny):
        its.advance(3600)
    before = shown(cool)["level"]
    cool.advance(600)
    assert shown(cool)["level"] - before == pytest.approx(49, abs=0.5)
    assert shown(sunny)["temperature"] > 30
    assert shown(sunny)["level"] < before


def test_the_manifolds_balance_carries_cell_after_cell_and_they_settle():
    its = body("manifold")
    first = shown(its)["mass"]
    its.command("start")
    assert shown(its)["mass"] != first
    losses = [a["mass"] - b["mass"] for a, b in zip(*[along(its, 86400, 5)[i:] for i in (0, 1)], strict=False)]
    assert losses == sorted(losses, reverse=True)


def test_a_ph_meter_comes_to_rest_in_the_next_bottle_drifts_and_knows_old_buffers():
    its = body("ph", temperature_c="25")
    assert shown(its)["ph"] == 12.45
    its.command("start")
    its.advance(2)
    between = shown(its)["ph"]
    its.advance(120)
    assert 12.08 < between < 12.45
    assert shown(its)["ph"] == 12.08
    assert shown(body("ph", trouble="old buffer", temperature_c="25"))["ph"] == pytest.approx(12.33)
    drifting = body("ph", trouble="drift", temperature_c="25")
    drifting.advance(3600)
    assert shown(drifting)["ph"] < 12.2


@pytest.mark.parametrize("kind", ["levels", "reservoir", "manifold", "ph"])
def test_every_one_speaks_the_lines_of_its_profile(kind):
    its, words = profile(kind), body(kind).figures()
    assert set(shown(body(kind))) <= set(its.channels)
    assert all(f"{name}=" in words for name in its.channels)


def test_a_setting_of_water_is_read_or_named():
    assert setting({"kind": "levels", "ks_cm_s": "1e-3,2e-3,3e-3"}).water.ks_cm_s == (1e-3, 2e-3, 3e-3)
    with pytest.raises(FieldError) as error:
        setting({"kind": "ph", "wetness": "12"})
    assert error.value.field == "wetness"


def vessel(n, began, taken=(), over=False):
    channels = {"level": "level_mm", f"level_{n + 1}": "level_mm"}
    return Called(
        f"cylinders[{n}].readings",
        f"M{n + 1}",
        "clock",
        "min",
        (0.0, 1.0),
        ("level_mm",),
        began_at=began,
        time_field="elapsed_s",
        channels=channels,
        sampled_s=5.0,
        taken=taken,
        over=over,
    )


def rows(kept):
    return {one.path: list(rows_of(one.value)) for one in kept}


def test_each_vessel_is_read_from_its_own_start_by_the_instruments_seconds():
    calls = (vessel(0, NOON - timedelta(seconds=30)), vessel(1, NOON + timedelta(seconds=20)), vessel(2, None))
    taker = ClockTaker(followed(calls, ("level_1", "level_2", "level_3")), NOON)
    for second in range(0, 61):  # an instrument's clock of its own, far from any wall's
        taker.hear(1000.0 + second, {"level_1": 400.0 - second, "level_2": 300.0, "level_3": 200.0})
    found = rows(taker.gathered())
    first = found["cylinders[0].readings[]"]
    assert [r["elapsed_s"] for r in first[:3]] == ["30", "35", "40"]
    assert first[1]["level_mm"] == "395"
    assert found["cylinders[1].readings[]"][0]["elapsed_s"] == "0"
    assert "cylinders[2].readings[]" not in found, "it was not begun"
    assert taker.gathered() == []


def test_what_is_over_is_read_no_more_and_one_that_lacks_its_channel_never():
    taker = ClockTaker(followed((vessel(0, NOON), vessel(1, NOON)), ("level_1",)), NOON)
    taker.hear(0.0, {"level_1": 400.0})
    taker.follow((vessel(0, NOON, over=True),))
    taker.hear(10.0, {"level_1": 390.0})
    assert list(rows(taker.gathered())) == ["cylinders[0].readings[]"]
    assert followed((vessel(0, NOON),), ("mass",)) == ()
