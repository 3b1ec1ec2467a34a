"""Verdicts in one line each: a rule that held, or what to do because it did not."""

from collections.abc import Iterable, Iterator

from vadum.soil.contract.fields import known
from vadum.soil.contract.outcome import Level, Verdict


def ruling(
    rule: str,
    held: bool,
    found: str,
    limit: str,
    source: str,
    remedy: str,
    at: tuple[str, ...] = (),
    *,
    otherwise: Level = "redo",
    affects: tuple[str, ...] = (),
) -> Verdict:
    """*Fine* when the rule held, else `otherwise` with its remedy."""
    return Verdict(
        rule=rule,
        level="fine" if held else otherwise,
        found=found,
        limit=limit,
        source=source,
        remedy="" if held else remedy,
        at=at,
        affects=affects,
    )


def possible(
    readings: Iterable[tuple[str, str, float | int | None]],
    *,
    low: float = 0.0,
    high: float = float("inf"),
    strictly: bool = False,
    unit: str = "",
    affects: tuple[str, ...] = (),
) -> Iterator[Verdict]:
    """A stop for each reading (path, words, value) that lies outside what can be; nothing for those that can."""
    for path, words, value in readings:
        if value is None:
            continue
        if known(value) and (low < value if strictly else low <= value) and value <= high:
            continue
        top = "" if high == float("inf") else f", at most {high:g}"
        yield Verdict(
            rule="a reading is a number that can be",
            level="stop",
            found=f"{words} reads {value:g}{' ' + unit if unit else ''}",
            limit=f"{'above' if strictly else 'from'} {low:g}{top}{' ' + unit if unit else ''}",
            source="physics",
            remedy="Look again and strike this reading.",
            at=(path,),
            affects=affects,
        )
