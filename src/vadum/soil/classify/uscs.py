"""Unified classification: symbol and full group name, with every decision on the way. Source: ASTM D2487."""

from typing import NamedTuple

from vadum.soil.classify.path import Classified, Decider, Figure, Figures, classified
from vadum.soil.shared.plasticity import a_line_percent

SOURCE = "ASTM D2487"
COARSE = {"G": "gravel", "S": "sand"}
FINE_NAMES = {
    "CL": "lean clay",
    "CL-ML": "silty clay",
    "ML": "silt",
    "CH": "fat clay",
    "MH": "elastic silt",
}


class Seen(NamedTuple):
    """What is said of the soil beside its figures."""

    nonplastic: bool = False
    peat: bool = False
    cobbles: bool = False


class Fines(NamedTuple):
    """The fines by the plasticity chart: symbol, and whether they are organic."""

    symbol: str
    organic: bool
    above_a: bool


def _fines(d: Decider, seen: Seen) -> Fines:
    """Where the fines plot."""
    if d.notes_that("nonplastic", "Are the fines nonplastic?", "NP" if seen.nonplastic else "plastic", seen.nonplastic):
        return Fines("ML", False, False)
    ll, pi = d.value("liquid limit"), d.value("plasticity index")
    organic = "oven-dried LL ratio" in d.figures and d.asks(
        "organic", "Does oven-drying take the liquid limit below 0.75 of itself?", "oven-dried LL ratio", "<", 0.75
    )
    high = d.asks("ll50", "Is the liquid limit 50 or more?", "liquid limit", ">=", 50)
    line = a_line_percent(ll)
    words = "plasticity index"
    above = d.compares("a_line", "Does it plot on or above the A-line?", words, pi, ">=", line)
    if high:
        return Fines("CH" if above else "MH", organic, above)
    if organic:
        clayey = d.asks("pi4", "Is the plasticity index 4 or more?", "plasticity index", ">=", 4)
        return Fines("CL" if clayey and above else "ML", True, clayey and above)
    if above and d.asks("pi7", "Is the plasticity index above 7?", "plasticity index", ">", 7):
        return Fines("CL", False, True)
    if above and d.asks("pi4", "Is the plasticity index 4 or more?", "plasticity index", ">=", 4):
        return Fines("CL-ML", False, True)
    return Fines("ML", False, False)


def _fine_grained(d: Decider, seen: Seen) -> tuple[str, str]:
    fines = _fines(d, seen)
    symbol, name = fines.symbol, FINE_NAMES[fines.symbol]
    if fines.organic:
        symbol = "OH" if fines.symbol in ("CH", "MH") else "OL"
        name = "organic clay" if fines.above_a else "organic silt"
    sand, gravel = d.value("sand"), d.value("gravel")
    coarse = 100 - d.value("fines")  # not sand + gravel: two rounded shares may add up to one more
    words = "sand and gravel"
    if d.compares("plus30", "Is the part over 0.075 mm 30 % or more?", words, coarse, ">=", 30):
        if d.compares("sand_more", "Is there as much sand as gravel, or more?", "sand", sand, ">=", gravel):
            with_gravel = d.asks("gravel15", "Is the gravel 15 % or more?", "gravel", ">=", 15)
            return symbol, f"sandy {name}{' with gravel' if with_gravel else ''}"
        with_sand = d.asks("sand15", "Is the sand 15 % or more?", "sand", ">=", 15)
        return symbol, f"gravelly {name}{' with sand' if with_sand else ''}"
    if d.compares("plus15", "Is the part over 0.075 mm 15 % or more?", words, coarse, ">=", 15):
        sandy = d.compares("sand_more", "Is there as much sand as gravel, or more?", "sand", sand, ">=", gravel)
        return symbol, f"{name} with {'sand' if sandy else 'gravel'}"
    return symbol, name


def _graded(d: Decider, letter: str) -> bool:
    """Whether the coarse part is well graded."""
    least = 4 if letter == "G" else 6
    if not d.asks(f"cu_{letter.lower()}", f"Is the uniformity Cu {least} or more?", "Cu", ">=", least):
        return False
    if not d.asks("cc1", "Is the curvature Cc 1 or more?", "Cc", ">=", 1):
        return False
    return d.asks("cc3", "Is the curvature Cc 3 or less?", "Cc", "<=", 3)


def _coarse_grained(d: Decider, seen: Seen) -> tuple[str, str]:
    sand, gravel = d.value("sand"), d.value("gravel")
    gravelly = d.compares("gravel_more", "Is there more gravel than sand?", "gravel", gravel, ">", sand)
    letter = "G" if gravelly else "S"
    own, other = COARSE[letter], COARSE["S" if gravelly else "G"]
    withs: list[str] = []
    if d.asks("fines5", "Are the fines below 5 %?", "fines", "<", 5):
        well = _graded(d, letter)
        symbol, name = f"{letter}{'W' if well else 'P'}", f"{'well-graded' if well else 'poorly graded'} {own}"
    elif d.asks("fines12", "Are the fines 12 % or less?", "fines", "<=", 12):
        well = _graded(d, letter)
        fines = _fines(d, seen)
        kind = {"CL": "clay", "CH": "clay", "CL-ML": "silty clay"}.get(fines.symbol, "silt")
        second = "M" if kind == "silt" else "C"
        symbol = f"{letter}{'W' if well else 'P'}-{letter}{second}"
        name = f"{'well-graded' if well else 'poorly graded'} {own}"
        withs.append(kind)
        if fines.organic:
            withs.append("organic fines")
    else:
        fines = _fines(d, seen)
        symbol, word = {
            "CL": (f"{letter}C", "clayey"),
            "CH": (f"{letter}C", "clayey"),
            "CL-ML": (f"{letter}C-{letter}M", "silty, clayey"),
        }.get(fines.symbol, (f"{letter}M", "silty"))
        name = f"{word} {own}"
        if fines.organic:
            withs.append("organic fines")
    if d.asks("other15", f"Is the {other} 15 % or more?", other, ">=", 15):
        withs.append(other)
    return symbol, name + (f" with {' and '.join(withs)}" if withs else "")


def uscs(figures: Figures, seen: Seen = Seen(), rounded_first: bool = True) -> Classified:
    """The soil's group symbol and full group name.

    `figures` of the part that passes 75 mm: gravel, sand and fines in percent; Cu and Cc; liquid limit and
    plasticity index in percent; the oven-dried LL ratio where an organic soil is suspected. `rounded_first`: limits and
    shares are compared as they are reported, whole.
    """

    def classes(d: Decider) -> tuple[str, str]:
        if seen.peat:
            d.notes_that("peat", "Is it mainly organic, dark and smelling?", "peat", True)
            return "PT", "peat"
        fine = d.asks("fine", "Are half or more of it fines?", "fines", ">=", 50)
        symbol, name = _fine_grained(d, seen) if fine else _coarse_grained(d, seen)
        if seen.cobbles:
            d.notes.append("The field sample held cobbles or boulders.")
            name += " and cobbles" if " with " in name else " with cobbles"
        return symbol, name

    return classified("USCS", SOURCE, figures, classes, _closing, rounded_first=rounded_first)


def _closing(figures: dict[str, Figure], moved: str, by: float) -> None:
    """Gravel, sand and fines add up to 100: what one gains, the sand (or the gravel) loses."""
    against = {"fines": "sand", "gravel": "sand", "sand": "gravel"}.get(moved)
    if against in figures:
        figures[against] = figures[against]._replace(value=max(figures[against].value - by, 0.0))
