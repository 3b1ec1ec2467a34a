"""How a value and a verdict are shown, made once: the page, the PDF, the CSV and the JSON all say the same."""

from vadum.soil.contract.outcome import LEVELS, Frozen, Level, Outcome, Value, Verdict
from vadum.soil.contract.shown_units import SI, Style, spread_as, worth

SENTENCE = 40  # a text longer than so many letters takes a line of its own
UNTIL_DRY = "until the tins are dry"


class ShownValue(Frozen):
    """A value as it is read: its number or its words, its unit, its scatter, and how it is qualified.

    `qualified` is what paper says of a value that is no result yet; `so_far` what the desk says of it. `leads`: the
    result that the method is run for. `sentence`: words that take a line of their own.
    """

    key: str
    name: str
    symbol: str
    reported: str
    unit: str = ""
    scatter: str = ""
    qualified: str = ""
    so_far: str = ""
    withheld: bool = False
    final: bool = True
    leads: bool = False
    sentence: bool = False


class ShownVerdict(Frozen):
    """A rule as it is read: what it found, what it allows, and what to do. `asks`: it is not *fine*."""

    level: Level
    rule: str
    found: str
    limit: str
    source: str
    remedy: str = ""
    at: tuple[str, ...] = ()

    @property
    def asks(self) -> bool:
        """Whether somebody has to do or know something."""
        return self.level != "fine"


def _until_words(until: str) -> str:
    """How long something is an estimate, as the desk says it.

    >>> _until_words("a steady fall"), _until_words("so far"), _until_words(UNTIL_DRY)
    ('until a steady fall', 'so far', 'until the tins are dry')
    """
    return until if until == "so far" or until.startswith("until") else f"until {until}"


def _in_units(value: Value, style: Style) -> tuple[str, str, str]:
    """What is reported, its unit and its scatter, in the units that are shown."""
    unit = value.unit if value.value is not None else ""
    reported, sign = worth(value.reported, value.value, unit, style, value.key)
    if value.uncertainty is None or not value.uncertainty_tells:
        return reported, sign, ""
    # A figure whose text stayed in its unit keeps its scatter there.
    return reported, sign, spread_as(value.uncertainty, unit, style if sign != unit else SI, value.key)


def shown_value(value: Value, leads: tuple[str, ...] = (), style: Style = SI) -> ShownValue:
    """A value as every door shows it, in the units of a style.

    >>> v = Value(key="w_percent", symbol="w", name="water content", value=31.26, unit="%", reported="31.3",
    ...           uncertainty=0.21, provisional=True)
    >>> shown = shown_value(v, ("w_percent",))
    >>> shown.reported, shown.scatter, shown.qualified, shown.leads
    ('31.3', '± 0.21', 'provisional', True)
    """
    qualified = so_far = ""
    if value.withheld:
        qualified = "withheld"
    elif value.estimate:
        qualified, so_far = "estimate, not reported", _until_words(value.until or UNTIL_DRY)
    elif value.provisional:
        qualified = so_far = "provisional"
    reported, unit, scatter = _in_units(value, style)
    return ShownValue(
        key=value.key,
        name=value.name,
        symbol=value.symbol,
        reported=reported,
        unit=unit,
        scatter=f"± {scatter}" if scatter else "",
        qualified=qualified,
        so_far=so_far,
        withheld=value.withheld,
        final=value.final,
        leads=value.key in leads,
        sentence=len(value.reported) > SENTENCE,
    )


def shown_values(outcome: Outcome, leads: tuple[str, ...] = (), style: Style = SI) -> tuple[ShownValue, ...]:
    """Every value: those that lead first, in the order of `leads`, then the others as they were given."""
    found = (shown_value(v, leads, style) for v in outcome.values)
    return tuple(sorted(found, key=lambda v: leads.index(v.key) if v.leads else len(leads)))


def shown_verdict(verdict: Verdict) -> ShownVerdict:
    """A verdict as every door shows it."""
    return ShownVerdict.model_validate(verdict.model_dump(exclude={"affects"}))


def shown_verdicts(outcome: Outcome) -> tuple[ShownVerdict, ...]:
    """Every verdict, the gravest first; of one level in the order they were judged."""
    ordered = sorted(outcome.verdicts, key=lambda v: LEVELS.index(v.level))
    return tuple(shown_verdict(v) for v in ordered)
