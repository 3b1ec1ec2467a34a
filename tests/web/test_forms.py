"""The form of a desk at every point of every method's work: a reading has one field, and what is asked has one."""

from collections import Counter

import pytest

from tests.conftest import Lab
from tests.soil.test_following_advice import flat
from vadum.soil.register import METHODS
from vadum.web.views.work_form import work_form

# Between two looks at the form so many readings are entered: a prime, so that looks fall into every step.
APART = 3
MOST = 75


@pytest.fixture
def lab(tmp_path):
    made = Lab(tmp_path)
    yield made
    made.database.close()


@pytest.mark.parametrize("name", METHODS)
def test_a_reading_has_one_field_on_a_desk(lab, name):
    its = METHODS[name]
    record = its.virtual(7, its.school(), None).record
    code = lab.start(name)
    last = ""
    for number, (path, value) in enumerate(list(flat(record).items())[:MOST]):
        if number % APART == 0:
            read = lab.read(code)
            advice = read.at(lab.clock.now()).advice
            for at in {"", last}:
                form = work_form(read, advice, lab.clock.now(), at=at)
                groups = [form.fields, form.beside, *(group.fields for group in form.following)]
                places = Counter(view.path for group in groups for view in group)
                assert not [p for p, many in places.items() if many > 1], f"behind {path}"
        lab.post(code, path, value.isoformat() if hasattr(value, "isoformat") else value)
        last = path


def test_what_the_next_step_asks_for_is_no_extra_of_this_one(lab):
    code = lab.start("field_cbr")
    read = lab.read(code)
    form = work_form(read, read.at(lab.clock.now()).advice, lab.clock.now())
    assert "proving_ring" not in {view.path for view in form.beside}
    assert "proving_ring" in {view.path for group in form.following for view in group.fields}
