"""What templates show in the units and signs of whoever looks: the arithmetic is the science's own."""

from datetime import date, datetime

from jinja2 import pass_context
from jinja2.runtime import Context

from vadum.soil.contract.outcome import Outcome
from vadum.soil.contract.shown import ShownValue, shown_values
from vadum.soil.contract.shown_units import SI, Style, spread_as, unit_shown, worth
from vadum.soil.contract.times import local


def _style(context: Context) -> Style:
    found = context.get("style")
    return found if isinstance(found, Style) else SI


@pass_context
def values(context: Context, outcome: Outcome, leads: tuple[str, ...] = ()) -> tuple[ShownValue, ...]:
    """The values of an outcome."""
    return shown_values(outcome, leads, _style(context))


@pass_context
def unit(context: Context, written: str) -> str:
    """The sign that stands for a unit."""
    other = unit_shown(written, _style(context))
    return other.sign if other else written


@pass_context
def worth_apart(context: Context, reported: str, value: float | None, written: str, key: str = "") -> tuple[str, str]:
    """A result as it is reported, and its unit; `key` the result's."""
    return worth(reported, value, written, _style(context), key)


@pass_context
def worth_with_unit(context: Context, reported: str, value: float | None, written: str, key: str = "") -> str:
    """Both in one text."""
    return " ".join(filter(None, worth_apart(context, reported, value, written, key)))


@pass_context
def figure(context: Context, value: float, written: str, spec: str) -> str:
    """A figure by a printf `spec`, without its unit."""
    return worth(spec % value, value, written, _style(context))[0]


@pass_context
def spread(context: Context, value: float, written: str, spec: str = "%.2g", key: str = "") -> str:
    """A difference or a scatter, with its unit; `key` the result's."""
    style = _style(context)
    sign = worth("0", 0.0, written, style, key)[1]
    return f"{spread_as(value, written, style, key, spec)} {sign}".rstrip()


@pass_context
def day(context: Context, when: date | datetime) -> str:
    """A day; of a moment, its day in the laboratory's zone."""
    now = context.get("now")
    if isinstance(when, datetime) and isinstance(now, datetime):
        when = local(when, now)
    return when.strftime(_style(context).day_format)


FILTERS = {"day": day, "unit": unit, "figure": figure, "spread": spread}
