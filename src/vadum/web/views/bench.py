"""The bench's words: the one next action, and what follows."""

from datetime import datetime
from typing import NamedTuple

from vadum.bench.foreman import Bench
from vadum.bench.moments import Moment
from vadum.soil.contract.times import clock, minutes_between, span


class NowLine(NamedTuple):
    """The one next action."""

    big: str
    big_note: str
    counts_to_ms: int | None
    what: str
    detail: str
    where: str
    href: str
    open_words: str


def href(moment: Moment) -> str:
    """The desk, at the very field; a reading that the clock calls is taken at the rack."""
    if moment.due.by == "clock":
        return f"/rack?pick={moment.run_code}"
    return f"/runs/{moment.run_code}" + (f"?field={moment.due.path}" if moment.due.path else "")


def now_line(bench: Bench, now: datetime) -> NowLine | None:
    """The bench's first line, or None with nothing in hand."""
    moment = bench.now
    if moment is None:
        return None
    due = moment.due
    where = f"{moment.run_code} · {moment.words} · {moment.method_title.lower()}"
    urgency = moment.urgency(now)
    if urgency == "hands":
        return NowLine(
            "now",
            f"about {span(due.hands_s / 60)} of hands",
            None,
            due.what,
            due.detail,
            where,
            href(moment),
            "Open it",
        )
    assert due.at is not None
    if due.at <= now:
        since = span(minutes_between(due.at, now))
        note = "ready; it keeps" if due.window_s is None else f"late by {since}; enter it with its true time"
        return NowLine(
            "ready" if due.window_s is None else "late",
            f"since {clock(due.at, now)}: {note}",
            None,
            due.what,
            due.detail,
            where,
            href(moment),
            "Open it",
        )
    left = minutes_between(now, due.at)
    counts = int(due.at.timestamp() * 1000)
    big = span(left) if left >= 600 else _digits(left)
    return NowLine(big, f"at {clock(due.at, now)}", counts, due.what, due.detail, where, href(moment), "Open it")


def _digits(minutes: float) -> str:
    seconds = round(minutes * 60)
    hours, rest = divmod(seconds, 3600)
    return f"{hours}:{rest // 60:02d}:{rest % 60:02d}" if hours else f"{rest // 60}:{rest % 60:02d}"


def rows(moments: tuple[Moment, ...], now: datetime) -> list[tuple[str, str, str, str]]:
    """Time, what, run and link of what follows."""
    found = []
    for moment in moments:
        urgency = moment.urgency(now)
        at = moment.due.at
        word = "when free" if at is None else ("ready" if urgency == "ready" else clock(at, now))
        found.append((word, moment.due.what, moment.run_code, href(moment)))
    return found
