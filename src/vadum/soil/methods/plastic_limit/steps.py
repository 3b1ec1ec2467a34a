"""The order of work for a plastic limit."""

from vadum.soil.contract.method import Step
from vadum.soil.contract.numerics import plain
from vadum.soil.methods.plastic_limit.record import Record
from vadum.soil.shared.oven import OVEN_STEP


def _rows(record: Record) -> list[float | None]:
    return [d.mass_dry_g for d in record.determinations if d.mass_wet_g is not None and not d.excluded_because]


STEPS: tuple[Step, ...] = (
    Step(
        key="threads",
        title="Roll the threads",
        does="A ball of about 10 g from the dish once it is plastic; threads of 3.2 mm on glass, beside a 3 mm rod.",
        fields=(
            "determinations[].tin",
            "determinations[].mass_tin_g",
            "determinations[].mass_wet_g",
            "determinations[].excluded_because",
            "cannot_be_rolled",
            "balance",
            "balance_readability_g",
            "balance_due_on",
            "balance_in_date",
        ),
        cautions=("Glass plate: no chipped edges.",),
        hands_min=30,
        done=lambda r: len(_rows(r)) >= 2 or r.cannot_be_rolled == "yes",
        note=lambda r: f"{len(_rows(r))} tins" if _rows(r) else "",
    ),
    OVEN_STEP,
    Step(
        key="dry",
        title="Weigh the dry tins",
        does="Lids on, cool 5 to 10 minutes, weigh.",
        fields=("determinations[].mass_dry_g",),
        cautions=("Tins out with tongs.",),
        hands_min=4,
        done=lambda r: bool(_rows(r)) and all(m is not None for m in _rows(r)),
        note=lambda r: f"{sum(m is not None for m in _rows(r))} of {len(_rows(r))}" if _rows(r) else "",
    ),
    Step(
        key="indices",
        title="Indices",
        does="Liquid limit of the same soil; natural water content; part finer than 2 µm.",
        fields=(
            "liquid_limit_percent",
            "liquid_limit_unobtainable",
            "natural_water_content_percent",
            "finer_than_2um_percent",
            "remarks",
        ),
        hands_min=2,
        done=lambda r: r.liquid_limit_percent is not None or r.liquid_limit_unobtainable == "yes",
        note=lambda r: "" if r.liquid_limit_percent is None else f"LL {plain(r.liquid_limit_percent, 3)} %",
    ),
)
