"""A statement that a result meets what a job requires, and the decision rule it is made by."""

from typing import Literal

from vadum.soil.contract.compare import at_least
from vadum.soil.contract.numerics import plain

Decision = Literal["off", "simple acceptance", "guard band"]


def statement(value: float, required: float, decision: Decision, guard: float, unit: str = "%") -> str:
    """Whether a value of at least `required` is shown, in words that name the rule; empty where none is to be made.

    Parameters: `value`, `required` and the guard band `guard` (the expanded uncertainty U) in one `unit`.
    Returns: a sentence.
    Source: ISO/IEC 17025, decision rules; simple acceptance, or a guard band of U on either side of the limit.

    >>> statement(95.4, 95.0, "simple acceptance", 1.0)
    'conforms to 95 % or more; simple acceptance'
    >>> statement(95.4, 95.0, "guard band", 1.0)
    'neither conforms to 95 % or more nor fails it; guard band 1 %'
    >>> statement(93.9, 95.0, "guard band", 1.0)
    'does not conform to 95 % or more; guard band 1 %'
    """
    limit = f"{plain(required)} {unit} or more"
    if decision == "off":
        return ""
    if decision == "simple acceptance":
        return f"{'conforms' if at_least(value, required) else 'does not conform'} to {limit}; simple acceptance"
    words = f"guard band {plain(guard)} {unit}"
    if at_least(value - guard, required):
        return f"conforms to {limit}; {words}"
    if at_least(value + guard, required):
        return f"neither conforms to {limit} nor fails it; {words}"
    return f"does not conform to {limit}; {words}"
