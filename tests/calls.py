"""What a school calls, for tests that read along without a run."""

from typing import Any

from vadum.soil.contract.called import Called
from vadum.soil.contract.travel import Sample
from vadum.soil.register import METHODS


def called_by(method: str, school: Any) -> Called:
    """The first readings that the method's school calls, of an empty record."""
    its = METHODS[method]
    return its.called(its.facts(its.Record(), school), school)[0]


def sample(seconds: float, travel: float, ring: float) -> Sample:
    """A sample of a frame with a proving ring."""
    return Sample(seconds, travel, {"ring": ring})


def by_travel(method, record):
    """Whether a travel or a load calls the readings of a method: a plunger or a platen that goes in, a plate."""
    school = method.school()
    return any(c.by in ("travel", "load") for c in method.called(method.facts(record, school), school))
