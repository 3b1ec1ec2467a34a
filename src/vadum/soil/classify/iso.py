"""The short ISO name: principal fraction with its secondary ones, and the plasticity of fine soils.

Source: ISO 14688-1 and ISO 14688-2. The shares at which a soil behaves as fine are guide values there; they are the
laboratory's setting here.
"""

from vadum.soil.classify.path import Classified, Decider, Figure, FigureMissing, Figures, classified
from vadum.soil.shared.plasticity import a_line_percent

SOURCE = "ISO 14688-1, ISO 14688-2; guide values"
FINE_FROM_PERCENT = 40.0
PLASTICITY = ((35.0, "low"), (50.0, "intermediate"), (70.0, "high"), (float("inf"), "very high"))
WORDS = {"Gr": "gravel", "Sa": "sand", "Si": "silt", "Cl": "clay"}
ADJECTIVES = {"Gr": "gravelly", "Sa": "sandy", "Si": "silty", "Cl": "clayey"}


def _fine_letter(d: Decider, nonplastic: bool) -> str:
    """Clay or silt: by the plasticity chart where limits are known, else by the clay's share of the fines."""
    if nonplastic:
        d.notes_that("nonplastic", "Are the fines nonplastic?", "NP", True)
        return "Si"
    if "plasticity index" in d.figures and "liquid limit" in d.figures:
        pi, line = d.value("plasticity index"), a_line_percent(d.value("liquid limit"))
        words = "plasticity index"
        return "Cl" if d.compares("a_line", "Does it plot on or above the A-line?", words, pi, ">=", line) else "Si"
    share = 100 * d.value("clay") / max(d.value("fines"), 1e-9)
    clayey = d.compares("clay20", "Is the clay a fifth of the fines or more?", "clay in the fines", share, ">=", 20)
    return "Cl" if clayey else "Si"


def iso(figures: Figures, nonplastic: bool = False) -> Classified:
    """The soil's short name. Figures: gravel, sand, fines (under 0.063 mm), clay, liquid limit, plasticity index.

    Parameters: `figures` in %, by name; `nonplastic` where the plastic limit could not be rolled.
    Returns: the class with the questions that led to it.
    Raises: FigureMissing, naming what the next question needs.
    Source: ISO 14688-2.
    """

    def classes(d: Decider) -> tuple[str, str]:
        if "fines" not in d.figures:
            raise FigureMissing("fines under 0.063 mm")
        question = f"Are the fines {FINE_FROM_PERCENT:g} % or more?"
        fine = d.asks("fine", question, "fines", ">=", FINE_FROM_PERCENT)
        seconds: list[str] = []
        if fine:
            principal = _fine_letter(d, nonplastic)
            if d.asks("sand20", "Is the sand 20 % or more?", "sand", ">=", 20):
                seconds.append("Sa")
            if d.asks("gravel20", "Is the gravel 20 % or more?", "gravel", ">=", 20):
                seconds.append("Gr")
        else:
            sand, gravel = d.value("sand"), d.value("gravel")
            principal = (
                "Gr"
                if d.compares("gravel_more", "Is there more gravel than sand?", "gravel", gravel, ">", sand)
                else "Sa"
            )
            if d.asks("fines15", "Are the fines 15 % or more?", "fines", ">=", 15):
                seconds.append(_fine_letter(d, nonplastic))
            other = "Sa" if principal == "Gr" else "Gr"
            if d.asks("other20", f"Is the {WORDS[other]} 20 % or more?", WORDS[other], ">=", 20):
                seconds.append(other)
        symbol = "".join(s.lower() for s in reversed(seconds)) + principal
        name = " ".join([*(ADJECTIVES[s] for s in reversed(seconds)), WORDS[principal]])
        if fine and not nonplastic and "liquid limit" in d.figures:
            word = next(w for limit, w in PLASTICITY if d.value("liquid limit") < limit)
            name += f" of {word} plasticity"
        return symbol, name

    return classified("ISO", SOURCE, figures, classes, _closing)


def _closing(figures: dict[str, Figure], moved: str, by: float) -> None:
    """Gravel, sand and fines add up to 100."""
    against = {"fines": "sand", "gravel": "sand", "sand": "gravel"}.get(moved)
    if against in figures:
        figures[against] = figures[against]._replace(value=max(figures[against].value - by, 0.0))
