"""What stands on a sheet beside its test: laboratory, client and sample; and how it writes figures and days."""

from datetime import tzinfo
from typing import Any, NamedTuple

from vadum.soil.contract.outcome import Frozen
from vadum.soil.contract.shown_units import SI, Style, converted, in_decimals, unit_shown
from vadum.tape.ground import Place
from vadum.tape.identity import Identity
from vadum.tape.runs import Read
from vadum.tape.signatures import signed_values

# What a program reads, a name or a standard's number: it keeps its points.
AS_THEY_ARE = ("code", "number", "mathml", "typst", "tape", "ledger", "hash", "mark", "accreditation_mark", "source")


class Days(NamedTuple):
    """The zone whose clocks a sheet shows, and how it writes figures and days."""

    zone: tzinfo | None = None
    style: Style = SI


class Letterhead(Frozen):
    """Who the laboratory is, as it stands on top: its name, lines beneath, what it is accredited for, and its marks'
    file names; `accredited` says whether this sheet's method is."""

    name: str = ""
    lines: tuple[str, ...] = ()
    accreditation: str = ""
    accredited: bool = False
    mark: str = ""
    accreditation_mark: str = ""


def units_of(style: Style) -> str:
    """What a sheet says of its units; empty where they are those of the readings."""
    if style.units == "SI":
        return ""
    results = f"Results in US customary units ({style.stress} for stress)"
    return f"{results}; readings, and the rules that judge them, as they were read."


def sheet_number(read: Read) -> str:
    """The sheet's own number: its run, and how often it was signed; empty before. A sheet that was signed anew is
    another one, and names what it takes the place of."""
    many = sum(e.path == "@signed" for e in read.folded.events)
    return f"{read.run.code}/{many}" if many else ""


def replaces(read: Read) -> str:
    """Which sheet this one takes the place of, why, and what it changed; empty for a first one.

    Source: ISO/IEC 17025, amended reports: a reference to the report that is replaced, the changes identified.
    """
    signed = [e for e in read.folded.events if e.path == "@signed"]
    if len(signed) < 2:
        return ""
    before, now = signed[-2], signed[-1]
    reopened = [e for e in read.folded.events if e.path == "@reopened" and before.seq < e.seq < now.seq]
    reason = f": {reopened[-1].reason}" if reopened and reopened[-1].reason else ""
    old, new = signed_values(before), signed_values(now)
    names = {v.key: f"{v.name}, {v.unit}" if v.unit else v.name for v in read.outcome.values}
    changed = [
        f"{names.get(key, key)}: {old.get(key, 'not reported')} before, {new.get(key, 'not reported')} now"
        for key in dict.fromkeys((*old, *new))
        if old.get(key) != new.get(key)
    ]
    words = "; ".join(changed) if changed else "no reported value changed"
    return f"Replaces sheet {read.run.code}/{len(signed) - 1}{reason}. {words[:1].upper()}{words[1:]}."


def letterhead_of(read: Read, who: Identity) -> Letterhead:
    """The laboratory on top of a run's sheet; the accreditation's mark only where the method is within it."""
    marks = {key: f"{key}.{mark.suffix}" for key, mark in who.marks.items()}
    yes = who.is_accredited(read.method.name)
    return Letterhead(
        name=who.name,
        lines=who.lines,
        accreditation=who.accreditation,
        accredited=yes,
        mark=marks.get("mark", ""),
        accreditation_mark=marks.get("accreditation", "") if yes else "",
    )


def client_of(place: Place) -> tuple[tuple[str, str], ...]:
    """For whom the job is done, each with what they are to it."""
    job = place.job
    named = (("client", job.client), ("contract", job.contract), ("engineer", job.engineer))
    return tuple((word, text) for word, text in (*named, ("contractor", job.contractor)) if text)


def facts_of_sample(place: Place, style: Style) -> tuple[tuple[str, str], ...]:
    """What a report says of the sample: when it was taken and came in, how it was and how much of it."""
    sample = place.sample
    found = []
    if sample.sampled_at is not None:
        found.append(("sampled", f"{sample.sampled_at.strftime(style.day_format)}"))
    if sample.received_on is not None:
        found.append(("received", f"{sample.received_on.strftime(style.day_format)}"))
    if sample.condition:
        found.append(("condition", sample.condition))
    if sample.quality:
        found.append(("sample class", sample.quality))
    return tuple(found)


def depths_of(place: Place, style: Style) -> str:
    """From where to where the sample was taken, in the units of the sheet."""
    top, bottom = place.sample.depth_top_m, place.sample.depth_bottom_m
    if top is None:
        return ""
    other = unit_shown("m", style)
    ends = [converted(z, other) if other else z for z in (top, bottom) if z is not None]
    return f", {'–'.join(f'{z:.2f}' for z in ends)} {other.sign if other else 'm'}"


def in_decimals_throughout(value: Any, sign: str) -> Any:
    """Whatever a sheet holds with its figures written with the sign; what a program reads (formulas, hashes) is not."""
    if isinstance(value, str):
        return in_decimals(value, sign)
    if isinstance(value, Frozen):
        kept = {n: getattr(value, n) for n in type(value).model_fields}
        written = {n: v if n in AS_THEY_ARE else in_decimals_throughout(v, sign) for n, v in kept.items()}
        return value.model_copy(update=written)
    if isinstance(value, tuple):
        return tuple(in_decimals_throughout(v, sign) for v in value)
    return value
