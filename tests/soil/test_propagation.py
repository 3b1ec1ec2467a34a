"""What the last digits of the readings do to every value, against derivatives worked out by hand."""

import math

import pytest

from vadum.soil.contract import paths
from vadum.soil.contract.propagation import LONG, decimals, digits, moved, propagated
from vadum.soil.methods.unconfined_compression import METHOD as UNCONFINED
from vadum.soil.methods.water_content import METHOD as WATER
from vadum.soil.methods.water_content.record import Record as WaterRecord
from vadum.soil.register import METHODS

# A method's first school and every fourth of the others: what carries an uncertainty is the method's.
PAIRS = [(m, s) for m in METHODS.values() for i, s in enumerate(m.schools.shipped.values()) if i % 4 == 0]
ROOT_12 = math.sqrt(12)


@pytest.mark.parametrize(("method", "school"), PAIRS, ids=lambda x: x.name)
def test_an_uncertainty_is_worked_out_or_not_there_and_last_digits_stay_in_the_working(method, school):
    record = method.virtual(3, school, None).record
    outcome = method.outcome(record, school)
    with_them = method.with_uncertainties(record, school, outcome)
    assert [(v.value, v.uncertainty) for v in with_them.values] == [(v.value, v.uncertainty) for v in outcome.values]
    for v in with_them.values:
        assert (v.uncertainty is None) == (v.uncertainty_holds == ""), v.name
        assert v.uncertainty is None or (math.isfinite(v.uncertainty) and v.uncertainty > 0), v.name
        assert v.uncertainty is None or v.uncertainty_holds == method.uncertainties_hold != ""
    own = {v.key for v in outcome.values if v.uncertainty is not None}
    assert not [line.gives for line in with_them.working if line.gives in own and line.last_digits]
    moving = propagated(
        record, lambda r: {v.key: v.value for v in method.outcome(r, school).values if v.value is not None}
    )
    bare = {v.key for v in outcome.values if v.value is not None and v.uncertainty is None and not v.estimate}
    shown = {line.gives for line in with_them.working if line.last_digits}
    assert {key for key in bare if moving.get(key)} & {line.gives for line in outcome.working} == shown & bare


def test_a_water_content_moves_with_its_last_digits_as_its_derivatives_say():
    record = WaterRecord(mass_tin_g=20.03, mass_wet_g=70.02, weighings=({"mass_dry_g": 60.01},))
    school = WATER.school()
    found = WATER.with_uncertainties(record, school, WATER.outcome(record, school))
    moved = {line.gives: line.last_digits for line in found.working}
    dry = 60.01 - 20.03
    slopes = (1 / dry, (70.02 - 20.03) / dry**2, (70.02 - 60.01) / dry**2)
    by_hand = 100 * 0.01 / ROOT_12 * math.hypot(*slopes)
    numbers = propagated(record, lambda r: {v.key: v.value for v in WATER.outcome(r, school).values})
    assert numbers["water_content_percent"] == pytest.approx(by_hand, rel=1e-3)
    its_own = {v.key: v.uncertainty for v in found.values}["water_content_percent"]
    assert (moved["water_content_percent"] or its_own) == pytest.approx(by_hand, rel=1e-3)
    assert moved["mass_dry_soil_g"] == pytest.approx(0.01 / ROOT_12 * math.sqrt(2), rel=1e-6)


def test_a_digit_is_the_finest_that_readings_of_its_size_show():
    record = WaterRecord(mass_tin_g=20.03, mass_wet_g=70.0, weighings=({"mass_dry_g": 60.1},))
    assert {d.paths[0]: round(d.error * ROOT_12, 9) for d in digits(record)} == {
        "mass_tin_g": 0.01,
        "mass_wet_g": 0.01,
        "weighings[0].mass_dry_g": 0.01,
    }
    assert decimals(1e-7) == 7
    assert decimals(5000.0) == 0


def test_a_long_column_moves_as_one_and_a_row_in_a_list_alone():
    record = UNCONFINED.virtual(3, UNCONFINED.school(), None).record
    together = [d for d in digits(record) if len(d.paths) > 1]
    assert together
    assert all(len(d.paths) > LONG for d in together)
    column = together[0]
    higher, before = moved(record, column, 1.0), dict(paths.readings_of(record))
    changed = {path for path, value in paths.readings_of(higher) if value != before[path]}
    assert changed == set(column.paths)


def test_a_digit_that_unmakes_a_number_tells_nothing_of_it():
    record = WaterRecord(mass_tin_g=20.0, mass_wet_g=70.0)
    found = propagated(record, lambda r: {"wet": r.mass_wet_g} if r.mass_tin_g >= 20 else {})
    assert found == {"wet": pytest.approx(1 / ROOT_12)}, "of its own digit alone"
