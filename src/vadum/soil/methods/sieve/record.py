"""What is measured for a sieve analysis: the soil, its split, what stays on each sieve; and an envelope to meet."""

from typing import Literal

from pydantic import Field

from vadum.soil.contract.fields import Moment, Number, RecordPart, reading
from vadum.soil.shared.water_by_tin import WithBalance


class Sieve(RecordPart):
    """One sieve and what stayed on it."""

    aperture_mm: Number | None = reading("aperture", above=0, high=500)
    mass_retained_g: Number | None = reading("retained")
    sieve: str | None = Field(None, title="sieve", max_length=20)
    sieve_diameter_mm: Number | None = Field(None, title="sieve's diameter")
    sieve_state: Literal["sound", "broken", "blinded"] | None = Field(None, title="sieve's state")
    in_portions: Literal["yes", "no"] | None = Field(None, title="sieved in portions")
    further_minute_g: Number | None = reading("passes it in a further minute")


class Limit(RecordPart):
    """One line of a specification: percent passing between two figures at an aperture."""

    aperture_mm: Number | None = Field(None, title="aperture")
    least_percent: Number | None = reading("at least passing", high=100)
    most_percent: Number | None = reading("at most passing", high=100)


class Record(WithBalance):
    """A sieve analysis. Without a split the part sieved is the whole."""

    largest_particle_mm: Number | None = reading("largest grain", above=0)
    mass_total_g: Number | None = reading("soil taken")
    weighed_as: Literal["oven-dry", "moist"] | None = Field(None, title="weighed")
    water_content_percent: Number | None = reading("its water content, unless oven-dry", high=1000)
    split_at_mm: Number | None = reading("separating sieve", above=0)
    mass_coarse_g: Number | None = reading("coarser than it, dry")
    mass_finer_g: Number | None = reading("finer than it")
    mass_part_g: Number | None = reading("part of the finer, riffled")
    washed_over_mm: Number | None = reading("washed over", above=0)
    in_oven_at: Moment | None = Field(None, title="washed soil into the oven")
    mass_washed_g: Number | None = reading("dry after washing")
    shaken_from_at: Moment | None = Field(None, title="shaker started")
    sieves: tuple[Sieve, ...] = Field((), title="sieves")
    mass_pan_g: Number | None = reading("pan")
    further_minute_g: Number | None = reading("passes one sieve in a further minute")
    further_minute_at_mm: Number | None = reading("of which sieve", above=0, high=500)
    over_75mm_percent: Number | None = reading("over 75 mm, left in the field", high=100)
    dispersant_soak_h: Number | None = reading("soaked with dispersant for")
    grain_shape: Literal["rounded", "subrounded", "subangular", "angular", "flat"] | None = Field(
        None, title="shape of the coarse grains"
    )
    envelope_name: str | None = Field(None, title="specification", max_length=120)
    envelope: tuple[Limit, ...] = Field((), title="specification envelope")
    remarks: str | None = Field(None, title="remarks", max_length=2000)
