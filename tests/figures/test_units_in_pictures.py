"""Pictures in the units of whoever looks: every method's axes and words are converted, marks stay where they were."""

import re

import pytest

from vadum.figures.register import figure
from vadum.figures.shown_units import axis_units, layers_in_style, rows_in_style, unit_of_title
from vadum.figures.theme import svg
from vadum.soil.contract.shown_units import CUSTOMARY, SI, Style, converted, line_of, text_in_units
from vadum.soil.register import METHODS

US = Style("US", "psi")
STAY = ("size, mm", "suction at mid-height, cm of water", "lime, % of dry soil below 0.425 mm", "pH at 25 °C")
METRIC = re.compile(r"\b(kPa|MPa|mm|kN|MN|Mg|cm|kg)\b")
WORDS = re.compile(r">([^<>]+)</text>")


def made(name):
    method = METHODS[name]
    school = method.school()
    return school, method.outcome(method.virtual(3, school, None).record, school)


@pytest.mark.parametrize("name", METHODS)
def test_no_word_of_a_picture_stays_in_a_unit_that_is_not_shown(name):
    school, outcome = made(name)
    words = WORDS.findall(svg(figure(name), school, outcome, style=US))
    left = [w for w in words if METRIC.search(w) and not any(w.startswith(stays) for stays in STAY)]
    assert left == []


@pytest.mark.parametrize("name", METHODS)
def test_each_drawn_field_is_the_stored_one_on_the_same_straight_line(name):
    school, _ = made(name)
    for picture in (figure(name), *figure(name).shown_below(school)):
        stored = picture.layers(school)
        units = axis_units(stored, US)
        for before, after in zip(stored, layers_in_style(stored, US), strict=True):
            for axis, unit in units.items():
                for channel in (axis, f"{axis}2"):
                    field = before["encoding"].get(channel, {}).get("field")
                    if field is None:
                        continue
                    shown = after["encoding"][channel]["field"]
                    how = next(t["calculate"] for t in after["transform"] if t.get("as") == shown)
                    slope, start = line_of(unit)
                    assert shown == f"{field} in {unit.sign}"
                    assert f"datum['{field}'] * {slope!r} + {start!r}" in how
        assert layers_in_style(stored, SI) == stored


def test_a_scale_moves_with_its_axis_and_round_ticks_are_found_anew():
    x = {"field": "at_mm", "type": "quantitative", "title": "travel, mm"}
    x |= {"scale": {"domain": [0, 25.4], "domainMax": {"expr": "most"}}, "axis": {"values": [0, 10], "orient": "top"}}
    layer = {"data": {"name": "a"}, "transform": [{"filter": "datum.few"}], "mark": "point", "encoding": {"x": x}}
    (found,) = layers_in_style([layer], US)
    channel = found["encoding"]["x"]
    assert channel["title"] == "travel, in"
    assert channel["scale"]["domain"] == pytest.approx([0, 1])
    assert channel["scale"]["domainMax"]["expr"].startswith("(most) * 0.0393")
    assert channel["axis"] == {"orient": "top"}
    assert found["transform"][0] == {"filter": "datum.few"}
    assert layer["encoding"]["x"] is x
    assert x["title"] == "travel, mm", "what is shared is not written into"


def test_layers_share_an_axis_and_an_axis_of_grain_sizes_stays():
    titled = {"encoding": {"x": {"field": "kpa", "title": "stress, kPa"}}}
    bare = {"encoding": {"x": {"field": "at"}, "x2": {"field": "to"}}}
    found = layers_in_style([titled, bare], US)
    assert found[1]["encoding"]["x"]["field"] == "at in psi"
    assert found[1]["encoding"]["x2"]["field"] == "to in psi"
    sizes = [
        {"encoding": {"x": {"field": "from", "title": "size, mm"}}},
        {"encoding": {"x": {"field": "size_mm", "title": "size, mm"}}},
    ]
    assert axis_units(sizes, US) == {}
    assert unit_of_title(None, US) is None


