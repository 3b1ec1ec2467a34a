"""What every route needs: the database, the clock, the person, the templates."""

import asyncio
import hashlib
import re
import threading
from collections.abc import Iterator
from contextlib import AbstractContextManager
from datetime import datetime, timedelta
from functools import cache
from pathlib import Path
from typing import Annotated, Any
from zoneinfo import ZoneInfo

from fastapi import Depends, Query, Request
from fastapi.responses import HTMLResponse
from fastapi.templating import Jinja2Templates
from jinja2 import Environment, FileSystemLoader, StrictUndefined, select_autoescape
from markupsafe import Markup, escape
from sqlmodel import Session

from vadum.bench.foreman import Foreman
from vadum.instruments.station import Stations
from vadum.soil.contract.errors import VadumError
from vadum.soil.contract.shown_units import SI, Style
from vadum.soil.contract.times import clock, span
from vadum.soil.contract.working import greek, pretty, with_numbers
from vadum.tape import identity, people
from vadum.tape.clock import OffsetInZone, in_zone
from vadum.tape.database import Database
from vadum.tape.runs import Shelf
from vadum.tape.signatures import standing
from vadum.tape.tables import Person
from vadum.web import in_style
from vadum.web.channel import Channel, channel_of
from vadum.web.decimal_sign import page_in_decimals
from vadum.web.settings import Settings
from vadum.web.slow_work import HashingPool, SlowWork

HERE = Path(__file__).parent
COOKIE = "vadum_session"
MOST_PICTURES, MOST_ARCHIVES = 4, 2  # waiting at once: each holds a thread that readings are answered on
LEVEL_SIGNS = {"stop": "■", "redo": "▲", "watch": "◗", "fine": "✓"}


class PassphraseFirst(VadumError):
    """A session that a reset link began may set a new pass-phrase, and nothing else."""


class NotSignedIn(VadumError):
    """Nobody is signed in."""


class OtherPerson(VadumError):
    """The page was made for somebody else than who is signed in on this device now."""


class Missing(VadumError):
    """The page's thing does not exist."""


class Listeners:
    """Pages that look at a run, told when its tape grows. Posting happens on threads, listening on the loop."""

    def __init__(self, channel: Channel) -> None:
        self.channel = channel
        self._queues: dict[str, set[asyncio.Queue[tuple[str, str]]]] = {}
        self._loop: asyncio.AbstractEventLoop | None = None

    def listen(self, code: str) -> asyncio.Queue[tuple[str, str]]:
        """A queue that receives what happens to the run: an event's name and its data."""
        self._loop = asyncio.get_running_loop()
        queue: asyncio.Queue[tuple[str, str]] = asyncio.Queue(maxsize=100)
        self._queues.setdefault(code, set()).add(queue)
        return queue

    def sessions_changed(self) -> None:
        """Some session has ended: every stream looks whether its own still stands."""
        self.say("*", "session", "")

    def leave(self, code: str, queue: asyncio.Queue[tuple[str, str]]) -> None:
        """Stop listening."""
        self._queues.get(code, set()).discard(queue)

    def tell(self, code: str, seq: int) -> None:
        """The run's tape has grown to seq."""
        self.say(code, "grown", str(seq))

    def say(self, code: str, event: str, data: str) -> None:
        """Tell everyone who looks at the run, in every process of the program; from any thread."""
        self.channel.say(code, event, data)
        self.hear(code, event, data)

    def hear(self, code: str, event: str, data: str) -> None:
        """Tell everyone who looks here; `*` is every run. A slow one loses figures, never readings."""
        if self._loop is None or self._loop.is_closed():
            return
        watching = list(self._queues) if code == "*" else [code]
        if not any(self._queues.get(one) for one in watching):
            return

        def put() -> None:
            for one in watching:
                for queue in self._queues.get(one, set()):
                    if not queue.full():
                        queue.put_nowait((event, data))

        self._loop.call_soon_threadsafe(put)


def static_version() -> str:
    """A short hash over the shipped files: long cache times under a name that changes with them."""
    digest = hashlib.sha256()
    for path in sorted((HERE / "static").rglob("*")):
        if path.is_file():
            stat = path.stat()
            digest.update(f"{path.name}{stat.st_size}{stat.st_mtime_ns}".encode())
    return digest.hexdigest()[:10]


class Shop:
    """The application's state, one object."""

    def __init__(self, settings: Settings) -> None:
        self.settings = settings
        self.database = Database(settings.database_url, settings.clock)
        self.shelf = Shelf()
        self.foreman = Foreman(self.shelf)
        self.channel = channel_of(self.database)
        self.listeners = Listeners(self.channel)
        self.stations = Stations()
        self.hashing = HashingPool()
        self.pictures = SlowWork("pictures", MOST_PICTURES, nice=3)
        self.archives = SlowWork("archives", MOST_ARCHIVES, nice=1)  # somebody looks on while a job comes in
        self.held_back = 0  # sign-ins whose refusal is being held back
        self.recorders: dict[str, Any] = {}  # run code -> its recorder, see vadum.web.attached_instruments
        self.recorder_lock = threading.RLock()
        self.glances: dict[str, float] = {}  # instrument -> when it was last glanced at, see vadum.web.glance
        self.shown_at_a_glance: dict[str, set[str]] = {}
        self.version = static_version()
        self.zone: ZoneInfo | None = None
        self.templates = Jinja2Templates(env=environment(self.version))

    def now(self) -> datetime:
        """Now, by the one clock, as the laboratory's own zone shows it."""
        now = self.settings.clock.now()
        return in_zone(now, self.zone) if self.zone is not None else now

    def look_at_zone(self) -> None:
        """Read the laboratory's zone anew: at the start, and when somebody has changed it."""
        with self.database.reading() as session:
            self.zone = identity.zone_of(session)

    def close(self) -> None:
        """Let the slow work end, and give the database back."""
        for room in (self.hashing, self.pictures, self.archives):
            room.close()
        self.database.close()

    def say(self, code: str, event: str, data: str) -> None:
        """Tell everyone who looks at a run."""
        self.listeners.say(code, event, data)

    def tell(self, code: str, seq: int) -> None:
        """The run's tape has grown to seq."""
        self.listeners.tell(code, seq)

    def writing(self, me: Person) -> AbstractContextManager[Session]:
        """A session that writes; the ledger names this person for it."""
        return self.database.writing(me.initials)


