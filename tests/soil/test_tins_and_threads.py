"""Water contents, drying, threads and indices."""

from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from vadum.soil.contract.errors import ReductionError
from vadum.soil.contract.fields import number
from vadum.soil.contract.numerics import straight_line
from vadum.soil.contract.outcome import Line
from vadum.soil.contract.working import recomputed
from vadum.soil.methods.plastic_limit import METHOD as PLASTIC
from vadum.soil.methods.water_content import METHOD as WATER
from vadum.soil.shared.water_by_tin import water_content_percent

NOW = datetime(2026, 5, 12, 10, 21, tzinfo=UTC)
TIN = {"tin": "8", "mass_tin_g": 20.0, "mass_wet_g": 70.0, "in_oven_at": NOW - timedelta(hours=4)}


@given(w=st.floats(0.1, 300), dry=st.floats(5, 500), tin=st.floats(0, 100), scale=st.floats(0.01, 100))
def test_water_content_is_free_of_the_scale_of_its_masses(w, dry, tin, scale):
    masses = (tin + dry * (1 + w / 100), tin + dry, tin)
    assert water_content_percent(*masses) == pytest.approx(w, rel=1e-6)
    assert water_content_percent(*(m * scale for m in masses)) == pytest.approx(w, rel=1e-6)


def test_upside_down_masses_raise_with_what_was_seen():
    with pytest.raises(ReductionError, match=r"wet 30, dry 40, tin 20"):
        water_content_percent(30, 40, 20)


@pytest.mark.parametrize("typed", ["1,234.5", "abc", "", "1_000", "--3", "1e9999", True, None, [1]])
def test_what_is_no_number_is_refused(typed):
    with pytest.raises(ValueError, match=r"\w"):
        number(typed)


def test_the_oven_says_how_long_it_stays_shut_and_when_it_may_be_opened():
    school = WATER.school("oven_110")
    closed = WATER.judge(WATER.Record.model_validate(TIN), school, NOW).advice
    assert closed.due[0].at == NOW + timedelta(hours=12)
    assert closed.amount_note == "in 12 h"
    opened = WATER.judge(WATER.Record.model_validate(TIN), school, NOW + timedelta(hours=13)).advice
    assert "may come out" in opened.headline


def test_one_weighing_is_provisional_where_the_school_wants_two():
    record = WATER.Record.model_validate(
        {**TIN, "weighings": [{"mass_dry_g": 60.0, "weighed_at": NOW + timedelta(hours=13)}]}
    )
    assert WATER.outcome(record, WATER.school("oven_105")).value("water_content_percent").provisional
    assert WATER.outcome(record, WATER.school("oven_110")).value("water_content_percent").reportable


def test_a_stop_verdict_withholds_the_value_and_names_the_reading():
    record = WATER.Record.model_validate({**TIN, "weighings": [{"mass_dry_g": 71.0}]})
    outcome = WATER.outcome(record, WATER.school())
    assert outcome.worst() == "stop"
    assert "dry mass above wet mass: 71 > 70 g" in outcome.verdicts[0].found
    assert outcome.verdicts[0].at == ("weighings[0].mass_dry_g", "mass_wet_g")
    assert outcome.value("water_content_percent") is None


def test_nan_from_an_instrument_is_kept_and_stopped():
    record = WATER.Record.model_validate({**TIN, "mass_wet_g": "nan"})
    assert WATER.outcome(record, WATER.school()).worst() == "stop"


def test_plastic_limit_at_or_above_the_liquid_limit_is_nonplastic_never_negative():
    good = PLASTIC.virtual(3, PLASTIC.school(), None).record
    limit = PLASTIC.outcome(good, PLASTIC.school()).value("plastic_limit_percent").value
    record = good.model_copy(update={"liquid_limit_percent": 0.9 * limit})
    outcome = PLASTIC.outcome(record, PLASTIC.school())
    assert outcome.value("plasticity_index_percent").reported == "NP"
    assert outcome.value("liquidity_index") is None


def test_threads_that_cannot_be_rolled_end_the_work_at_once():
    record = PLASTIC.Record(cannot_be_rolled="yes")
    outcome = PLASTIC.judge(record, PLASTIC.school(), NOW)
    assert {v.reported for v in outcome.values} == {"NP"}
    assert outcome.advice.finished


def test_disagreeing_tins_ask_for_a_third():
    trial = PLASTIC.virtual(3, PLASTIC.school(), "thick")
    outcome = PLASTIC.judge(trial.record, PLASTIC.school(), NOW)
    assert outcome.advice.wants[0] == "determinations[2].tin"
    assert outcome.value("plastic_limit_percent").provisional


def test_a_line_through_one_abscissa_is_refused():
    with pytest.raises(ReductionError):
        straight_line([2.0, 2.0], [1.0, 3.0])


@pytest.mark.parametrize("formula", ["__import__('os')", "a.b", "a if a else a", "open(a)", "[a]"])
def test_working_evaluates_arithmetic_and_nothing_else(formula):
    line = Line(gives="x", symbol="x", formula=formula, inputs={"a": 1.0}, value=1.0, unit="", source="-")
    with pytest.raises(ReductionError):
        recomputed(line)
