"""Symbols of three national systems that share one way of asking: fine or coarse, gravel or sand, the plasticity chart.

Sources: BS 5930, DIN 18196, IS 1498; their limits as far as they are fairly sure, which the class says.
"""

from vadum.soil.classify.path import Classified, Decider, Figure, FigureMissing, Figures, classified
from vadum.soil.shared.plasticity import a_line_percent

UNSURE = "limits fairly sure, not confirmed by a copy of the standard"
LOW_LL, HIGH_LL = 35.0, 50.0  # between them IS 1498 and DIN 18196 say intermediate
BS_GROUPS = ((35.0, "L", "low"), (50.0, "I", "intermediate"), (70.0, "H", "high"), (90.0, "V", "very high"))
HATCHED_LOW, HATCHED_HIGH = 4.0, 7.0  # plasticity index of the zone between silt and clay


def _closing(figures: dict[str, Figure], moved: str, by: float) -> None:
    """Gravel, sand and fines add up to 100."""
    against = {"fines": "sand", "gravel": "sand", "sand": "gravel"}.get(moved)
    if against in figures:
        figures[against] = figures[against]._replace(value=max(figures[against].value - by, 0.0))


def _is_clay(d: Decider, nonplastic: bool) -> bool:
    """Whether the fines plot on or above the A-line."""
    if nonplastic:
        d.notes_that("nonplastic", "Are the fines nonplastic?", "NP", True)
        return False
    index, line = d.value("plasticity index"), a_line_percent(d.value("liquid limit"))
    return d.compares("a_line", "Does it plot on or above the A-line?", "plasticity index", index, ">=", line)


def _graded(d: Decider, letter: str, least_gravel: float) -> bool:
    """Whether a coarse soil is well graded: Cu above its limit, Cc from 1 to 3."""
    least = least_gravel if letter == "G" else 6.0
    wide = d.asks("cu", f"Is Cu {least:g} or more?", "Cu", ">=", least)
    even = d.asks("cc1", "Is Cc 1 or more?", "Cc", ">=", 1.0)
    return wide and even and d.asks("cc3", "Is Cc 3 or less?", "Cc", "<=", 3.0)


def _more_gravel(d: Decider) -> bool:
    gravel, sand = d.value("gravel"), d.value("sand")
    return d.compares("gravel_more", "Is there more gravel than sand?", "gravel", gravel, ">", sand)


def _needs_fines(d: Decider) -> None:
    if "fines" not in d.figures:
        raise FigureMissing("fines")


def bs5930(figures: Figures, nonplastic: bool = False) -> Classified:
    """The symbol of BS 5930, fines below 0.063 mm.

    Parameters: `figures` in %, by name: gravel, sand, fines, Cu, Cc, liquid limit, plasticity index; `nonplastic` where
    the plastic limit could not be rolled.
    Returns: the class with the questions that led to it, or what the next one waits for.
    Source: BS 5930.
    """

    def classes(d: Decider) -> tuple[str, str]:
        _needs_fines(d)
        if d.asks("fine", "Are the fines 35 % or more?", "fines", ">=", 35):
            clay = _is_clay(d, nonplastic)
            words, symbol = ("clay", "C") if clay else ("silt", "M")
            if not nonplastic:
                ll = d.value("liquid limit")
                _, letter, grade = next((g for g in BS_GROUPS if ll < g[0]), (0, "E", "extremely high"))
                symbol, words = symbol + letter, f"{words} of {grade} plasticity"
            if not d.asks("plain", "Are the fines 65 % or more?", "fines", ">=", 65):
                gravelly = _more_gravel(d)
                symbol, words = symbol + ("G" if gravelly else "S"), f"{'gravelly' if gravelly else 'sandy'} {words}"
            return symbol, words
        letter, noun = ("G", "gravel") if _more_gravel(d) else ("S", "sand")
        if not d.asks("fines15", "Are the fines 15 % or more?", "fines", ">=", 15):
            well = _graded(d, letter, 6.0)
            grading, graded = ("W", "well graded") if well else ("P", "poorly graded")
            if not d.asks("fines5", "Are the fines 5 % or more?", "fines", ">=", 5):
                return f"{letter}{grading}", f"{graded} {noun}"
            fine, word = ("C", "clayey") if _is_clay(d, nonplastic) else ("M", "silty")
            return f"{letter}{grading}{fine}", f"{graded} {word} {noun}"
        fine, word = ("C", "very clayey") if _is_clay(d, nonplastic) else ("M", "very silty")
        return f"{letter}{fine}", f"{word} {noun}"

    return classified("BS 5930", f"BS 5930; {UNSURE}", figures, classes, _closing)