@cache
def environment(version: str) -> Environment:
    """The templates, compiled once a process: a quarter of a second that no second application should pay."""
    env = Environment(
        loader=FileSystemLoader(HERE / "templates"),
        autoescape=select_autoescape(),
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
        auto_reload=False,
    )
    env.globals.update(
        static=lambda name: f"/static/{version}/{name}",
        signs=LEVEL_SIGNS,
        shown_values=in_style.values,
        worth=in_style.worth_with_unit,
        worth_apart=in_style.worth_apart,
        span=span,
        when=clock,
        pretty=lambda text: symbols(pretty(text)),
        with_numbers=with_numbers,
        symbols=symbols,
        standing_of=standing,
        minutes=lambda many: timedelta(minutes=many),
    )
    env.filters |= in_style.FILTERS
    env.filters["sentence"] = sentence
    return env


def sentence(text: str) -> str:
    """A text that begins a line: its first letter large, unless the word has its own way (pH).

    >>> sentence("tin 38"), sentence("pH meter")
    ('Tin 38', 'pH meter')
    """
    return text if text[1:2].isupper() else text[:1].upper() + text[1:]


def symbols(text: str) -> Markup:
    """A symbol's underscore as a subscript: M_1 reads M with a small 1."""
    return Markup(re.sub(r"([^\W\d_])_([A-Za-z0-9]+)", r"\1<sub>\2</sub>", greek(str(escape(text)))))


def shop(request: Request) -> Shop:
    """The application's state."""
    found: Shop = request.app.state.shop
    return found


def reading(request: Request) -> Iterator[Session]:
    """A session that reads."""
    with shop(request).database.reading() as session:
        yield session


def visitor(request: Request) -> Person | None:
    """Who is signed in, if anyone."""
    token = request.cookies.get(COOKIE)
    if not token:
        return None
    its = shop(request)
    with its.database.reading() as session:
        person = people.who(session, token, its.now())
        request.state.style = identity.style_of(session, person)
        request.state.resets = people.resets(session, token)
        return person


def style_for(request: Request) -> Style:
    """How figures and days are shown to whoever asks."""
    found: Style = getattr(request.state, "style", SI)
    return found


PAGE_OF = "vadum-person"  # whom the page that asks was made for, by id: one browser has one cookie for all its tabs


# What a session begun by a reset link may ask for: whoever made the link must not read or sign as a colleague with it.
WHILE_RESETTING = ("/me", "/api/v1/me/passphrase", "/signout")


def signed_in(request: Request, person: Annotated[Person | None, Depends(visitor)]) -> Person:
    """Who is signed in; raises NotSignedIn, OtherPerson where the page that asks was made for another, PassphraseFirst
    where a reset link began the session."""
    if person is None:
        raise NotSignedIn("sign in first")
    if request.state.resets and request.url.path not in WHILE_RESETTING:
        raise PassphraseFirst("Choose your new pass-phrase first.")
    page_of = request.headers.get(PAGE_OF) or request.query_params.get(PAGE_OF)
    if page_of and page_of != str(person.id):
        raise OtherPerson(f"{person.name} is signed in on this device now; this page belongs to somebody else.")
    return person


TheShop = Annotated[Shop, Depends(shop)]
Reading = Annotated[Session, Depends(reading)]
PageNumber = Annotated[int, Query(ge=1, le=100_000)]
Me = Annotated[Person, Depends(signed_in)]


def page(request: Request, template: str, me: Person | None, status: int = 200, **values: Any) -> Any:
    """A page with what the frame needs."""
    its = shop(request)
    now = its.now()
    frame = {
        "me": me,
        "demo": its.settings.demo,
        "now": now,
        "now_ms": int(now.timestamp() * 1000),
        "frozen": its.settings.clock.frozen,
        "zone_minutes": int((now.utcoffset() or now - now).total_seconds() // 60),
        "place": values.pop("place", ""),
    }
    frame["zone_name"] = zone_name(now)
    frame["style"] = style_for(request)
    text = its.templates.get_template(template).render({**frame, **values, "request": request})
    headers = {"Cache-Control": "no-store"} | ({PAGE_OF: str(me.id)} if me else {})
    return HTMLResponse(page_in_decimals(text, frame["style"].decimal), status_code=status, headers=headers)


def zone_name(now: datetime) -> str:
    """The name of the zone, for the page's own clock; empty where only an offset is known."""
    return now.tzinfo.zone.key if isinstance(now.tzinfo, OffsetInZone) else ""


def first_template(request: Request, *names: str) -> str:
    """The first of the templates that there is."""
    name = shop(request).templates.env.select_template(names).name
    assert name is not None
    return name


def part(request: Request, template: str, **values: Any) -> str:
    """A fragment as text."""
    style = style_for(request)
    text = shop(request).templates.get_template(template).render(**values, style=style)
    return page_in_decimals(text, style.decimal)
