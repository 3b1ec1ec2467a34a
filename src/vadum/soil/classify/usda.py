"""Texture class of the fine earth from sand, silt and clay. Source: Soil Survey Manual, class definitions."""

import math

from vadum.soil.classify.path import Classified, Decider, Figure, FigureMissing, Figures, classified

SOURCE = "USDA Soil Survey Manual"


def fine_earth_percent(finer_2mm: float, finer_50um: float, finer_2um: float) -> tuple[float, float, float]:
    """Sand, silt and clay in percent of what passes 2 mm, from percent finer of the whole.

    >>> fine_earth_percent(100, 68, 33)
    (32.0, 35.0, 33.0)
    """
    scale = 100 / finer_2mm
    return scale * (finer_2mm - finer_50um), scale * (finer_50um - finer_2um), scale * finer_2um


# Kinds of fragment by size, mm: their word, and the word for a soil that is nearly nothing else.
KINDS = ((75.0, "gravelly", "gravel"), (250.0, "cobbly", "cobbles"), (600.0, "stony", "stones"))
ALONE_PERCENT = 90.0  # by volume; fairly sure


def fragments_word(volume_percent: float, word: str = "gravelly") -> str:
    """The words for rock fragments by volume of the whole soil.

    >>> fragments_word(10), fragments_word(40), fragments_word(70, "cobbly")
    ('', 'very gravelly', 'extremely cobbly')
    """
    bounds = ((15, ""), (35, word), (60, f"very {word}"), (math.inf, f"extremely {word}"))
    return next(said for limit, said in bounds if volume_percent < limit)


def fragments_volume_percent(mass_percent: float, fine_earth_mg_m3: float, stone_mg_m3: float = 2.65) -> float:
    """`V = (X/2.65) / (X/2.65 + (1 - X)/rho_fine)`: fragments by volume, from their share by mass.

    Parameters: `mass_percent` over 2 mm in %, 0 to 100; `fine_earth_mg_m3` dry density of the fine earth in Mg/m³,
    above 0; `stone_mg_m3` in Mg/m³, above 0.
    Returns: % of the whole soil's volume.
    Source: volumes of both parts add up; USDA Soil Survey Manual, chapter 3.

    >>> round(fragments_volume_percent(45.0, 1.6), 1)
    33.1
    """
    stones, earth = mass_percent / 100 / stone_mg_m3, (1 - mass_percent / 100) / fine_earth_mg_m3
    return 100 * stones / (stones + earth)


def _texture(d: Decider) -> str:
    sand, silt, clay = d.value("sand"), d.value("silt"), d.value("clay")

    def asks(key: str, question: str, words: str, value: float, sign: str, limit: float) -> bool:
        return d.compares(key, question, words, value, sign, limit)  # type: ignore[arg-type]

    if asks("sand", "Is silt + 1.5 clay below 15?", "silt + 1.5 clay", silt + 1.5 * clay, "<", 15):
        return "sand"
    if asks("loamy_sand", "Is silt + 2 clay below 30?", "silt + 2 clay", silt + 2 * clay, "<", 30):
        return "loamy sand"
    if asks("clay40", "Is the clay 40 % or more?", "clay", clay, ">=", 40):
        if asks("silt40", "Is the silt 40 % or more?", "silt", silt, ">=", 40):
            return "silty clay"
        return "sandy clay" if asks("sand45", "Is the sand above 45 %?", "sand", sand, ">", 45) else "clay"
    if asks("clay27", "Is the clay 27 % or more?", "clay", clay, ">=", 27):
        if asks("sand20", "Is the sand 20 % or less?", "sand", sand, "<=", 20):
            return "silty clay loam"
        if not asks("sand45", "Is the sand above 45 %?", "sand", sand, ">", 45):
            return "clay loam"
        sandy = asks("clay35", "Is the clay 35 % or more?", "clay", clay, ">=", 35)
        return "sandy clay" if sandy else "sandy clay loam"
    if (
        asks("clay20", "Is the clay 20 % or more?", "clay", clay, ">=", 20)
        and asks("silt28", "Is the silt below 28 %?", "silt", silt, "<", 28)
        and asks("sand45", "Is the sand above 45 %?", "sand", sand, ">", 45)
    ):
        return "sandy clay loam"
    if asks("silt50", "Is the silt 50 % or more?", "silt", silt, ">=", 50):
        if asks("clay12", "Is the clay 12 % or more?", "clay", clay, ">=", 12):
            return "silt loam"
        return "silt" if asks("silt80", "Is the silt 80 % or more?", "silt", silt, ">=", 80) else "silt loam"
    if not asks("clay7", "Is the clay 7 % or more?", "clay", clay, ">=", 7):
        return "sandy loam"
    return "sandy loam" if asks("sand52", "Is the sand above 52 %?", "sand", sand, ">", 52) else "loam"


def usda(figures: Figures, fragments_percent: float = 0.0, kind: int = 0) -> Classified:
    """The texture class. Figures: sand (2 to 0.05 mm), silt, clay in percent of the fine earth.

    Parameters: `figures` in %, by name; `fragments_percent` over 2 mm, % by volume of the whole soil;
    `kind` of them in `KINDS`.
    Returns: the class with the questions that led to it.
    Raises: FigureMissing, naming what the next question needs.
    Source: USDA Soil Survey Manual, chapter 3.
    """

    def classes(d: Decider) -> tuple[str, str]:
        if not {"sand", "silt", "clay"} <= set(d.figures):
            raise FigureMissing("silt and clay, by hydrometer")
        _, word, alone = KINDS[kind]
        if fragments_percent >= ALONE_PERCENT:
            d.notes_that("fragments", f"Are the fragments {ALONE_PERCENT:g} % by volume or more?", alone, True)
            return alone, alone
        texture = _texture(d)
        return texture, f"{fragments_word(fragments_percent, word)} {texture}".strip()

    return classified("USDA", SOURCE, figures, classes, _closing)


def _closing(figures: dict[str, Figure], moved: str, by: float) -> None:
    """The three add up to 100."""
    against = {"clay": "silt", "silt": "sand", "sand": "silt"}[moved]
    figures[against] = figures[against]._replace(value=max(figures[against].value - by, 0.0))
