"""What every record also holds: the specimen, its preparation, what was done otherwise, and the room or the weather."""

from typing import Any, Literal

from pydantic import Field

from vadum.soil.contract.fields import Number, RecordPart, reading
from vadum.soil.contract.rules import LABORATORY, Rule, Seen, said
from vadum.soil.contract.task import Task

SoilState = Literal["as received", "wet-sieved", "air-dried", "oven-dried", "remoulded"]


class Specimen(RecordPart):
    """The head of a record: what a report says of the specimen beside its results."""

    soil_state: SoilState | None = Field(None, title="preparation")
    specimen: str | None = Field(None, title="specimen", max_length=80)
    specimen_depth_m: Number | None = reading("its depth in the sample")
    specimen_looks: str | None = Field(None, title="colour, odour, what it looks like", max_length=400)
    organic_by_eye: Literal["no", "some", "peat"] | None = Field(None, title="organic by eye")
    cobbles_seen: Literal["yes", "no"] | None = Field(None, title="cobbles or boulders seen")
    deviations: str | None = Field(None, title="done otherwise than the method says", max_length=1000)
    environment: str | None = Field(None, title="room or weather", max_length=200)


FIELDS = tuple(Specimen.model_fields)

SPECIMEN = Task(
    key="described",
    title="The specimen",
    does="Preparation, where in the sample it lay, what it looks like; what was done otherwise.",
    fields=FIELDS,
    optional=True,
    also=FIELDS,
    asks="Done. The sheet can be signed.",
    how="Its preparation, and what was done otherwise, belong on the report.",
    hands_s=60,
    is_done=lambda f, s: f.record.soil_state is not None,
    note=lambda f, s: f.record.soil_state or "",
)


def _prepared(facts: Any, school: Any) -> Seen | None:
    state = facts.record.soil_state
    return said(state is not None, state or "not said how the soil was prepared", "said: drying changes a limit")


# Drying in an oven lowers the limits of many clays for good: a report must say what was tested.
preparation_said = Rule(
    "preparation is said",
    _prepared,
    at=("soil_state",),
    source=LABORATORY,
    level="watch",
    do="Say whether the soil came as received, wet-sieved, air-dried or oven-dried.",
)
