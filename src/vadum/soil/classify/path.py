"""A class, the decisions that led to it with the figures that made them, and which figure could flip it."""

from collections.abc import Callable, Mapping
from typing import Literal, NamedTuple

from vadum.soil.contract import compare
from vadum.soil.contract.errors import VadumError
from vadum.soil.contract.numerics import plain, rounded
from vadum.soil.contract.outcome import Frozen, Verdict

Sign = Literal[">=", ">", "<=", "<"]
PURE = ("Cu", "Cc", "oven-dried LL ratio")  # no percentages: never whole
_SIGNS: dict[str, Callable[[float, float], bool]] = {
    ">=": compare.at_least,
    ">": lambda a, b: compare.below(b, a),
    "<=": compare.at_most,
    "<": compare.below,
}
_SPOKEN = {">=": "≥", ">": ">", "<=": "≤", "<": "<"}


class Figure(NamedTuple):
    """A figure that a class may turn on: its value, its standard uncertainty (None: half of its last digit)."""

    value: float
    uncertainty: float | None = None
    unit: str = "%"


Figures = Mapping[str, Figure]


class Branch(Frozen):
    """One decision: what was asked, what was found, and the answer."""

    key: str
    question: str
    found: str
    answer: bool
    source: str


class Flip(Frozen):
    """A figure that, moved by its uncertainty, gives another class."""

    figure: str
    found: str
    question: str
    becomes: str


class Classified(Frozen):
    """A soil's class in one system. `missing` names the figures that the next decision waits for."""

    system: str
    source: str
    symbol: str = ""
    name: str = ""
    path: tuple[Branch, ...] = ()
    flips: tuple[Flip, ...] = ()
    notes: tuple[str, ...] = ()
    missing: tuple[str, ...] = ()


class FigureMissing(VadumError):
    """A decision that cannot be made yet."""

    def __init__(self, figure: str) -> None:
        self.figure = figure
        super().__init__(f"waits for {figure}")


class Decider:
    """Asks one question after the other and keeps the answers."""

    def __init__(self, figures: Figures, source: str, rounded_first: bool = False) -> None:
        self.figures, self.source, self.rounded_first = figures, source, rounded_first
        self.path: list[Branch] = []
        self.notes: list[str] = []

    def value(self, figure: str) -> float:
        """The figure's value; raises FigureMissing."""
        if figure not in self.figures:
            raise FigureMissing(figure)
        found = self.figures[figure]
        # D2487 and M 145 take reported results: a class and the figures printed beside it must not disagree.
        return float(rounded(found.value, 1)) if self.rounded_first and figure not in PURE else found.value

    def asks(self, key: str, question: str, figure: str, sign: Sign, limit: float) -> bool:
        """Whether a figure stands so to a limit; raises FigureMissing."""
        unit = self.figures[figure].unit if figure in self.figures else "%"
        return self.compares(key, question, figure, self.value(figure), sign, limit, unit)

    def compares(
        self, key: str, question: str, words: str, value: float, sign: Sign, limit: float, unit: str = "%"
    ) -> bool:
        """Whether a value told from several figures stands so to a limit."""
        answer = _SIGNS[sign](value, limit)
        end = f" {unit}" if unit else ""
        stands = _SPOKEN[sign] if answer else {">=": "<", ">": "≤", "<=": ">", "<": "≥"}[sign]
        found = f"{words} {plain(value, 4)} {stands} {plain(limit, 4)}{end}"
        self.path.append(Branch(key=key, question=question, found=found, answer=answer, source=self.source))
        return answer

    def notes_that(self, key: str, question: str, found: str, answer: bool) -> bool:
        """A decision by something seen and not measured."""
        self.path.append(Branch(key=key, question=question, found=found, answer=answer, source=self.source))
        return answer


Classes = Callable[[Decider], tuple[str, str]]
Closing = Callable[[dict[str, Figure], str, float], None]


def classified(
    system: str,
    source: str,
    figures: Figures,
    classes: Classes,
    closing: Closing | None = None,
    *,
    rounded_first: bool = False,
) -> Classified:
    """The class that `classes` decides on, its path, and the figures that could flip it.

    Each figure is moved by its uncertainty either way and the soil classified again; `closing` keeps figures that
    belong together (shares that add up to 100) together while one of them moves. `rounded_first`: percentages are
    compared as they are reported, whole.
    """
    decider = Decider(figures, source, rounded_first)
    try:
        symbol, name = classes(decider)
    except FigureMissing as missing:
        return Classified(system=system, source=source, path=tuple(decider.path), missing=(missing.figure,))
    flips: list[Flip] = []
    # The figure that moves keeps its decimals, the others stay as reported: 50.2 less 0.5 is below 50.
    stand = {k: f._replace(value=decider.value(k)) for k, f in figures.items()}
    for key, figure in figures.items():
        step = 0.5 if figure.uncertainty is None else figure.uncertainty
        for sign in (1, -1):
            moved = dict(stand)
            moved[key] = figure._replace(value=figure.value + sign * step)
            if closing:
                closing(moved, key, sign * step)
            other = Decider(moved, source)
            try:
                becomes, its_name = classes(other)
            except FigureMissing:
                continue
            if (becomes.partition("(")[0], its_name) == (symbol.partition("(")[0], name):
                continue  # a group index that moves by one is no other class
            turn = next(
                (a for a, b in zip(decider.path, other.path, strict=False) if (a.key, a.answer) != (b.key, b.answer)),
                decider.path[-1],
            )
            words = becomes if becomes != symbol else its_name
            flip = Flip(
                figure=key,
                found=f"{key} {plain(figure.value, 4)} ± {plain(step, 2)}",
                question=turn.question,
                becomes=words,
            )
            if flip not in flips:
                flips.append(flip)
    return Classified(
        system=system,
        source=source,
        symbol=symbol,
        name=name,
        path=tuple(decider.path),
        flips=tuple(flips),
        notes=tuple(decider.notes),
    )


def flip_verdict(found: Classified) -> Verdict | None:
    """One verdict that says how sure the class is; None while there is no class."""
    if not found.symbol:
        return None
    near = found.flips[0] if found.flips else None
    return Verdict(
        rule=f"{found.system} class is clear of its boundaries",
        level="watch" if near else "fine",
        found=f"{near.found}: could be {near.becomes}" if near else found.symbol,
        limit="no figure within its uncertainty of a boundary",
        source=found.source,
        remedy=f"Borderline: {near.question} Say both, or measure that figure better." if near else "",
    )
