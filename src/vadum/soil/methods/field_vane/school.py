"""What the rule books of field vane set, and what the laboratory sets for all of them."""

from vadum.soil.contract.school import School, laboratory, schools_of


class FieldVaneSchool(School):
    """TO FILL: a field for each number that differs between rule books; `laboratory(...)` for what none of them sets."""

    most_example_mm: float
    report_to_mm: float = laboratory(0.1)


SCHOOLS = schools_of(__file__, FieldVaneSchool)
