"""Accepted ways to a plastic limit: how well the determinations must agree, and how the index is rounded."""

from vadum.soil.contract.method import School


class PlasticLimitSchool(School):
    """Limits of agreement, least soil, and rounding."""

    least_determinations: int = 2
    most_apart_percent: float | None = 2.0
    most_apart_of_mean_percent: float | None = None
    least_moist_g: float = 6.0
    index_from_whole_numbers: bool = True
    report_to_percent: float = 1.0
    oven_min: float = 16 * 60


_ALL = (
    PlasticLimitSchool(
        name="astm",
        title="Threads to 3.2 mm, two determinations",
        standard="ASTM D4318, AASHTO T 90",
        about="Two tins of 6 g or more within 2 points; the index from whole numbers.",
    ),
    PlasticLimitSchool(
        name="iso",
        title="Threads to 3 mm, two determinations",
        standard="ISO 17892-12",
        about="Two tins within 2 % of their mean, else a third; the index from the unrounded limits.",
        most_apart_percent=None,
        most_apart_of_mean_percent=2.0,
        index_from_whole_numbers=False,
    ),
    PlasticLimitSchool(
        name="three_replicates",
        title="Three replicates",
        standard="soil-science three-replicate practice",
        about="Three tins; mean and spread.",
        least_determinations=3,
        index_from_whole_numbers=False,
    ),
)

SCHOOLS: dict[str, PlasticLimitSchool] = {school.name: school for school in _ALL}
