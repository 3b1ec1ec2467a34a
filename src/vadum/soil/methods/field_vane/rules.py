"""The rules that judge field vane."""

from vadum.soil.contract.rules import Judge, Rule, at_most
from vadum.soil.shared.water_by_tin import balance_in_date

RULES: tuple[Judge, ...] = (
    Rule(
        "example small enough",  # TO FILL: the good case in words, the figure against the school's limit
        lambda f, s: at_most(f.record.example_mm, s.most_example_mm, "mm"),
        at=("example_mm",),
        do="TO FILL: what to do when it does not hold.",
    ),
    balance_in_date,
)
