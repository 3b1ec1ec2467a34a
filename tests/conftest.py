"""Fixtures that are small and real: a SQLite file, people, a sample, the served application."""

import os
import shutil
import tempfile
from collections.abc import Iterator
from datetime import datetime, timedelta
from functools import cache
from pathlib import Path

import pytest
from hypothesis import settings

from tests import postgres, serving
from tests.serving import AT, Served, served
from vadum.tape import ground, kit, people, posting, runs, signatures
from vadum.tape.clock import FrozenClock
from vadum.tape.database import Database
from vadum.tape.entries import NewEntry
from vadum.tape.ground import NewJob, NewSample, NewSpot, Place
from vadum.tape.kit import NewItem
from vadum.tape.people import NewPerson
from vadum.tape.tables import Person, Run

# A slow machine is no fault of the code, and a test that fails must fail again.
settings.register_profile("vadum", deadline=None, derandomize=True)
settings.load_profile("vadum")


def stock(database: Database) -> tuple[dict[str, int], int]:
    """Three people, a job with a spot and a sample, four tins; the people's ids by initials, and the sample's."""
    database.migrate()
    ids: dict[str, int] = {}
    with database.writing() as session:
        stored = people.hashed("wet feet, dry tins")
        for login, name, initials, role in (
            ("ana", "Ana Tell", "AT", "technician"),
            ("bo", "Bo Lind", "BL", "checker"),
            ("mia", "Mia Rand", "MR", "manager"),
        ):
            new = NewPerson(login=login, name=name, initials=initials, role=role, passphrase="wet feet, dry tins")
            ids[initials] = people.add(session, new, stored).id
        job = ground.add_job(session, NewJob(code="J1", title="A job"), AT)
        spot = ground.add_spot(session, job, NewSpot(code="TP1"))
        sample_id = ground.add_sample(session, spot, NewSample(code="B1", depth_top_m=1.0)).id
        for number, tare in (("12", 21.37), ("31", 23.28), ("7", 20.22), ("9", 16.75)):
            item = kit.add_item(session, NewItem(kind="tin", code=number))
            kit.add_tare(session, item, tare, "BL", AT - timedelta(days=40))
    return ids, sample_id


_FOLDERS: list[tempfile.TemporaryDirectory[str]] = []


@cache
def _stocked(kind: str) -> tuple[str, dict[str, int], int]:
    """A laboratory that every other of this process is a copy of: its file, or its database's name."""
    if kind == "postgres":
        name = postgres.server().create()
        database = Database(postgres.server().url(name), FrozenClock(AT))
    else:
        _FOLDERS.append(tempfile.TemporaryDirectory(prefix="vadum-lab-"))
        name = f"{_FOLDERS[0].name}/lab.db"
        database = Database(f"sqlite:///{name}", FrozenClock(AT))
    ids, sample_id = stock(database)
    database.close()
    return name, ids, sample_id


class Lab:
    """A small laboratory in a database of its own."""

    def __init__(self, folder: Path, kind: str = "sqlite") -> None:
        self.file = folder / "lab.db"
        self.clock = FrozenClock(AT)
        name, self.ids, self.sample_id = _stocked(kind)
        if kind == "postgres":
            self.url = postgres.server().url(postgres.server().create(name))
        else:
            shutil.copyfile(name, self.file)
            self.url = f"sqlite:///{self.file}"
        self.database = Database(self.url, self.clock)

    def person(self, initials: str) -> Person:
        with self.database.reading() as session:
            found = session.get(Person, self.ids[initials])
            session.expunge(found)
            return found

    def place(self) -> Place:
        with self.database.reading() as session:
            found = ground.place(session, self.sample_id)
            session.expunge_all()
            return found

    def start(self, method: str, school: str | None = None, **given: str) -> str:
        with self.database.writing() as session:
            return runs.start(session, self.place(), method, school, self.person("AT"), self.clock.now(), **given).code

    def post(self, code: str, path: str, value: object, by: str = "AT", insist: bool = True, **more: object) -> object:
        with self.database.writing() as session:
            new = NewEntry.model_validate({"path": path, "value": value, **more})
            return posting.post(
                session, runs.find(session, code), new, self.person(by), self.clock.now(), insist=insist
            )[0]

    def sign(self, code: str, by: str = "AT", reason: str = "") -> None:
        """Signed as it stands."""
        with self.database.writing() as session:
            run = runs.find(session, code, to_write=True)
            signatures.sign(session, run, self.person(by), self.clock.now(), signatures.tape_end(session, run), reason)

    def check(self, code: str, by: str = "BL") -> None:
        """Checked as it stands."""
        with self.database.writing() as session:
            run = runs.find(session, code, to_write=True)
            signatures.check(session, run, self.person(by), self.clock.now(), signatures.tape_end(session, run))

    def reopen(self, code: str, by: str = "BL", reason: str = "a digit") -> None:
        """Open a signed or checked run again as it stands."""
        with self.database.writing() as session:
            run = runs.find(session, code, to_write=True)
            end = signatures.tape_end(session, run)
            signatures.reopen(session, run, self.person(by), self.clock.now(), end, reason)

    def read(self, code: str) -> runs.Read:
        with self.database.reading() as session:
            run: Run = runs.find(session, code)
            return runs.compute(run, runs.read_tape(session, run.id))


def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    """Each process begins with its share of the long tests: one begun last would be waited for by all."""
    long = [item for item in items if item.get_closest_marker("long")]
    others = [item for item in items if not item.get_closest_marker("long")]
    many = getattr(config, "workerinput", {}).get("workercount", 1)
    share = -(-len(others) // many)
    items[:] = [one for n in range(many) for one in (*long[n::many], *others[n * share : (n + 1) * share])]


def pytest_generate_tests(metafunc: pytest.Metafunc) -> None:
    """What stores and what serves is tried on both databases; what is about a SQLite file, on that."""
    both = {"tape", "web"} & set(metafunc.definition.path.parts)
    if "database_kind" not in metafunc.fixturenames or not both:
        return
    only = any(metafunc.definition.get_closest_marker(name) for name in ("sqlite_file", "one_database"))
    server = metafunc.definition.get_closest_marker("server_database")
    kinds = ("postgres",) if server else ("sqlite",) if only else ("sqlite", "postgres")
    metafunc.parametrize("database_kind", kinds, scope="module", indirect=True)


@pytest.fixture(scope="module")
def database_kind(request: pytest.FixtureRequest) -> str:
    return getattr(request, "param", "sqlite")


@pytest.fixture
def lab(tmp_path: Path, database_kind: str) -> Iterator[Lab]:
    made = Lab(tmp_path, database_kind)
    yield made
    made.database.close()


@pytest.fixture(scope="module")
def app(tmp_path_factory: pytest.TempPathFactory, database_kind: str) -> Iterator[Served]:
    with served(tmp_path_factory.mktemp("served"), FrozenClock(AT), database_kind) as running:
        yield running


@pytest.fixture(scope="session", autouse=True)
def together(tmp_path_factory: pytest.TempPathFactory) -> None:
    """What is built once for all processes of a test run lies in a folder that they share."""
    own = tmp_path_factory.getbasetemp()
    serving.shared.append(own.parent if "PYTEST_XDIST_WORKER" in os.environ else own)


@pytest.fixture
def now() -> datetime:
    return AT