def din18196(figures: Figures, nonplastic: bool = False) -> Classified:
    """The symbol of DIN 18196, fines below 0.063 mm.

    Parameters: `figures` in %, by name: gravel, sand, fines, Cu, Cc, liquid limit, plasticity index; `nonplastic` where
    the plastic limit could not be rolled.
    Returns: the class with the questions that led to it, or what the next one waits for.
    Source: DIN 18196.
    """

    def classes(d: Decider) -> tuple[str, str]:
        _needs_fines(d)
        if d.asks("fine", "Are the fines above 40 %?", "fines", ">", 40):
            letter, noun = ("T", "clay") if _is_clay(d, nonplastic) else ("U", "silt")
            if nonplastic:
                return "UL", "silt of low plasticity"
            # The A-line alone does not make a clay of a soil that hardly rolls.
            if letter == "T" and d.asks(
                "pi7", "Is the plasticity index below 7?", "plasticity index", "<", HATCHED_HIGH
            ):
                letter, noun = "U", "silt"
            if d.asks("ll35", "Is the liquid limit below 35?", "liquid limit", "<", LOW_LL):
                return f"{letter}L", f"{noun} of low plasticity"
            if d.asks("ll50", "Is the liquid limit 50 or less?", "liquid limit", "<=", HIGH_LL):
                return f"{letter}M", f"{noun} of intermediate plasticity"
            return f"{letter}A", f"{noun} of high plasticity"
        coarse = d.asks("gravel40", "Is what stays on 2 mm above 40 %?", "gravel", ">", 40)
        letter, noun = ("G", "gravel") if coarse else ("S", "sand")
        if d.asks("fines5", "Are the fines 5 % or less?", "fines", "<=", 5):
            if not d.asks("cu", "Is Cu 6 or more?", "Cu", ">=", 6):
                return f"{letter}E", f"narrowly graded {noun}"
            even = d.asks("cc1", "Is Cc 1 or more?", "Cc", ">=", 1) and d.asks("cc3", "Is Cc 3 or less?", "Cc", "<=", 3)
            return (f"{letter}W", f"widely graded {noun}") if even else (f"{letter}I", f"gap-graded {noun}")
        fine, word = ("T", "clayey") if _is_clay(d, nonplastic) else ("U", "silty")
        if d.asks("fines15", "Are the fines 15 % or less?", "fines", "<=", 15):
            return f"{letter}{fine}", f"{word} {noun}"
        return f"{letter}{fine}*", f"very {word} {noun}"

    return classified("DIN 18196", f"DIN 18196; {UNSURE}", figures, classes, _closing)


def _is_fines(d: Decider, nonplastic: bool) -> tuple[str, bool]:
    """Letters of fines by the chart of IS 1498: C, M, or both in the hatched zone."""
    if not _is_clay(d, nonplastic):
        return "M", False
    if d.asks("pi7", "Is the plasticity index above 7?", "plasticity index", ">", HATCHED_HIGH):
        return "C", False
    both = d.asks("pi4", "Is the plasticity index 4 or more?", "plasticity index", ">=", HATCHED_LOW)
    return ("C", True) if both else ("M", False)


def is1498(figures: Figures, nonplastic: bool = False) -> Classified:
    """The symbol of IS 1498, fines below 0.075 mm: as the unified system, with soils of intermediate plasticity.

    Parameters: `figures` in %, by name: gravel, sand, fines, Cu, Cc, liquid limit, plasticity index; `nonplastic` where
    the plastic limit could not be rolled.
    Returns: the class with the questions that led to it, or what the next one waits for.
    Source: IS 1498.
    """

    def classes(d: Decider) -> tuple[str, str]:
        _needs_fines(d)
        if d.asks("fine", "Are the fines above 50 %?", "fines", ">", 50):
            letter, hatched = _is_fines(d, nonplastic)
            noun = "clay" if letter == "C" else "silt"
            if nonplastic or d.asks("ll35", "Is the liquid limit below 35?", "liquid limit", "<", LOW_LL):
                return (
                    ("CL-ML", "silty clay of low plasticity")
                    if hatched
                    else (f"{letter}L", f"{noun} of low plasticity")
                )
            if d.asks("ll50", "Is the liquid limit 50 or less?", "liquid limit", "<=", HIGH_LL):
                return f"{letter}I", f"{noun} of intermediate plasticity"
            return f"{letter}H", f"{noun} of high plasticity"
        letter, noun = ("G", "gravel") if _more_gravel(d) else ("S", "sand")
        few = d.asks("fines5", "Are the fines below 5 %?", "fines", "<", 5)
        if few or d.asks("fines12", "Are the fines 12 % or less?", "fines", "<=", 12):
            well = _graded(d, letter, 4.0)
            symbol, words = (f"{letter}W", f"well graded {noun}") if well else (f"{letter}P", f"poorly graded {noun}")
            if few:
                return symbol, words
            fine, _ = _is_fines(d, nonplastic)
            return f"{symbol}-{letter}{fine}", f"{words} with {'clay' if fine == 'C' else 'silt'}"
        fine, hatched = _is_fines(d, nonplastic)
        if hatched:
            return f"{letter}M-{letter}C", f"silty, clayey {noun}"
        return f"{letter}{fine}", f"{'clayey' if fine == 'C' else 'silty'} {noun}"

    return classified("IS 1498", f"IS 1498; {UNSURE}", figures, classes, _closing, rounded_first=True)
