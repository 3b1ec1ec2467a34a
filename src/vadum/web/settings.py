"""What an application is started with."""

from dataclasses import dataclass, field

from vadum.tape.clock import Clock
from vadum.tape.database import default_url


@dataclass(frozen=True)
class Settings:
    """The database, the clock, and whether the data are made up."""

    database_url: str = field(default_factory=default_url)
    clock: Clock = field(default_factory=Clock)
    demo: bool = False
    secure_cookie: bool = False
