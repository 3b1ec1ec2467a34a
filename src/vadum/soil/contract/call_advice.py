"""What now while something calls: the start, the call that is next, what is owed after a reading, and what is late."""

from datetime import datetime, timedelta

from vadum.soil.contract import paths
from vadum.soil.contract.called import Called
from vadum.soil.contract.fields import RecordPart
from vadum.soil.contract.outcome import Advice, Due
from vadum.soil.contract.times import clock, local, minutes_between, span
from vadum.soil.contract.timetable import due_at, dues, next_slot, words_of
from vadum.soil.contract.travel import rate_of

STANDSTILL_S = 120  # after so long without a reading nobody drives any more: it is work that waits; laboratory setting


def _capital(words: str) -> str:
    return words[:1].upper() + words[1:]


def start_advice(called: Called, record: RecordPart, now: datetime) -> Advice:
    """Begin what the clock calls: at the planned moment where there is one."""
    planned: datetime | None = paths.reading_at(record, called.plan_field) if called.plan_field else None
    before = called.prepares.replace("{}", called.words) or f"prepare {called.words}"
    long = f" for {span(called.start_s / 60)}" if called.start_s else ""
    starts = called.begins.replace("{}", called.words)
    headline = f"{_capital(before)}{long}; {starts}."
    detail = "Press Now at the moment it begins: time zero."
    wants = (called.begin_field,)
    if planned is None:
        due = Due(
            what=f"Start {called.words}",
            kind="hands",
            path=called.begin_field,
            hands_s=called.start_s + 60,
            label="start",
            detail="The rack says when it clashes with nothing else.",
        )
        return Advice(headline=headline, detail=detail, wants=wants, due=(due,))
    left = minutes_between(now, planned)
    due = Due(
        what=f"{_capital(starts)}: {called.words}",
        kind="reading",
        at=planned,
        since=planned - timedelta(seconds=called.start_s),
        path=called.begin_field,
        hands_s=called.start_s + 10,
        lead_s=called.start_s,
        window_s=15,
        label=f"{called.name} start".strip(),
        detail=f"{_capital(before)} for {called.start_s} s before." if called.start_s else "",
        by="clock",
    )
    return Advice(
        headline=headline,
        detail=detail,
        amount=f"{local(planned, now):%H:%M:%S}",
        amount_note=f"in {span(left)}" if left > 0 else "was planned",
        wants=wants,
        due=(due,),
    )


def _still_open(called: Called, record: RecordPart, now: datetime) -> Called:
    """A row that was begun for a reading never taken is not the next reading's row."""
    if called.open_row is None or not called.insert_field:
        return called
    begun = paths.reading_at(record, called.path(called.open_row, called.insert_field))
    stale = begun is not None and (now - begun).total_seconds() > called.most_open_s > 0
    return called._replace(open_row=None) if stale else called


def _owed(called: Called, record: RecordPart) -> str:
    """The path of what is still to be read after a reading; empty where nothing is."""
    if not called.after_field:
        return ""
    for i, row in enumerate(paths.reading_at(record, called.key) or ()):
        if called.only_row not in (None, i):
            continue
        read = getattr(row, called.reads[0]) is not None and not getattr(row, "excluded_because", None)
        if read and getattr(row, called.after_field) is None:
            return called.path(i, called.after_field)
    return ""


