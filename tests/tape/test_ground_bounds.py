"""Every quantity of the ground at its bounds: taken there, refused beyond, and no drawing grows with it."""

import math

import pytest

from vadum.soil.contract.errors import FieldError
from vadum.tape.ground import BOUNDS, NewSample, NewSpot
from vadum.tape.tables import Spot
from vadum.web.views.plan import MOST_TICKS, columns

FIELDS = [(model, name) for model in (NewSpot, NewSample) for name in model.model_fields if name in BOUNDS]


@pytest.mark.parametrize(("model", "name"), FIELDS, ids=[f"{m.__name__}.{n}" for m, n in FIELDS])
def test_a_quantity_is_taken_at_its_bounds_and_refused_beyond(model, name):
    low, high = BOUNDS[name]
    taken = [high] if low == 0 else [low, high]
    for value in taken:
        assert getattr(model.model_validate({"code": "A", name: value}), name) == value
    for value in (low - max(1.0, abs(low) / 1e6), math.nextafter(high, math.inf), 1e308):
        with pytest.raises((FieldError, ValueError), match=name):
            model.model_validate({"code": "A", name: value})


@pytest.mark.parametrize("depth_m", [0.1, 1, 2.9, 3.1, 8.1, 30, 13_000, 1e9, 1e300])
def test_no_depth_draws_more_ticks_than_can_be_read(depth_m):
    drawn = columns([Spot(id=1, job_id=1, code="A", kind="borehole", depth_m=depth_m)], [])
    assert 1 < len(drawn[0].ticks) <= MOST_TICKS + 2
