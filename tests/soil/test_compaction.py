"""The compaction curve: its peak by three fits, its error, the water advice that finds it, and the stones."""

import random
from datetime import UTC, datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from vadum.soil.contract.errors import ReductionError
from vadum.soil.methods.compaction import METHOD
from vadum.soil.methods.compaction.advice import next_target_percent
from vadum.soil.methods.compaction.peak import peak_of, round_the_top
from vadum.soil.methods.compaction.points import Made
from vadum.soil.methods.compaction.record import Point, Record
from vadum.soil.methods.compaction.reduce import with_stones_mg_m3, with_stones_percent
from vadum.soil.register import METHODS
from vadum.soil.shared.phases import zero_air_mg_m3

NOW = datetime(2026, 5, 12, 10, tzinfo=UTC)
STANDARD = METHOD.school("standard_944")


def made(pairs):
    return [Made(i, w, rho * (1 + w / 100), rho, False, True) for i, (w, rho) in enumerate(pairs)]


def parabola(top_w, top_rho, bend, waters):
    return made([(w, top_rho - bend * (w - top_w) ** 2) for w in waters])


@given(st.floats(8, 22), st.floats(1.5, 2.1), st.floats(0.003, 0.01))
def test_an_exact_parabola_gives_its_own_top_without_error(top_w, top_rho, bend):
    peak = peak_of(parabola(top_w, top_rho, bend, [top_w + d for d in (-3, -1.4, 0.3, 1.7, 3.1)]), STANDARD)
    assert peak.water_percent == pytest.approx(top_w, abs=1e-6)
    assert peak.dry_mg_m3 == pytest.approx(top_rho, abs=1e-8)
    assert peak.water_error == pytest.approx(0, abs=1e-4)


@pytest.mark.parametrize("name", ["vibrating", "standard_spline"])
def test_the_other_fits_find_the_top_too(name):
    points = parabola(14.0, 1.85, 0.006, (10.5, 12.1, 13.4, 15.2, 17.0))
    peak = peak_of(points, METHOD.school(name))
    assert peak.water_percent == pytest.approx(14.0, abs=0.35)
    assert peak.dry_mg_m3 == pytest.approx(1.85, abs=0.003)


def test_the_peaks_error_is_what_the_scatter_makes_of_it():
    """Many curves with known scatter: the spread of their peaks is the error that each tells of itself."""
    dice = random.Random(5)
    waters = (11, 12.5, 14, 15.5, 17)
    peaks = []
    for _ in range(400):
        exact = parabola(14.2, 1.85, 0.006, waters)
        points = made([(m.water_percent, m.dry_mg_m3 + dice.gauss(0, 0.003)) for m in exact])
        peaks.append(peak_of(points, STANDARD))
    for value, error in (("water_percent", "water_error"), ("dry_mg_m3", "dry_error")):
        found = [getattr(p, value) for p in peaks]
        mean = sum(found) / len(found)
        spread = (sum((f - mean) ** 2 for f in found) / len(found)) ** 0.5
        told = (sum(getattr(p, error) ** 2 for p in peaks) / len(peaks)) ** 0.5
        assert told == pytest.approx(spread, rel=0.15)


def test_three_points_have_a_peak_and_no_error():
    peak = peak_of(parabola(14, 1.8, 0.006, (12, 14, 16)), STANDARD)
    assert peak.water_error is None


def test_a_curve_that_opens_upward_or_has_too_few_points_is_refused():
    with pytest.raises(ReductionError, match="opens upward"):
        peak_of(parabola(14, 1.8, -0.006, (11, 13, 14, 15, 17)), STANDARD)
    with pytest.raises(ReductionError):
        peak_of(parabola(14, 1.8, 0.006, (12, 14)), STANDARD)
    with pytest.raises(ReductionError):
        peak_of(made([(12, 1.7), (13, 1.72), (14, 1.75), (15, 1.78), (16, 1.8)]), METHOD.school("standard_spline"))


def test_the_fit_takes_the_points_round_the_top():
    points = parabola(14, 1.8, 0.006, (8, 11, 12.5, 14, 15.5, 17, 22))
    assert [m.water_percent for m in round_the_top(points, 5)] == [11, 12.5, 14, 15.5, 17]
    assert len(round_the_top(points, None)) == 7


def test_a_point_left_out_is_not_fitted_but_stays_on_the_picture():
    record = METHOD.virtual(3, STANDARD, None).record
    rows = list(record.points)
    rows[0] = rows[0].model_copy(update={"excluded_because": "tin upset"})
    outcome = METHOD.outcome(record.model_copy(update={"points": tuple(rows)}), STANDARD)
    assert [r["state"] for r in outcome.series["points"]].count("left out") == 1
    note = next(w.note for w in outcome.working if w.gives == "optimum_water_percent")
    assert "points 2, 3, 4, 5" in note


