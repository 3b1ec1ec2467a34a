"""What a reduction gives: values, verdicts, working, series and advice, one frozen style for all methods."""

from datetime import datetime
from typing import Literal

from pydantic import BaseModel, ConfigDict

Level = Literal["stop", "redo", "watch", "fine"]
LEVELS: tuple[Level, ...] = ("stop", "redo", "watch", "fine")
Cell = float | int | str | bool | None


class Frozen(BaseModel):
    """Base of everything that leaves a room."""

    model_config = ConfigDict(frozen=True, extra="forbid", ser_json_inf_nan="null", defer_build=True)


class Value(Frozen):
    """One parameter. `value` keeps full precision; `reported` is rounded once, by the school's rule.

    An `estimate` may guide the hands and is never reported; `until` says how long it is one. A `withheld` value has
    earned a stop verdict: its number is gone from here and stands in the working alone. `uncertainty` is one standard
    uncertainty, `uncertainty_holds` what it holds, in words.
    """

    key: str
    symbol: str
    name: str
    value: float | None
    unit: str
    reported: str
    uncertainty: float | None = None
    uncertainty_holds: str = ""
    provisional: bool = False
    estimate: bool = False
    until: str = ""
    withheld: bool = False

    @property
    def uncertainty_tells(self) -> bool:
        """Whether the uncertainty says more than the rounding: a tenth of the last digit or more."""
        if self.uncertainty is None:
            return False
        digits = len(self.reported.partition(".")[2])
        return self.uncertainty >= 0.1 * 10.0**-digits

    @property
    def final(self) -> bool:
        """Whether it may be signed for, as a number or as words: nothing provisional, estimated or withheld."""
        return not (self.provisional or self.estimate or self.withheld)

    @property
    def reportable(self) -> bool:
        """Whether the value may go on a signed sheet as a result."""
        return self.value is not None and self.final


class Missing(Frozen):
    """A value that is still to come, and what it waits for."""

    name: str
    waits_for: str
    at: str = ""


class Verdict(Frozen):
    """One rule checked. `affects` names the values a stop or redo touches; empty means all."""

    rule: str
    level: Level
    found: str
    limit: str
    source: str
    remedy: str = ""
    at: tuple[str, ...] = ()
    affects: tuple[str, ...] = ()


class Line(Frozen):
    """One line of working: the formula as plain arithmetic on `inputs`, and the result it gives.

    `last_digits` is how far the last digits of the readings alone move it: no uncertainty of the result.
    """

    gives: str
    symbol: str
    formula: str
    inputs: dict[str, float]
    value: float
    unit: str
    source: str
    note: str = ""
    last_digits: float | None = None


class Due(Frozen):
    """A moment that asks for hands. `at` None: whenever hands are free.

    The hands are taken for `hands_s`, beginning `lead_s` before the moment (a hydrometer goes in before it is read).
    `by` is "clock" where a timetable calls: such a moment is answered at the rack.
    """

    what: str
    kind: Literal["hands", "reading", "wait"]
    at: datetime | None = None
    since: datetime | None = None
    path: str = ""
    hands_s: int = 60
    window_s: int | None = None
    lead_s: int = 0
    detail: str = ""
    label: str = ""
    by: str = ""


class Advice(Frozen):
    """What now: one headline, the amount it turns on, the fields to fill next, and what falls due.

    `alarm` is what must be said at once while hands and eyes are busy; `grave`: something is wrong, not foreseen.
    """

    headline: str
    detail: str = ""
    amount: str = ""
    amount_note: str = ""
    wants: tuple[str, ...] = ()
    due: tuple[Due, ...] = ()
    finished: bool = False
    alarm: str = ""
    grave: bool = False


Table = tuple[dict[str, Cell], ...]


class Outcome(Frozen):
    """All that a record gives under a school."""

    method: str
    school: str
    values: tuple[Value, ...] = ()
    missing: tuple[Missing, ...] = ()
    verdicts: tuple[Verdict, ...] = ()
    working: tuple[Line, ...] = ()
    series: dict[str, Table] = {}
    advice: Advice | None = None

    def value(self, key: str) -> Value | None:
        """The value of that key, or None."""
        return next((v for v in self.values if v.key == key), None)

    def worst(self) -> Level:
        """The gravest level among the verdicts; `fine` when there is none."""
        levels = {v.level for v in self.verdicts}
        return next((level for level in LEVELS if level in levels), "fine")


def judged(outcome: Outcome) -> Outcome:
    """The outcome with its values marked by its verdicts: stop withholds, redo makes provisional."""

    def touches(verdict: Verdict, key: str) -> bool:
        return not verdict.affects or key in verdict.affects

    values = []
    for value in outcome.values:
        levels = {v.level for v in outcome.verdicts if touches(v, value.key)}
        if "stop" in levels:
            value = value.model_copy(
                update={"value": None, "reported": "withheld", "uncertainty": None, "withheld": True}
            )
        elif "redo" in levels:
            value = value.model_copy(update={"provisional": True})
        values.append(value)
    order = {level: i for i, level in enumerate(LEVELS)}
    verdicts = sorted(outcome.verdicts, key=lambda v: order[v.level])
    return outcome.model_copy(update={"values": tuple(values), "verdicts": tuple(verdicts)})
