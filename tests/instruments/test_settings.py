"""What a simulated instrument can be set to: nothing that it divides by, or goes by, is nothing."""

import pytest

from vadum.instruments.simulated_setting import DIVIDED_BY, setting
from vadum.soil.contract.errors import FieldError


@pytest.mark.parametrize("figure", ["0", "-1", "nan", "inf"])
@pytest.mark.parametrize("name", DIVIDED_BY)
def test_a_setting_that_is_divided_by_is_never_nothing(name, figure):
    with pytest.raises(FieldError) as told:
        setting({name: figure})
    assert told.value.field == name


@pytest.mark.parametrize("name", ["mass_g", "level_mm", "noise", "loads"])
def test_no_setting_is_without_end(name):
    with pytest.raises(FieldError):
        setting({name: "1e300"})
