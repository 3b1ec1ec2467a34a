"""Water retention: units, mid-height, what has settled, curves with their correlations, the weeks of a rack."""

import math
from datetime import UTC, datetime, timedelta
from itertools import pairwise

import numpy as np
import pytest

from vadum.soil.methods.retention.curve import Bounds, brooks_corey, fit, van_genuchten
from vadum.soil.methods.retention.facts import weighed_of
from vadum.soil.register import METHODS
from vadum.soil.shared.pressure_units import in_cm, in_kpa

RETENTION = METHODS["retention"]
START = datetime(2026, 5, 4, 9, tzinfo=UTC)
BOUNDS = Bounds(15.0, (1e-4, 2.0))


@pytest.mark.parametrize(
    ("value", "unit", "kpa"),
    [
        (20, "kPa", 20),
        (0.2, "bar", 20),
        (200, "hPa", 20),
        (200, "mbar", 20),
        (0.02, "MPa", 20),
        (203.943, "cm of water", 20),
        (2.03943, "m of water", 20),
        (150.0123, "mm of mercury", 20),
        (2.900755, "psi", 20),
        (2.309509, "pF", 20),
    ],
)
def test_the_same_pressure_in_every_unit(value, unit, kpa):
    assert in_kpa(value, unit) == pytest.approx(kpa, rel=1e-5)


@pytest.mark.parametrize("free", [True, False])
def test_a_known_curve_comes_back_with_its_errors(free):
    truth = (0.07 if free else 0.0, 0.43, 0.022, 1.45)
    h = np.array([2, 10, 20, 40, 70, 100, 150, 250, 400, 800, 2000, 5000, 15000.0])
    dice = np.random.default_rng(3)
    w = [van_genuchten(x, *truth) + dice.normal(0, 0.002) for x in h]
    found = fit("van Genuchten", h, w, BOUNDS, None if free else 0.0)
    for name, value in zip(("theta_r", "theta_s", "alpha_per_cm", "n"), truth, strict=True):
        error = found.error_of(name)
        if error is None:
            assert found.of(name) == value
        else:
            assert abs(found.of(name) - value) < 4 * error
            assert error < 0.2 * value + 0.01
    assert np.allclose(np.diag(found.correlation), 1)
    assert found.rmse == pytest.approx(0.002, rel=0.5)


def test_the_errors_are_those_of_curves_drawn_again():
    truth = (0.0, 0.43, 0.022, 1.35)
    h = in_cm(1.0) * np.array([0.5, 1.5, 3, 6, 10, 20, 35, 80] * 3)
    dice = np.random.default_rng(5)
    many = [
        fit("van Genuchten", h, [van_genuchten(x, *truth) + dice.normal(0, 0.005) for x in h], BOUNDS, 0.0)
        for _ in range(120)
    ]
    for name in ("theta_s", "alpha_per_cm", "n"):
        spread = np.std([one.of(name) for one in many])
        assert np.mean([one.error_of(name) for one in many]) == pytest.approx(spread, rel=0.25)
    at_10 = in_cm(10.0)
    assert np.mean([one.error_at(at_10) for one in many]) == pytest.approx(
        np.std([one.water(at_10) for one in many]), rel=0.25
    )


def test_brooks_and_corey_come_back_too():
    h = np.array([2, 10, 20, 30, 50, 90, 150, 300, 800, 3000.0])
    found = fit("Brooks-Corey", h, [brooks_corey(x, 0.0, 0.42, 28.0, 0.35) for x in h], BOUNDS, 0.0)
    assert found.of("entry_cm") == pytest.approx(28.0, rel=0.02)
    assert found.of("lambda") == pytest.approx(0.35, rel=0.01)


def test_too_few_points_are_no_curve():
    assert fit("van Genuchten", [10.0, 100.0, 300.0], [0.4, 0.3, 0.2], BOUNDS, 0.0) is None


def virtual(mistake=None, school="iso"):
    return RETENTION.virtual(3, RETENTION.school(school), mistake).record


