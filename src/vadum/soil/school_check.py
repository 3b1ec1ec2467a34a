"""Whether a school may be worked by: the trials that every shipped school has to pass, run on any."""

import math
from collections.abc import Iterator
from datetime import UTC, datetime
from typing import Any

from vadum.soil.contract.fields import unit_of
from vadum.soil.contract.method import Method
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Outcome
from vadum.soil.contract.school import School, settings_of
from vadum.soil.contract.working import recomputed

SEEDS = range(12)
NOW = datetime(2026, 1, 9, 9, 0, tzinfo=UTC)
FARTHEST = 100.0  # times beyond what any shipped school sets
WHERE_NONE_SETS_IT = (0.01, 100.0)  # the range taken for what every shipped school leaves at nought or empty
LIMITS = ("most_", "least_", "within", "tolerance")  # settings of which nought may be meant: nothing is let pass
SAME_RELATIVE, SAME_ABSOLUTE = 1e-9, 1e-9


def _on_virtual_soil(its: Method, school: Any, seed: int) -> Iterator[str]:
    """What goes wrong on a virtual soil of which the truth is known."""
    trial = its.virtual(seed, school, None)
    outcome: Outcome = its.outcome(trial.record, school)
    for verdict in outcome.verdicts:
        if verdict.level in ("stop", "redo"):
            yield f"soil {seed}, measured well: {verdict.level}, {verdict.rule}: {verdict.found} ({verdict.limit})"
    for key, truth in trial.truth.items():
        value = outcome.value(key)
        if value is None or value.value is None:
            yield f"soil {seed}: no {key} comes out"
        elif abs(value.value - truth) > trial.tolerance[key]:
            yield f"soil {seed}: {key} comes out at {value.value:.4g}, its truth is {truth:.4g}"
    for line in outcome.working:
        if not math.isclose(recomputed(line), line.value, rel_tol=SAME_RELATIVE, abs_tol=SAME_ABSOLUTE):
            yield f"soil {seed}: the working of {line.gives} does not come to its value"


def _on_nothing(its: Method, school: Any) -> Iterator[str]:
    """What goes wrong before the first reading."""
    empty = its.judge(its.Record(), school, NOW)
    if empty.advice is None or not empty.advice.headline:
        yield "an empty record: no advice what to do first"
    if any(v.reportable for v in empty.values):
        yield "an empty record: values come out of nothing"


def _numbers_in(value: Any) -> Iterator[float]:
    if isinstance(value, tuple | list):
        for one in value:
            yield from _numbers_in(one)
    elif isinstance(value, int | float) and not isinstance(value, bool):
        yield abs(value)


def far_off(its: Method, school: School) -> dict[str, str]:
    """The settings with a number a hundred times beyond what any shipped school of the method sets, each with the words
    for it: a unit was mistaken there, and a trial by it might not end for days. Nought is a limit that may be meant;
    of a density, a size, a rate, a duration or an error it is none, where no shipped school sets it."""
    found = {}
    for name, _ in settings_of(type(school)):
        set_elsewhere = [n for other in its.schools.shipped.values() for n in _numbers_in(getattr(other, name))]
        usual = [n for n in set_elsewhere if n]
        low, high = (min(usual), max(usual)) if usual else WHERE_NONE_SETS_IT
        for number in _numbers_in(getattr(school, name)):
            if not number and usual and 0 not in set_elsewhere and not any(word in name for word in LIMITS):
                found[name] = "cannot be 0"
            elif number and not low / FARTHEST <= number <= high * FARTHEST:
                unit = f" {unit_of(name)}".rstrip()
                usually = "" if not usual else f" ({plain(low)}{f' to {plain(high)}' if high > low else ''}{unit})"
                found[name] = f"{plain(number)}{unit} is far from what any school sets{usually}: is the unit right?"
    return found


def faults(its: Method, school: School) -> list[str]:
    """What is wrong with a school of a method; empty when it passes every trial. Each fault is said once."""
    found = [f"{name}: {words}" for name, words in far_off(its, school).items()]
    if found:
        return found
    try:
        found += _on_nothing(its, school)
        for seed in SEEDS:
            found += _on_virtual_soil(its, school, seed)
    except Exception as error:  # whatever foreign numbers make of a reduction is a fault of theirs
        return [*found, f"the reduction stops: {type(error).__name__}, {error}"]
    base = its.schools.get(school.based_on)
    for mistake, words in its.mistakes.items() if base else ():
        if _unnoticed(its, school, mistake) and not _unnoticed(its, base, mistake):
            found.append(f"the usual mistake {words!r} goes unnoticed, as it does not by {school.based_on}")
    return found


def _unnoticed(its: Method, school: Any, mistake: str) -> bool:
    """Whether a usual mistake passes without a word."""
    worst = (its.outcome(its.virtual(seed, school, mistake).record, school).worst() for seed in SEEDS[:4])
    return "fine" in worst
