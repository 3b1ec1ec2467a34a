"""AASHTO class with its group index, by elimination from the left. Source: AASHTO M 145."""

from vadum.soil.classify.path import Classified, Decider, Figures, Sign, classified
from vadum.soil.contract.numerics import rounded

SOURCE = "AASHTO M 145"
NAMES = {
    "A-1-a": "stone fragments, gravel and sand",
    "A-1-b": "gravel and sand",
    "A-3": "fine sand",
    "A-2-4": "silty or clayey gravel and sand",
    "A-2-5": "silty or clayey gravel and sand, elastic fines",
    "A-2-6": "silty or clayey gravel and sand, clayey fines",
    "A-2-7": "silty or clayey gravel and sand, highly plastic fines",
    "A-4": "silty soil",
    "A-5": "silty soil, elastic",
    "A-6": "clayey soil",
    "A-7-5": "clayey soil, elastic",
    "A-7-6": "clayey soil, highly plastic",
}


def group_index(passing_200_percent: float, liquid_limit_percent: float, plasticity_percent: float) -> float:
    """`GI = (F - 35)(0.2 + 0.005 (LL - 40)) + 0.01 (F - 15)(PI - 10)`, before it is rounded and kept from below 0.

    Source: AASHTO M 145.

    Parameters: `passing_200_percent` in %; `liquid_limit_percent` in %; `plasticity_percent` in %.
    Returns: a pure number.

    >>> round(group_index(72, 48, 9), 2), round(group_index(40, 22, 2), 2)
    (8.31, -1.45)
    """
    f, ll, pi = passing_200_percent, liquid_limit_percent, plasticity_percent
    return (f - 35) * (0.2 + 0.005 * (ll - 40)) + partial_group_index(f, pi)


def partial_group_index(passing_200_percent: float, plasticity_percent: float) -> float:
    """The second term alone, for A-2-6 and A-2-7: `0.01 (F - 15)(PI - 10)`.

    Parameters: `passing_200_percent` and `plasticity_percent` in %, whole numbers.
    Returns: the group index before rounding; below 0 where a term is, which is reported as 0.
    Source: AASHTO M 145.

    >>> partial_group_index(30, 20)
    1.5
    """
    return 0.01 * (passing_200_percent - 15) * (plasticity_percent - 10)


RATING = {"A-1": "excellent to good", "A-3": "excellent to good", "A-2": "excellent to good"}


def aashto(
    figures: Figures,
    nonplastic: bool = False,
    *,
    peat: bool = False,
    rounded_first: bool = True,
    index_of_nonplastic: bool = False,
) -> Classified:
    """The soil's group with its index, of the part that passes 75 mm.

    Parameters: `figures` in %: passing 2, 0.425 and 0.075 mm, liquid limit, plasticity index; `rounded_first` whether
    they are compared whole; `index_of_nonplastic` whether a nonplastic soil with a known liquid limit has an index.
    Returns: the group with its index, and the general rating beside its name.
    Source: AASHTO M 145.
    """

    def classes(d: Decider) -> tuple[str, str]:
        if peat:
            d.notes_that("peat", "Is it peat or muck?", "peat", True)
            return "A-8", "peat, muck: unsuitable"

        def asks(key: str, question: str, figure: str, sign: Sign, limit: float) -> bool:
            return d.compares(key, question, figure, d.value(figure), sign, limit)

        def plasticity(key: str, limit: float) -> bool:
            question = f"Is the plasticity index {limit:g} or less?"
            if nonplastic:
                return d.notes_that(key, question, "nonplastic", True)
            return asks(key, question, "plasticity index", "<=", limit)

        def liquid(key: str) -> bool:
            if nonplastic and "liquid limit" not in d.figures:
                return d.notes_that(key, "Is the liquid limit 41 or more?", "nonplastic", False)
            return asks(key, "Is the liquid limit 41 or more?", "liquid limit", ">=", 41)

        group = _group(d, asks, plasticity, liquid, nonplastic)
        fines = d.value("passing 0.075 mm")
        pi = 0.0 if nonplastic else d.value("plasticity index")
        index = 0.0
        if group in ("A-2-6", "A-2-7"):
            index = partial_group_index(fines, pi)
        elif nonplastic and not index_of_nonplastic:
            d.notes.append("Group index 0: nonplastic. Whether that holds with a known liquid limit is not certain.")
        elif group not in ("A-1-a", "A-1-b", "A-3", "A-2-4", "A-2-5"):
            limit = d.value("liquid limit") if "liquid limit" in d.figures else 0.0
            index = group_index(fines, limit, pi)
        if index < 0:
            d.notes.append(f"Group index computed {index:.2f}: below 0 counts as 0.")
        d.notes.append(f"As a subgrade: {RATING.get(group[:3], 'fair to poor')}.")
        return f"{group}({rounded(max(index, 0.0), 1)})", NAMES[group]

    return classified("AASHTO", SOURCE, figures, classes, rounded_first=rounded_first)


def _group(d: Decider, asks: object, plasticity: object, liquid: object, nonplastic: bool) -> str:
    ask, plastic, high = asks, plasticity, liquid
    assert callable(ask)
    assert callable(plastic)
    assert callable(high)
    if not ask("granular", "Does 35 % or less pass 0.075 mm?", "passing 0.075 mm", "<=", 35):
        elastic = high("silt_ll41")
        if plastic("silt_pi10", 10):
            return "A-5" if elastic else "A-4"
        if not elastic:
            return "A-6"
        pi, ll = d.value("plasticity index"), d.value("liquid limit")
        words = "plasticity index"
        low = d.compares("a75", "Is the plasticity index at most the liquid limit less 30?", words, pi, "<=", ll - 30)
        return "A-7-5" if low else "A-7-6"
    if ask("a1_p15", "Does 15 % or less pass 0.075 mm?", "passing 0.075 mm", "<=", 15) and (
        ask("a1a_p50", "Does 50 % or less pass 2 mm?", "passing 2 mm", "<=", 50)
        and ask("a1a_p30", "Does 30 % or less pass 0.425 mm?", "passing 0.425 mm", "<=", 30)
        and plastic("a1a_pi6", 6)
    ):
        return "A-1-a"
    if ask("a1b_p25", "Does 25 % or less pass 0.075 mm?", "passing 0.075 mm", "<=", 25) and (
        ask("a1b_p50", "Does 50 % or less pass 0.425 mm?", "passing 0.425 mm", "<=", 50) and plastic("a1b_pi6", 6)
    ):
        return "A-1-b"
    if ask("a3_p10", "Does 10 % or less pass 0.075 mm?", "passing 0.075 mm", "<=", 10) and (
        ask("a3_p51", "Does 51 % or more pass 0.425 mm?", "passing 0.425 mm", ">=", 51)
        and d.notes_that("a3_np", "Is it nonplastic?", "nonplastic" if nonplastic else "plastic", nonplastic)
    ):
        return "A-3"
    elastic = high("a2_ll41")
    if plastic("a2_pi10", 10):
        return "A-2-5" if elastic else "A-2-4"
    return "A-2-7" if elastic else "A-2-6"
