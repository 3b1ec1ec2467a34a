"""What an application is started with."""

from dataclasses import dataclass, field
from pathlib import Path

from vadum.tape.clock import Clock
from vadum.tape.database import beside, default_url

LOOPBACK = ("127.0.0.1", "localhost", "::1")


@dataclass(frozen=True)
class Settings:
    """The database, the clock, whether the data are made up, and who may reach what.

    `hosts` are the names that this program answers to; `instrument_hosts` the machines that an instrument's socket may
    stand on. Both are loopback unless told otherwise.
    """

    database_url: str = field(default_factory=default_url)
    clock: Clock = field(default_factory=Clock)
    demo: bool = False
    secure_cookie: bool = False
    hosts: tuple[str, ...] = LOOPBACK
    instrument_hosts: tuple[str, ...] = LOOPBACK
    schools: Path | None = None  # the folder of the laboratory's own schools; beside the database unless told otherwise
    body_s: float = 20.0  # a tablet at the network's edge needs some; half a body holds nothing for longer

    @property
    def schools_folder(self) -> Path:
        """Where the laboratory's own schools lie."""
        return self.schools or beside(self.database_url) / "schools"
