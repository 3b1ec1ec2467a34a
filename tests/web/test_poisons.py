"""Poisons posted through the door, and a walk through every place after each: a sample; all are in `make hostile`."""

import httpx2
import pytest

from tests.poisons import sampled
from tests.serving import AT, served
from tests.walking import Victim, walked
from vadum.soil.register import METHODS
from vadum.tape.clock import FrozenClock


@pytest.fixture(scope="module")
def app(tmp_path_factory):
    with served(tmp_path_factory.mktemp("poisons"), FrozenClock(AT)) as running:
        yield running


@pytest.fixture(scope="module")
def client(app):
    made = httpx2.Client(base_url=app.address, follow_redirects=True, timeout=60)
    made.get(app.link("IM"))
    return made


@pytest.mark.parametrize("its", METHODS.values(), ids=METHODS)
def test_no_place_falls_over_a_poisoned_reading(app, client, its):
    victim = Victim(app, its, its.school())
    for poison in sampled(victim.poisons(), 1, seed=len(its.name)):
        assert list(walked(client, victim, poison)) == []
