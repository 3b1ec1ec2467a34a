"""The hand that writes the demo: through the same doors as a person, at times of its own choosing."""

import random
import uuid
from collections.abc import Iterable
from datetime import datetime, timedelta
from typing import Any

from sqlmodel import Session

from vadum.tape import kit, posting, runs
from vadum.tape.entries import NewEntry, Taped, read_tape
from vadum.tape.ground import Place
from vadum.tape.tables import Person, Run


class Builder:
    """Writes the demo through the same doors as a person, at times of its own choosing."""

    def __init__(self, session: Session, now: datetime) -> None:
        self.session, self.now = session, now.replace(second=0, microsecond=0)
        self.dice = random.Random(71)
        self.places: dict[str, Place] = {}
        self.people: dict[str, Person] = {}
        self.numbers = 0
        self.tapes: dict[str, list[Taped]] = {}

    def ago(self, **length: float) -> datetime:
        """A moment before now."""
        return self.now - timedelta(**length)

    def read(self, run: Run, at: datetime, values: Iterable[tuple[str, Any]], by: str = "IM") -> None:
        """Readings one after the other, twenty seconds apart."""
        # The tape as it grows under this hand; steps and signatures that are added elsewhere make it be read again.
        entries = self.tapes.get(run.code)
        if entries is None or entries[-1].seq != run.last_seq:
            entries = self.tapes[run.code] = read_tape(self.session, run.id or 0)
        for i, (path, value) in enumerate(values):
            self.numbers += 1
            entry = NewEntry(id=uuid.uuid5(uuid.NAMESPACE_OID, f"demo {self.numbers}"), path=path, value=value)
            moment = min(at + timedelta(seconds=20 * i), self.now)
            posting.post(self.session, run, entry, self.people[by], moment, insist=True, entries=entries)

    def start(self, sample: str, method: str, school: str | None, at: datetime, by: str = "IM") -> Run:
        """A run on a sample."""
        self.numbers += 1
        known = str(uuid.uuid5(uuid.NAMESPACE_OID, f"demo {self.numbers}"))
        return runs.start(self.session, self.places[sample], method, school, self.people[by], at, id=known)

    def steps(self, run: Run, keys: Iterable[str], at: datetime) -> None:
        """Cautions read before the work."""
        for key in keys:
            self.numbers += 1
            known = str(uuid.uuid5(uuid.NAMESPACE_OID, f"demo {self.numbers}"))
            runs.note_step(self.session, run, key, "cautions read", self.people["IM"], at, entry_id=known)

    def tare(self, code: str) -> float:
        """A tin's mass by the register, g."""
        item = kit.find(self.session, "tin", code)
        assert item is not None
        return kit.state(self.session, item, self.now.date()).tare_g or 20.0

    def tin(self, code: str, w_percent: float, dry_g: float) -> tuple[str, str, str]:
        """A tin's number, and its wet and dry masses with the balance's scatter."""
        tare = self.tare(code)
        dry = tare + dry_g + self.dice.gauss(0, 0.004)
        wet = tare + dry_g * (1 + w_percent / 100) + self.dice.gauss(0, 0.004)
        return code, f"{wet:.2f}", f"{dry:.2f}"
