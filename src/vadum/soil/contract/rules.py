"""Rules as a table: what is compared with which limit, where, by whose word, and what to do when it does not hold.

A `Rule` looks at a method's facts and its school and gives what it saw: nothing while there is nothing to judge, one
`Seen`, or several. A plain generator of verdicts stands beside it in the same table for what is no figure against a
limit. `judge` turns a table into verdicts.
"""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from typing import Any, NamedTuple

from vadum.soil.contract import compare
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Level, Verdict

LABORATORY = "laboratory setting"
PHYSICS = "physics"
MOST_FIGURES = 12
STANDARD = ""  # the school's own standard


class Seen(NamedTuple):
    """What a rule saw. `value` and `limit_value` are there where a figure was compared with a limit.

    `just_now`: it is about the newest reading, so that it may be said at once.
    """

    held: bool
    found: str
    limit: str
    at: tuple[str, ...] = ()
    do: str = ""
    level: Level | None = None
    value: float | None = None
    limit_value: float | None = None
    upper: bool = True
    just_now: bool = True


Sight = Seen | Iterable[Seen] | None


def _with_unit(value: float, unit: str, digits: int) -> str:
    return f"{plain(value, digits)} {unit}".rstrip()


def at_most(
    value: float | None,
    limit: float | None,
    unit: str = "",
    words: str = "{}",
    *,
    digits: int = 4,
    limit_words: str = "{}",
    at: tuple[str, ...] = (),
    do: str = "",
    level: Level | None = None,
) -> Seen | None:
    """The value against its highest: None while either is not there. `{}` in the words is the figure with its unit.

    >>> at_most(3.2, 3.0, "mm", "{} lower inside than outside").found
    '3.2 mm lower inside than outside'
    """
    return _figure(value, limit, compare.at_most, True, unit, words, digits, limit_words, at, do, level)


def at_least(
    value: float | None,
    limit: float | None,
    unit: str = "",
    words: str = "{}",
    *,
    digits: int = 4,
    limit_words: str = "{} or more",
    at: tuple[str, ...] = (),
    do: str = "",
    level: Level | None = None,
) -> Seen | None:
    """The value against its least: None while either is not there."""
    return _figure(value, limit, compare.at_least, False, unit, words, digits, limit_words, at, do, level)


def _figure(
    value: float | None,
    limit: float | None,
    holds: Callable[[float, float], bool],
    upper: bool,
    unit: str,
    words: str,
    digits: int,
    limit_words: str,
    at: tuple[str, ...],
    do: str,
    level: Level | None,
) -> Seen | None:
    if value is None or limit is None:
        return None
    held = holds(value, limit)
    found = words.replace("{}", _with_unit(value, unit, digits if held else told_apart(value, limit, digits)))
    said = limit_words.replace("{}", _with_unit(limit, unit, 6))
    return Seen(held, found, said, at, do, level, value, limit, upper)


def told_apart(value: float, limit: float, digits: int) -> int:
    """The figures that a value needs to be seen beyond its limit: `2 (2 to 2.5)` says nothing.

    >>> told_apart(1.9991, 2.0, 3), told_apart(1.8, 2.0, 3)
    (4, 3)
    """
    while digits < MOST_FIGURES and plain(value, digits) == plain(limit, digits):
        digits += 1
    return digits


def within(
    value: float | None,
    band: tuple[float, float],
    unit: str = "",
    words: str = "{}",
    *,
    digits: int = 4,
    at: tuple[str, ...] = (),
    do: str = "",
    level: Level | None = None,
) -> Seen | None:
    """The value against a band, its ends among it: None while it is not there.

    >>> within(2.1, (0.6, 2.4), "Mg/m³").limit
    '0.6 to 2.4 Mg/m³'
    """
    if value is None:
        return None
    low, high = band
    nearest, held = high if value > (low + high) / 2 else low, compare.within(value, low, high)
    found = words.replace("{}", _with_unit(value, unit, digits if held else told_apart(value, nearest, digits)))
    limit = f"{plain(low)} to {_with_unit(high, unit, 4)}"
    return Seen(held, found, limit, at, do, level, value, nearest, nearest == high)


def said(
    held: bool | None, found: str, limit: str, at: tuple[str, ...] = (), do: str = "", level: Level | None = None
) -> Seen | None:
    """What is no figure: whether it held, in words; None while there is nothing to say."""
    return None if held is None else Seen(held, found, limit, at, do, level)


@dataclass(frozen=True)
class Rule:
    """One rule. `name` says the good case; `do` what to do when it does not hold; `level` how grave that is.

    `sees(facts, school)` compares. `at_once` is said while the work runs, where hands and eyes are busy: there is no
    second copy of the rule as an alarm. `source` empty: the school's own standard.
    """

    name: str
    sees: Callable[[Any, Any], Sight] = field(repr=False)
    at: tuple[str, ...] = ()
    source: str = STANDARD
    level: Level = "redo"
    do: str = ""
    affects: tuple[str, ...] = ()
    at_once: bool = False

    def seen(self, facts: Any, school: Any) -> tuple[Seen, ...]:
        """What it sees now."""
        sight = self.sees(facts, school)
        return () if sight is None else (sight,) if isinstance(sight, Seen) else tuple(sight)

    def __call__(self, facts: Any, school: Any) -> Iterator[Verdict]:
        """A verdict for each thing that it sees."""
        for one in self.seen(facts, school):
            yield Verdict(
                rule=self.name,
                level="fine" if one.held else one.level or self.level,
                found=one.found,
                limit=one.limit,
                source=self.source or school.standard,
                remedy="" if one.held else one.do or self.do,
                at=one.at or self.at,
                affects=self.affects,
            )


Judge = Callable[[Any, Any], Iterable[Verdict]]


def judge(rules: Iterable[Judge], facts: Any, school: Any) -> tuple[Verdict, ...]:
    """Every rule of a table in turn."""
    return tuple(verdict for rule in rules for verdict in rule(facts, school))


@dataclass(frozen=True)
class Forecast:
    """What is foreseen while the work runs: said at once, and never on the sheet, where it is past.

    `says(facts, school)` is one sentence; empty while nothing is foreseen.
    """

    name: str
    says: Callable[[Any, Any], str] = field(repr=False)

    def __call__(self, facts: Any, school: Any) -> Iterator[Verdict]:
        """No verdict."""
        return iter(())


def alarm(rules: Iterable[Judge], facts: Any, school: Any) -> tuple[str, bool]:
    """What must be said at once, in one sentence, and whether it is grave: the first `at_once` rule that does not
    hold; else what is foreseen, which is not. An empty text while there is nothing."""
    foreseen = ""
    for rule in rules:
        if isinstance(rule, Forecast):
            foreseen = foreseen or rule.says(facts, school)
        if isinstance(rule, Rule) and rule.at_once:
            for one in rule.seen(facts, school):
                if not one.held and one.just_now:
                    return f"{one.found[0].upper()}{one.found[1:]}. {one.do or rule.do}", True
    return foreseen, False


def name_of(rule: Judge) -> str:
    """What a rule of a table is called: its name, or a generator's first line."""
    named = getattr(rule, "name", "")
    if named:
        return str(named)
    words = str(rule.__doc__ or getattr(rule, "__name__", ""))
    return words.strip().splitlines()[0].rstrip(".")