def facts(record, school="iso"):
    return RETENTION.facts(record, RETENTION.school(school))


def test_suction_counts_at_the_cores_mid_height_from_the_outlets_water():
    record = virtual()
    held = facts(record).ones[0].held[1]
    assert held.suction_cm == pytest.approx(in_cm(1.5) + 4.21 / 2)
    cell = record.cells[0].model_copy(update={"outlet_below_mm": 100.0})
    lower = facts(record.model_copy(update={"cells": (cell, *record.cells[1:])}))
    assert lower.ones[0].held[1].suction_cm == pytest.approx(in_cm(1.5) + 2.105 + 10)


def test_a_hanging_column_is_the_suction_alone():
    record = virtual()
    steps = ({"column_mm": 150.0}, {"column_mm": 300.0}, *(s.model_dump() for s in record.steps[2:]))
    its = RETENTION.Record.model_validate(record.model_dump() | {"steps": steps})
    assert facts(its).ones[0].held[1].suction_cm == pytest.approx(15 + 2.105)


def test_pressures_in_other_units_give_the_same_curve():
    record = virtual()
    other = [
        {"pressure_as_read": 1.5, "pressure_unit": "kPa"},
        {"pressure_as_read": 30, "pressure_unit": "hPa"},
        {"pressure_as_read": 0.1, "pressure_unit": "bar"},
        {"pressure_as_read": 203.943, "pressure_unit": "cm of water"},
        {"pressure_as_read": 262.52, "pressure_unit": "mm of mercury"},
        {"pressure_as_read": 11.603, "pressure_unit": "psi"},
    ]
    its = RETENTION.Record.model_validate(record.model_dump() | {"steps": other})
    assert facts(its).fitted.of("n") == pytest.approx(facts(record).fitted.of("n"), rel=1e-3)
    levels = {v.rule: v.level for v in RETENTION.outcome(its, RETENTION.school()).verdicts}
    assert levels["pressures in one order of size"] == "fine"


def test_a_cell_goes_on_through_its_weighings_and_settles_by_its_last_days():
    weighed = weighed_of(virtual().cells[0])
    assert sorted({w.step for w in weighed}) == [0, 1, 2, 3, 4, 5]
    firsts = [w for before, w in pairwise(weighed) if w.step > before.step]
    assert len(firsts) == 5
    assert all(w.change_g_day is None for w in firsts)  # the first day of a step has nothing before it
    one = facts(virtual("hasty")).ones[0]
    assert [h.settled for h in one.held] == [True, True, True, False, True, True, True]


def test_a_shrinking_core_is_told_on_its_present_volume_and_on_its_first():
    record = virtual()
    cells = record.model_dump()["cells"]
    cells[0]["weighings"] = [dict(w) for w in cells[0]["weighings"]]
    cells[0]["weighings"][-1]["present_height_mm"] = 42.1 * 0.95
    its = RETENTION.Record.model_validate(record.model_dump() | {"cells": cells})
    held = facts(its).ones[0].held[-1]
    assert held.theta == pytest.approx(held.theta_first / 0.95)


def test_without_a_height_there_is_water_of_the_dry_mass_alone():
    record = virtual()
    cells = [{**c, "core_height_mm": None} for c in record.model_dump()["cells"]]
    its = RETENTION.Record.model_validate(record.model_dump() | {"cells": cells})
    found = RETENTION.outcome(its, RETENTION.school())
    assert facts(its).ones[0].held[1].theta is None
    assert next(line for line in found.working if line.gives == "c1_1").symbol == "w"
    assert found.value("theta_10_percent") is None


def test_available_water_beyond_the_last_step_is_provisional_and_its_span_is_told():
    bare = virtual().model_copy(update={"points": ()})
    found = RETENTION.outcome(bare, RETENTION.school())
    assert found.value("available_percent").provisional
    low, high = map(float, found.value("available_range").reported.split(" to "))
    assert low < found.value("available_percent").value <= high + 0.5
    found = RETENTION.outcome(virtual(), RETENTION.school())
    assert not found.value("available_percent").provisional
    assert found.value("theta_r_percent").uncertainty is not None  # a residual can be found now


