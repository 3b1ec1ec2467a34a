"""What is measured for a specific gravity: a pycnometer with water, and again with soil and water."""

from typing import Literal

from pydantic import Field

from vadum.soil.contract.fields import Moment, Number, RecordPart, reading
from vadum.soil.shared.physics import WATER_RANGE_C
from vadum.soil.shared.water_by_tin import WithBalance


class Determination(RecordPart):
    """One pycnometer. Its masses empty and full of water at a temperature come from the kit.

    With gas: the volumes of its cell and of its expansion chamber, and the pressure above the air's before and after
    the gas was let from one into the other.
    """

    pycnometer: str | None = Field(None, title="pycnometer", max_length=20)
    mass_pycnometer_g: Number | None = reading("empty pycnometer", above=0)
    mass_full_g: Number | None = reading("full of water", above=0)
    full_at_c: Number | None = reading("filled at", low=WATER_RANGE_C[0], high=WATER_RANGE_C[1])
    mass_with_soil_g: Number | None = reading("with soil and water", above=0)
    temperature_c: Number | None = reading("temperature of the slurry", low=WATER_RANGE_C[0], high=WATER_RANGE_C[1])
    mass_dry_soil_g: Number | None = reading("oven-dry soil", above=0)
    cell_cm3: Number | None = reading("cell's volume", above=0, high=2000)
    expansion_cm3: Number | None = reading("expansion chamber's volume", above=0, high=2000)
    gas_first_kpa: Number | None = reading("gas pressure in the cell", above=0, high=500, step="0.01")
    gas_second_kpa: Number | None = reading("gas pressure when expanded", above=0, high=500, step="0.01")
    excluded_because: str | None = Field(None, title="left out because", max_length=400)


class Record(WithBalance):
    """A specific gravity of solids."""

    came_through_mm: Number | None = Field(None, title="came through the sieve of")
    liquid: str | None = Field(None, title="liquid, where not water", max_length=60)
    liquid_density_mg_m3: Number | None = reading("its density at the test's temperature", low=0.5, high=3.0)
    started: Literal["moist", "oven-dried"] | None = Field(None, title="soil put in")
    flask_ml: Number | None = reading("flask", above=0)
    coarse_gravity_ratio: Number | None = reading("specific gravity of the coarse part", low=1.0, high=6.0)
    finer_percent: Number | None = reading("the finer part's share of the whole", above=0, high=100)
    deaired_by: Literal["vacuum", "boiling"] | None = Field(None, title="air taken out by")
    deaired_min: Number | None = Field(None, title="air taken out for")
    determinations: tuple[Determination, ...] = Field((), title="pycnometers")
    in_oven_at: Moment | None = Field(None, title="dishes into the oven")
    remarks: str | None = Field(None, title="remarks", max_length=2000)
