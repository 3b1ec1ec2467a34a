"""Units in the heads of pasted columns: read, converted with the digits that were there, or asked about."""

import pytest

from vadum.soil.contract.head_units import conversion


@pytest.mark.parametrize(
    ("head", "unit", "cell", "becomes"),
    [
        ("Time (min)", "s", "2.5", "150"),
        ("Elapsed [hr]", "min", "1.5", "90"),
        ("Force (kN)", "N", "1,25", "1250"),
        ("Load, kgf", "N", "10", "98.0665"),
        ("disp, in", "mm", "0.1", "2.54"),
        ("mm x 10", "mm", "1.5", "15"),
        ("0.01 mm", "mm", "250", "2.5"),
        ("Displacement (µm)", "mm", "250", "0.25"),
        ("stress (psi)", "kPa", "10", "68.9476"),
        ("p (bar)", "kPa", "1.5", "150"),
        ("Temp (°F)", "°C", "68", "20"),
        ("mass (lb)", "g", "1", "453.5924"),
        ("density (kg/m3)", "Mg/m³", "1850", "1.85"),
        ("dial (div)", "div", "120.5", "120.5"),
        ("retained g", "g", "12,3", "12,3"),
        ("disp mm x 10", "mm", "1.5", "15"),
        ("finer, %", "%", "45", "45"),
    ],
)
def test_a_heads_unit_is_converted(head, unit, cell, becomes):
    found = conversion(head, unit)
    assert not found.asks
    assert found.of(cell) == becomes


@pytest.mark.parametrize(
    ("head", "unit", "asks"),
    [
        ("level", "mm", "no unit given: is it mm?"),
        ("min", "%", "no unit given: is it %?"),
        ("reading (foo)", "mm", "unit foo not recognised: is it mm?"),
        ("Time (kg)", "s", "kg is no measure of s"),
        ("reading (div)", "mm", "div is no measure of mm"),
        ("mass", "°", "no unit given: is it °?"),
        ("point", "mm", "no unit given: is it mm?"),
        ("at", "kPa", "no unit given: is it kPa?"),
    ],
)
def test_a_unit_that_is_missing_or_unknown_is_asked_about(head, unit, asks):
    assert conversion(head, unit).asks == asks
