"""Rows within rows: a stage of readings, as a consolidation or a shear box has them."""

import pytest
from pydantic import Field

from tests.tape.test_tape_properties import tape
from vadum.soil.contract import paths
from vadum.soil.contract.block import block_of
from vadum.soil.contract.errors import FieldError
from vadum.soil.contract.fields import Number, RecordPart, reading
from vadum.tape.fold import fold
from vadum.tape.typed_values import parse


class Reading(RecordPart):
    gauge_mm: Number | None = reading("gauge")
    force_n: Number | None = reading("force")
    excluded_because: str | None = Field(None, title="left out because")


class Stage(RecordPart):
    load_kg: Number | None = reading("load")
    readings: tuple[Reading, ...] = Field((), title="readings")


class Nested(RecordPart):
    stages: tuple[Stage, ...] = Field((), title="stages")


def folded(*moves):
    return fold(tape(*((*move, ())[:3] for move in moves)), Nested).record


def test_readings_of_stages_stand_where_they_were_put():
    record = folded(
        ("stages[0].load_kg", "5"),
        ("stages[1]", {"load_kg": "10"}),
        ("stages[1].readings[0].gauge_mm", "0,12"),
        ("stages[1].readings[1]", {"gauge_mm": "0.20", "force_n": "31"}),
        ("stages[0].readings[0]", block_of({"gauge_mm": ["1", "2", "3"], "force_n": ["4", "5", None]})),
        ("stages[0].readings[1].excluded_because", "bumped"),
    )
    assert [s.load_kg for s in record.stages] == [5, 10]
    assert [r.gauge_mm for r in record.stages[0].readings] == [1, 2, 3]
    assert record.stages[0].readings[1].excluded_because == "bumped"
    assert [r.force_n for r in record.stages[1].readings] == [None, 31]


def test_a_struck_block_leaves_the_other_stage_alone():
    record = folded(
        ("stages[0].readings[0]", block_of({"gauge_mm": ["1", "2"]})),
        ("stages[1].readings[0].gauge_mm", "7"),
        ("stages[0].readings[0].gauge_mm", "9", (0,)),
    )
    assert [[r.gauge_mm for r in s.readings if r.gauge_mm] for s in record.stages] == [[9], [7]]


@pytest.mark.parametrize(
    ("path", "value"),
    [
        ("stages[0].readings", "1"),
        ("stages[0].readings[0].none_mm", "1"),
        ("stages.readings[0].gauge_mm", "1"),
        ("stages[0].readings[0].gauge_mm", "far"),
        ("stages[0]", {"readings": [{"gauge_mm": "1"}]}),
        ("stages[0].load_kg[0]", "1"),
    ],
)
def test_what_is_no_place_in_a_row_of_a_row_is_refused(path, value):
    with pytest.raises(FieldError):
        parse(Nested, path, value)


def test_every_place_is_named():
    assert paths.pattern_of("stages[3].readings[12].gauge_mm") == "stages[].readings[].gauge_mm"
    assert paths.rows_model(Nested, "stages[0].readings") is Reading
    record = Nested(stages=(Stage(readings=(Reading(gauge_mm=1),)), Stage()))
    assert paths.expanded(record, "stages[].readings[].gauge_mm", 1) == [
        "stages[0].readings[0].gauge_mm",
        "stages[0].readings[1].gauge_mm",
        "stages[1].readings[0].gauge_mm",
        "stages[2].readings[0].gauge_mm",
    ]
