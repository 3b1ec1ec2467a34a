"""What a practice desk shows beside the method's own: the apparatus' answers, the motor, the time that may pass."""

from datetime import datetime
from typing import Any

from vadum.recording.what_is_called import pushed_now
from vadum.soil.contract.outcome import Advice
from vadum.soil.contract.times import span
from vadum.soil.practice import answers
from vadum.tape import practice_runs as practised
from vadum.tape.runs import Read


def practising(read: Read, advice: Advice, now: datetime) -> dict[str, Any] | None:
    """The practice bar's data; None for a real run."""
    seed = practised.practice_seed(read)
    if seed is None:
        return None
    record = read.folded.record
    called = pushed_now(read, advice.wants) if read.method.practice.address else None
    pushing = called is not None
    ahead = [d.at for d in advice.due if d.at is not None and d.at > now] if not pushing else []
    wait_s = (min(ahead) - now).total_seconds() if ahead else 0.0
    shown = answers(read.method, read.school, seed, record, advice.wants) if read.run.in_hand else ()
    return {
        "answers": shown,
        "pushing": bool(pushing),
        "pumps": called is not None and called.by == "load",
        "by_hand": read.method.practice.by_hand,
        "rates": read.method.practice.rates,
        "dials": read.method.practice.dials(read.facts, called) if called else (),
        "wait_s": round(wait_s) if wait_s > 5 else 0,
        "wait_words": span(wait_s / 60),
    }