def test_a_days_round_calls_each_cell_once_at_its_hour_and_a_settled_one_goes_on():
    school = RETENTION.school()
    made = virtual().model_dump()
    cells = []
    for n in range(2):
        masses = (610.0, 606.0, 605.95, 605.90)[: 3 + (n == 0)]
        weighings = [{"mass_g": m, "weighed_at": START + timedelta(days=d)} for d, m in enumerate(masses, 1)]
        sizes = {k: made["cells"][n][k] for k in ("pressure_cell", "ring_diameter_mm", "core_height_mm")}
        cells.append({**sizes, "saturated_g": 615.0, "saturated_at": START, "weighings": weighings})
    its = RETENTION.Record.model_validate({"cells_count": 2, "steps": made["steps"], "cells": cells})
    now = START + timedelta(days=4, minutes=5)
    asked = RETENTION.judge(its, school, now).advice
    assert asked.wants == ("cells[0].weighings[3].then",)
    assert "on to 3 kPa" in asked.headline
    cells[0]["weighings"][-1]["then"] = "goes on"
    its = RETENTION.Record.model_validate({"cells_count": 2, "steps": made["steps"], "cells": cells})
    asked = RETENTION.judge(its, school, now).advice
    assert asked.wants[0] == "cells[1].weighings[3].mass_g"
    days = [round((d.at - START) / timedelta(days=1)) for d in asked.due if d.at]
    assert 4 in days
    assert 5 in days
    assert math.isclose(facts(its).calls[0].filled, 0.3 + 0.7 * (1 - 9.1 / 40 - 0.3) / 0.7, rel_tol=0.1)


def test_three_weeks_day_by_day_lead_from_the_first_line_to_the_oven():
    """Every day the advice is followed: the cell it names is weighed, a settled one goes on, until the soil is out."""
    school = RETENTION.school()
    virtual_ = virtual()
    its = virtual_.model_dump() | {
        "cells": [
            {**{k: v for k, v in c.items() if k not in ("wet_out_g", "dry_g", "apparatus_g")}, "weighings": []}
            for c in virtual_.model_dump()["cells"]
        ]
    }
    settled = {n: facts(virtual_).ones[n].held for n in range(3)}
    now, taken = datetime(2026, 1, 5, 9, 10, tzinfo=UTC), 0
    for _ in range(400):
        record = RETENTION.Record.model_validate(its)
        asked = RETENTION.judge(record, school, now).advice
        want = asked.wants[0] if asked.wants else ""
        if want.endswith(".then"):
            cell = int(want[6])
            its["cells"][cell]["weighings"][-1]["then"] = "goes on"
        elif want.endswith(".mass_g") and "Weigh" in asked.headline:
            cell = int(want[6])
            step = sum(w.get("then") == "goes on" for w in its["cells"][cell]["weighings"])
            day = sum(1 for w in its["cells"][cell]["weighings"]) - _before(its["cells"][cell]["weighings"])
            before, after = settled[cell][step].mass_g, settled[cell][step + 1].mass_g
            mass = round(after + (before - after) * math.exp(-1.6 * (day + 1)), 2)
            its["cells"][cell]["weighings"].append({"mass_g": mass, "weighed_at": now})
            taken += 1
        elif want.endswith("_out_g"):
            assert "soil out" in asked.headline
            break
        else:
            now += timedelta(days=1)
    else:
        raise AssertionError("the rack never came to its end")
    assert 3 * 6 * 3 <= taken <= 3 * 6 * 7


def _before(weighings):
    """How many weighings lie before the step in hand."""
    last = [i for i, w in enumerate(weighings) if w.get("then") == "goes on"]
    return last[-1] + 1 if last else 0
