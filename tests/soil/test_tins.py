"""Whether a tin is still wet, and where its next dry weighing goes: the same for every record that has a tin."""

import pytest

from vadum.soil.contract import paths, tins
from vadum.soil.register import METHODS

TIN = frozenset({"tin"})


def tins_of_every_method():
    """Each method's truth from its virtual soil, part by part."""
    for name, method in METHODS.items():
        school = next(iter(method.schools.values()))
        for prefix, part in tins.naming(method.virtual(1, school, None).record, TIN):
            if getattr(part, "tin", None) and tins.is_weighed_wet(part):
                yield pytest.param(method, prefix, part, id=f"{name}:{prefix or 'record'}")


CASES = list(tins_of_every_method())


@pytest.mark.parametrize(("method", "prefix", "part"), CASES)
def test_a_tin_is_dry_once_weighed_and_the_next_place_is_a_field(method, prefix, part):
    assert tins.dry_weighings(part) >= 1
    emptied = {tins.WEIGHINGS: ()} if hasattr(part, tins.WEIGHINGS) else {tins.DRY: None}
    wet = part.model_copy(update=emptied)
    assert tins.dry_weighings(wet) == 0
    place = tins.next_dry(wet, prefix)
    assert place.startswith(prefix)
    assert paths.field_of(method.Record, place) is not None, f"{place} is no field of the record"
    assert tins.is_only_drying("wait", place)
    assert not tins.is_only_drying("reading", place)


def test_the_next_of_several_dry_weighings_is_a_row_further():
    one = next(p for p in CASES if hasattr(p.values[2], tins.WEIGHINGS)).values[2]
    many = tins.dry_weighings(one)
    assert tins.next_dry(one, "") == f"{tins.WEIGHINGS}[{many}].{tins.DRY}"


@pytest.mark.parametrize(("method", "prefix", "part"), [p for p in CASES if hasattr(p.values[2], "excluded_because")])
def test_what_is_left_out_counts_as_no_wet_tin(method, prefix, part):
    assert not tins.is_weighed_wet(part.model_copy(update={"excluded_because": "spilt"}))


def test_many_methods_have_tins():
    assert len({p.values[0].name for p in CASES}) >= 6
