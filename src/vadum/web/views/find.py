"""What the find box answers: each thing with what it is doing now, and what could be made where nothing is found."""

import re
from datetime import datetime
from typing import NamedTuple
from urllib.parse import quote

from sqlalchemy import select
from sqlmodel import Session, col

from vadum.bench.foreman import Foreman
from vadum.bench.lying import Lying, lying
from vadum.soil.contract.times import clock
from vadum.soil.register import METHODS
from vadum.tape import find, ground, job_import, kit
from vadum.tape.labels import named_by_label
from vadum.tape.tables import Job, KitItem, Person, Run, Spot

MOST = 12


class Row(NamedTuple):
    """One line of what was found: `exact` when its code is what was asked for."""

    kind: str
    words: str
    note: str
    go: str
    exact: bool = False
    code: str = ""


class Finder:
    """Looks things up, and says what they are doing at a moment."""

    def __init__(self, session: Session, foreman: Foreman, now: datetime) -> None:
        self.session, self.foreman, self.now = session, foreman, now
        self._lying: list[Lying] | None = None

    def rows(self, text: str) -> list[Row]:
        """What a text finds, the likeliest first; where nothing is, what could be made of it."""
        text = text.strip()
        if not text:
            return []
        hits = named_by_label(self.session, text) or find.look(self.session, text, MOST)
        rows = [row for hit in hits if (row := self._row(hit)) is not None]
        rows[:0] = [row for row in self._methods(text) if row.exact]
        rows += [row for row in self._methods(text) if not row.exact]
        return rows[:MOST] or _could_be_made(text)

    def _row(self, hit: find.Hit) -> Row | None:
        made = getattr(self, f"_{hit.kind}")(hit.subject)
        return made._replace(exact=hit.exact) if made is not None else None

    def lies(self, kind: str, code: str) -> Lying | None:
        """Where a vessel lies now."""
        if self._lying is None:
            self._lying = lying(self.session, self.foreman, self.now)
        return next((one for one in self._lying if one.kind == kind and one.code.lower() == code.lower()), None)

    def _kit(self, subject: int) -> Row | None:
        item = self.session.get(KitItem, subject)
        if item is None:
            return None
        words = f"{kit.one_of(item.kind)} {item.code}"
        page = f"/kit/{item.kind}/{quote(item.code)}"
        if item.retired_at is not None:
            return Row(item.kind, words, f"retired {clock(item.retired_at, self.now)}", page, code=item.code)
        lies = self.lies(item.kind, item.code) if item.kind in kit.VESSELS else None
        if lies is None:
            free = "free" if item.kind in kit.VESSELS else item.title
            note = f"{free}, {item.title}" if item.title and item.kind in kit.VESSELS else free
            return Row(item.kind, words, note, page, code=item.code)
        until = f", until {clock(lies.ready, self.now)}" if lies.ready and lies.ready > self.now else ""
        asks = f": {lies.asks}?" if lies.asks else ""
        return Row(item.kind, words, f"{lies.run_code} {lies.where}{until}{asks}", lies.href, code=item.code)

    def _job(self, subject: int) -> Row | None:
        job = self.session.get(Job, subject)
        if job is None:
            return None
        note = f"job {job.code}" + (", closed" if job.closed_at else "")
        return Row("job", job.title, note, f"/ground/{quote(job.code)}", code=job.code)

    def _spot(self, subject: int) -> Row | None:
        spot = self.session.get(Spot, subject)
        job = self.session.get(Job, spot.job_id) if spot else None
        if spot is None or job is None:
            return None
        note = f"{spot.kind}, {spot.note}" if spot.note else spot.kind
        return Row("spot", spot.code, note, f"/ground/{quote(job.code)}?spot={quote(spot.code)}", code=spot.code)

    def _sample(self, subject: int) -> Row | None:
        place = ground.place(self.session, subject)
        if place is None:
            return None
        query = select(col(Run.code)).where(col(Run.sample_id) == subject, col(Run.state) == "open").limit(3)
        on_it = ", ".join(self.session.execute(query).scalars())
        note = f"{on_it} on it" if on_it else place.sample.description
        return Row("sample", place.words, note, f"/samples/{subject}", code=place.sample.code)

    def _person(self, subject: int) -> Row | None:
        person = self.session.get(Person, subject)
        if person is None:
            return None
        note = f"{person.initials}, {person.role}" + ("" if person.active else ", closed")
        return Row("person", person.name, note, f"/runs?by={quote(person.initials)}", code=person.initials)

    def _run(self, subject: int) -> Row | None:
        run = self.session.get(Run, subject)
        if run is None:
            return None
        title = METHODS[run.method].title if run.method in METHODS else run.method
        doing = self.foreman.next_of(self.session, run, self.now) if run.state == "open" else None
        origin = job_import.origin_of(self.session, run)
        note = f"{title}, {doing or run.state}" + (f", from {origin.laboratory}" if origin is not None else "")
        return Row("run", run.code, note, f"/runs/{quote(run.code)}", code=run.code)

    def _methods(self, text: str) -> list[Row]:
        asked = find.plain_words(text)
        rows = []
        for its in METHODS.values():
            title = find.plain_words(its.title)
            known = f"{title} {find.plain_words(' '.join(its.standards))} {its.code.lower()}"
            if len(asked) < 2 or not all(f" {word}" in f" {known}" for word in asked.split()):
                continue
            query = select(col(Run.id)).where(col(Run.method) == its.name, col(Run.state) == "open").limit(100)
            many = len(self.session.execute(query).all())
            note = f"method, {many} in hand" if many else "method, none in hand"
            rows.append(Row("method", its.title, note, f"/runs?method={its.name}", asked == title, its.name))
        return rows


def _could_be_made(text: str) -> list[Row]:
    """Nothing is called so: what a person may have meant to make."""
    nothing = Row("none", f"Nothing is called {text[:40]}", "", "")
    asked = quote(text[:40])
    tin = Row("make", f"Register tin {text[:20]}", "kit", f"/kit?new=tin&code={asked}")
    run = Row("make", "Start a run", "on a sample", "/start")
    job = Row("make", f"Make the job {text[:40]}", "ground", f"/ground?new={asked}")
    return [nothing, tin, run] if re.fullmatch(r"[\w.-]{1,8}", text) and re.search(r"\d", text) else [nothing, job, run]
