"""The common shapes of advice: ask for fields, and say that nothing is left but to sign."""

from vadum.soil.contract.fields import RecordPart
from vadum.soil.contract.outcome import Advice, Due, Outcome


def ask(
    headline: str,
    detail: str,
    wants: tuple[str, ...],
    hands_s: int,
    label: str,
    *,
    amount: str = "",
    amount_note: str = "",
) -> Advice:
    """Hands are wanted now: what to do, the fields it fills, and about how long it takes."""
    due = Due(what=headline.rstrip("."), kind="hands", path=wants[0], hands_s=hands_s, label=label)
    return Advice(headline=headline, detail=detail, amount=amount, amount_note=amount_note, wants=wants, due=(due,))


def still_open(record: RecordPart, *fields: str) -> tuple[str, ...]:
    """Those of the fields that hold no reading yet."""
    return tuple(f for f in fields if getattr(record, f) is None)


def fault(outcome: Outcome, wants: tuple[str, ...] = ()) -> Advice | None:
    """What to do about the gravest stop or redo; None when every rule holds well enough to sign."""
    found = next((v for v in outcome.verdicts if v.level in ("stop", "redo")), None)
    return Advice(headline=found.remedy or found.found, detail=found.found, wants=wants) if found else None


def done(detail: str, wants: tuple[str, ...] = ()) -> Advice:
    """Finished; the sheet can be signed."""
    return Advice(headline="Done. The sheet can be signed.", detail=detail, wants=wants, finished=True)
