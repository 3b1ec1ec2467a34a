"""Values and their working, gathered in the order in which a reduction finds them."""

from collections.abc import Mapping
from typing import Protocol

from vadum.soil.contract.numerics import rounded
from vadum.soil.contract.outcome import Line, Value

LEAST_UNCERTAINTY = 1e-9  # of the value: below it is the machine's rounding, of determinations that were equal


def _telling(uncertainty: float | None, value: float) -> float | None:
    """An uncertainty that says something; None for none at all: equal determinations are not without error."""
    return uncertainty if uncertainty is not None and uncertainty > LEAST_UNCERTAINTY * abs(value) else None


class Weighed(Protocol):
    """A tin whose water content can be worked out."""

    def line(self, gives: str) -> Line:
        """The working of its water content."""
        ...


class Results:
    """Collects what a reduction gives: each value with the line of working that recomputes it."""

    def __init__(self, source: str, provisional: bool = False) -> None:
        self.source, self.provisional = source, provisional
        self.values: list[Value] = []
        self.working: list[Line] = []

    def work(
        self,
        gives: str,
        symbol: str,
        formula: str,
        inputs: Mapping[str, float],
        value: float,
        unit: str = "",
        *,
        source: str = "",
        note: str = "",
    ) -> float:
        """A line of working alone, for a figure on the way; gives its value back."""
        line = Line(
            gives=gives,
            symbol=symbol,
            formula=formula,
            inputs=dict(inputs),
            value=value,
            unit=unit,
            source=source or self.source,
            note=note,
        )
        self.working.append(line)
        return value

    def give(
        self,
        key: str,
        symbol: str,
        name: str,
        value: float,
        unit: str,
        step: float,
        formula: str,
        inputs: Mapping[str, float],
        *,
        source: str = "",
        note: str = "",
        uncertainty: float | None = None,
        provisional: bool | None = None,
        estimate: bool = False,
        until: str = "",
        reported: str = "",
    ) -> float:
        """A value, reported to a multiple of `step` unless it is `reported` otherwise, with its line of working; gives
        the value back."""
        self.values.append(
            Value(
                key=key,
                symbol=symbol,
                name=name,
                value=value,
                unit=unit,
                reported=reported or rounded(value, step),
                uncertainty=_telling(uncertainty, value),
                provisional=self.provisional if provisional is None else provisional,
                estimate=estimate,
                until=until,
            )
        )
        return self.work(key, symbol, formula, inputs, value, unit, source=source, note=note)

    def give_water(self, key: str, name: str, tin: "Weighed", *, provisional: bool | None = None) -> float:
        """The water content of a tin whose three masses are known, with its working."""
        line = tin.line(key)
        return self.give(
            key, "w", name, line.value, "%", 0.1, line.formula, line.inputs, source=line.source, provisional=provisional
        )

    def withhold(self, key: str, symbol: str, name: str, unit: str) -> None:
        """A value that cannot be reported by what was read: it is named, and its number is not."""
        self.values.append(
            Value(key=key, symbol=symbol, name=name, value=None, unit=unit, reported="withheld", withheld=True)
        )

    def say(self, key: str, symbol: str, name: str, unit: str, words: str, *, provisional: bool = False) -> None:
        """A result that is no number, such as `finer than 0.075`."""
        self.values.append(
            Value(key=key, symbol=symbol, name=name, value=None, unit=unit, reported=words, provisional=provisional)
        )
