"""What is measured for a sieve analysis: the soil, its split, what stays on each sieve; and an envelope to meet."""

from typing import Literal

from pydantic import Field

from vadum.soil.contract.fields import Moment, Number, RecordPart
from vadum.soil.shared.water_by_tin import WithBalance


class Sieve(RecordPart):
    """One sieve and what stayed on it."""

    aperture_mm: Number | None = Field(None, title="aperture")
    mass_retained_g: Number | None = Field(None, title="retained")
    sieve: str | None = Field(None, title="sieve", max_length=20)
    sieve_diameter_mm: Number | None = Field(None, title="sieve's diameter")
    sieve_state: Literal["sound", "broken", "blinded"] | None = Field(None, title="sieve's state")


class Limit(RecordPart):
    """One line of a specification: percent passing between two figures at an aperture."""

    aperture_mm: Number | None = Field(None, title="aperture")
    least_percent: Number | None = Field(None, title="at least passing")
    most_percent: Number | None = Field(None, title="at most passing")


class Record(WithBalance):
    """A sieve analysis. Without a split the part sieved is the whole."""

    largest_particle_mm: Number | None = Field(None, title="largest grain")
    mass_total_g: Number | None = Field(None, title="soil taken")
    water_content_percent: Number | None = Field(None, title="its water content, unless oven-dry")
    split_at_mm: Number | None = Field(None, title="separating sieve")
    mass_coarse_g: Number | None = Field(None, title="coarser than it, dry")
    mass_finer_g: Number | None = Field(None, title="finer than it")
    mass_part_g: Number | None = Field(None, title="part of the finer, riffled")
    washed_over_mm: Number | None = Field(None, title="washed over")
    in_oven_at: Moment | None = Field(None, title="washed soil into the oven")
    mass_washed_g: Number | None = Field(None, title="dry after washing")
    shaken_from_at: Moment | None = Field(None, title="shaker started")
    sieves: tuple[Sieve, ...] = Field((), title="sieves")
    mass_pan_g: Number | None = Field(None, title="pan")
    further_minute_g: Number | None = Field(None, title="passes one sieve in a further minute")
    envelope_name: str | None = Field(None, title="specification", max_length=120)
    envelope: tuple[Limit, ...] = Field((), title="specification envelope")
    remarks: str | None = Field(None, title="remarks", max_length=2000)