def test_what_a_handle_says_while_it_is_drawn_is_in_the_unit_shown():
    row = {"path": "zero_mm", "at": 1.27, "words": "top end: zero at {} mm", "label": "zero moves by 1.27 mm"}
    (shown,) = rows_in_style([row], US)
    assert shown["words"] == "top end: zero at {} in"
    assert shown["label"] == "zero moves by 0.0500 in"
    assert (shown["at"], shown["digits"]) == (1.27, 4)
    assert shown["slope"] * 1.27 + shown["start"] == pytest.approx(0.05)
    assert rows_in_style([row], SI) == [row]
    load = {"words": "{} kPa", "digits": 0, "label": "144 kPa"}
    assert rows_in_style([load], Style("US", "psf"))[0]["digits"] == -1


@pytest.mark.parametrize(
    ("text", "shown"),
    [
        ("q_u 100 kPa", "q_u 14.5 psi"),
        ("1.95 Mg/m³ at 12.1 %", "121.7 pcf at 12.1 %"),
        ("-1.2 mm, still moving", "-0.047 in, still moving"),
        ("2.5 and 5 mm", "2.5 and 5 mm"),  # half of it would say something else
        ("B1 at 20 °C", "B1 at 68 °F"),
        ("30 min at 12 %", "30 min at 12 %"),
        ("FB-02", "FB-02"),
        ("12 mm/min", "0.47 in/min"),
        ("5 mmm", "5 mmm"),
    ],
)
def test_a_label_is_converted_whole_or_not_at_all(text, shown):
    assert text_in_units(text, US) == shown
    assert text_in_units(text, SI) == text


@pytest.mark.parametrize("name", METHODS)
def test_a_decimal_comma_is_written_on_axes_and_beside_marks(name):
    school, outcome = made(name)
    words = WORDS.findall(svg(figure(name), school, outcome, style=Style(decimal=",")))
    stopped = [w for w in words if re.search(r"\d\.\d", w) and "0.425" not in w]
    assert stopped == []


@pytest.mark.parametrize("name", METHODS)
def test_the_table_behind_a_picture_is_in_its_units(name):
    _, outcome = made(name)
    picture = figure(name)
    for stored, shown, heads in zip(
        picture.tables(outcome), picture.tables(outcome, US), picture.columns.values(), strict=True
    ):
        for column, (field, title) in enumerate(heads):
            unit = None if field == "size_mm" else unit_of_title(title, US)
            assert (shown[0][column] == title) is (unit is None)
            for before, after in zip(stored[1], shown[1], strict=True):
                if unit is None or not re.fullmatch(r"-?[\d.]+", before[column]):
                    continue
                digits = len(before[column].partition(".")[2])
                wide = 10.0 ** -unit.digits(digits) + abs(line_of(unit)[0]) * 10.0**-digits
                assert float(after[column]) == pytest.approx(converted(float(before[column]), unit), abs=wide)


def test_a_small_figure_keeps_its_own_three_figures_in_the_table():
    _, outcome = made("hydrometer")
    (_, rows), *_ = figure("hydrometer").tables(outcome)
    assert not [cell for row in rows for cell in row if cell == "0.00"]


def test_a_path_is_no_figure_whatever_the_sign():
    row = {"path": "cells[0].at", "words": "{} kPa", "label": "1.5 kPa"}
    (shown,) = rows_in_style([row], Style(decimal=","))
    assert shown == {"path": "cells[0].at", "words": "{} kPa", "label": "1,5 kPa", "decimal": ","}


@pytest.mark.parametrize("unit", CUSTOMARY)
def test_a_straight_line_is_the_whole_of_every_unit(unit):
    its = CUSTOMARY[unit]
    slope, start = line_of(its)
    for value in (-3.0, 0.0, 1.0, 250.0):
        assert converted(value, its) == pytest.approx(slope * value + start)
    assert its.written == unit
    assert slope > 0