def clock_advice(called: Called, record: RecordPart, now: datetime) -> Advice | None:
    """What the clock calls now; None when it calls nothing more."""
    called = _still_open(called, record, now)
    made, slot = dues(called, now), next_slot(called, now)
    path = called.path(called.next_row)
    owed = _owed(called, record)
    if owed:
        field = paths.field_of(type(record), owed)
        what = f"{_capital((field.title if field else None) or called.after_field)} of {called.words}"
        due = Due(what=what, kind="hands", path=owed, hands_s=20, label="after it")
        return Advice(headline=f"{what}.", wants=(owed, path) if slot else (owed,), due=(due, *made))
    if slot is None:
        return None
    at, words = due_at(called, slot.at), words_of(called, slot.at)
    left = minutes_between(now, at)
    amount = f"{local(at, now):%H:%M:%S}" if left < 12 * 60 else clock(at, now)
    asked = tuple(called.path(called.next_row, f) for f in called.reads)
    wants = tuple(p for p in asked if paths.reading_at(record, p) is None) or asked
    window = called.window(slot.call)
    if window is not None and left * 60 < -window:
        return Advice(
            headline=f"{_capital(called.words)} at {words} is {span(-left)} late: {called.does} it now.",
            detail="It is kept with its true time.",
            amount=amount,
            amount_note="was due",
            wants=wants,
            due=made,
        )
    return Advice(
        headline=f"{_capital(called.does)} {called.words} at {words}.",
        detail=f"{made[0].detail} {called.how}".strip(),
        amount=amount,
        amount_note=f"in {span(left)}" if left > 0 else "now",
        wants=wants,
        due=made,
    )


def travel_advice(called: Called, gauge: str, begin: str, now: datetime, interval_s: float = 0.0) -> Advice | None:
    """What a travel or a depth calls now; None when it is over. With an interval the next reading falls due by it."""
    slot = next_slot(called, now)
    if slot is None:
        return None
    words, path = words_of(called, slot.at), called.path(called.next_row)
    last = next((one.moment for one in reversed(called.taken) if one.moment is not None), None)
    at = last + timedelta(seconds=interval_s) if last is not None and interval_s and slot.call else None
    if at is not None and (now - at).total_seconds() > STANDSTILL_S:
        at = None  # nobody drives any more: it is work that waits, no reading that falls due
    first = called.rows == 0
    headline = begin if first else f"Read {gauge} at {words}."
    rate = f", {called.pace.rate:g} {called.unit}/min" if called.pace else ""
    whole = 120 + int(60 * called.at[-1] / called.pace.rate) if called.pace else 120
    due = Due(
        what=f"Read {gauge} at {words}",
        kind="reading" if at else "hands",
        at=at,
        path=path,
        hands_s=8 if at else whole,
        window_s=6 if at else None,
        label=words,
        detail=f"{called.words}: {slot.call + 1} of {len(called.at)}.",
    )
    seen = rate_of(called) if called.pace else None
    pace = "" if seen is None or called.pace is None else f" {_capital(called.pace.word(seen))}: {seen:.2f}."
    return Advice(
        headline=headline,
        detail=f"{called.words}{rate}; a missed one is left empty.{pace}",
        amount=words,
        amount_note=f"{slot.call + 1} of {len(called.at)}",
        wants=tuple(called.path(called.next_row, f) for f in called.reads),
        due=(due,),
    )


def depth_advice(called: Called, record: RecordPart) -> Advice | None:
    """What a depth calls now: the readings of the depth in hand in their order, then the next depth; None when over."""
    if called.over and called.open_row is None:
        return None
    row = called.next_row
    at = called.at[row] if row < len(called.at) else None
    words = f"{at:.2f} {called.unit}" if at else "the next depth"
    wanted = [f for f in called.reads if paths.reading_at(record, called.path(row, f)) is None]
    if not wanted:
        return None
    headline, detail = called.says.get(wanted[0], ("", ""))
    if not headline:
        field = paths.field_of(type(record), called.path(row, wanted[0]))
        headline = f"{_capital((field.title if field else None) or wanted[0])} at {{}}."
    headline = headline.replace("{}", words)
    # What belongs to one visit of the hand is asked together; the next piece of work only when it is done.
    many = 1 if wanted[0] in called.alone else 2
    wants = tuple(called.path(row, f) for f in wanted[:many])
    due = Due(what=headline.rstrip("."), kind="hands", path=wants[0], hands_s=180, label=words)
    planned = f"{row + 1} of {len(called.at)}" if at is not None and row < len(called.at) else ""
    return Advice(headline=headline, detail=detail, amount=words, amount_note=planned, wants=wants, due=(due,))