def test_the_air_lines_lie_below_each_other_and_above_the_points():
    outcome = METHOD.outcome(METHOD.virtual(3, STANDARD, None).record, STANDARD)
    lines = {}
    for row in outcome.series["air_lines"]:
        lines.setdefault(row["line"], []).append(row["dry_mg_m3"])
    assert all(a > b > c for a, b, c in zip(lines["0"], lines["5"], lines["10"], strict=True))
    for row in outcome.series["points"]:
        assert row["dry_mg_m3"] < zero_air_mg_m3(row["w_percent"], 2.68)


def test_stones_put_back_by_hand():
    # 20 % stones of 2.65: 100 / (80 / 1.90 + 20 / (2.65 x 0.9982)) = 2.0134; water (12 x 80 + 2 x 20) / 100 = 10.
    assert with_stones_mg_m3(1.90, 20, 2.65) == pytest.approx(2.0134, abs=0.0002)
    assert with_stones_percent(12, 20, 2) == 10
    assert with_stones_mg_m3(1.9, 0, 2.65) == pytest.approx(1.9)


@pytest.mark.parametrize("seed", range(6))
@pytest.mark.parametrize("name", ["standard_944", "light_litre"])
def test_following_the_water_advice_finds_the_peak(seed, name):
    """The amounts that it tells, and nothing else, lead across the peak with points on both sides."""
    school = METHOD.school(name)
    dice = random.Random(seed)
    top_w = dice.uniform(12, 18)
    top_rho = 0.92 * zero_air_mg_m3(top_w, 2.7)
    record = Record(
        mould_mass_g=4200,
        mould_volume_cm3=school.mould_cm3,
        mass_portion_g=2500,
        portion_water_percent=3.0,
        specific_gravity_ratio=2.7,
        specific_gravity_from="measured",
    )
    dry = 2500 / 1.03
    total = 0.0
    for _ in range(14):
        advice = METHOD.judge(record, school, NOW).advice
        if "oven" in advice.headline:
            break
        assert "water_added_ml" in advice.wants[0]
        added = dry * (top_w - 4 - 3) / 100 if not record.points else float(advice.amount.split()[0])
        if "lose" in advice.amount_note:
            added = -added
        total = added if school.fresh_portions else total + added
        w = 3.0 + 100 * total / dry
        rho = (top_rho - 0.005 * (w - top_w) ** 2) * (1 + w / 100)
        row = Point(water_added_ml=round(added, 1), mass_with_soil_g=4200 + rho * school.mould_cm3)
        row = row.model_copy(
            update={"tin": str(len(record.points)), "mass_tin_g": 20.0, "mass_wet_g": 20 + 100 * (1 + w / 100)}
        )
        record = record.model_copy(update={"points": (*record.points, row)})
    assert "oven" in METHOD.judge(record, school, NOW).advice.headline
    peak = METHOD.outcome(record, school).value("optimum_water_percent")
    assert peak.estimate
    assert peak.value == pytest.approx(top_w, abs=0.4)
    dried = tuple(p.model_copy(update={"mass_dry_g": 120.0}) for p in record.points)
    outcome = METHOD.judge(record.model_copy(update={"points": dried, "in_oven_at": NOW}), school, NOW)
    assert outcome.value("optimum_water_percent").reportable
    assert outcome.advice.finished, outcome.advice


def test_the_next_target_goes_wetter_then_fills_the_other_side():
    assert next_target_percent([], STANDARD) is None
    rising = parabola(18, 1.8, 0.005, (10, 12))
    assert next_target_percent(rising, STANDARD) == pytest.approx(14)
    falling = parabola(9, 1.8, 0.005, (10, 12, 14))
    assert next_target_percent(falling, STANDARD) == pytest.approx(8)


def test_a_value_that_may_not_be_reported_is_not_there():
    trial = METHOD.virtual(2, STANDARD, "one_sided")
    outcome = METHOD.outcome(trial.record, STANDARD)
    value = outcome.value("maximum_dry_density_mg_m3")
    assert value.withheld
    assert value.value is None


def test_every_effort_of_the_table_is_a_school():
    efforts = {(s.mould_cm3, s.layers_count, s.blows, s.rammer_kg) for s in METHODS["compaction"].schools.values()}
    wanted = {(1000, 3, 27, 2.5), (944, 3, 25, 2.495), (944, 5, 25, 4.536), (2124, 3, 56, 2.495), (2124, 5, 56, 4.536)}
    assert wanted | {(2305, 3, 62, 2.5), (2305, 5, 30, 4.5), (2305, 5, 62, 4.5)} <= efforts
