"""What is measured for field vane."""

from pydantic import Field

from vadum.soil.contract.fields import Number, reading
from vadum.soil.shared.water_by_tin import WithBalance


class Record(WithBalance):
    """One run of field vane; every field optional while it is open. TO FILL: the readings, each name ending in its unit."""

    example_mm: Number | None = reading("example", above=0)
    remarks: str | None = Field(None, title="remarks", max_length=2000)
