"""What the commands share: the database that is meant, and a moment as it is typed."""

from datetime import datetime
from pathlib import Path
from typing import Annotated, Any

import typer

from vadum.soil.contract.errors import FieldError

DatabaseOption = Annotated[str | None, typer.Option("--db", help="a SQLite file; else VADUM_DATABASE_URL or ~/.vadum")]


def url_of(db: str | None) -> str:
    """The database's address."""
    from vadum.tape.database import default_url

    return default_url() if db is None else (db if "://" in db else f"sqlite:///{Path(db).absolute()}")


def opened(db: str | None) -> Any:
    """The database, which must be there."""
    from vadum.tape.database import Database, DatabaseError, file_of
    from vadum.tape.known_schema import refuse_unknown_file

    url = url_of(db)
    if url.startswith("sqlite") and not file_of(url).is_file():
        raise DatabaseError(f"there is no database at {file_of(url).name}")
    if url.startswith("sqlite"):
        refuse_unknown_file(file_of(url))
    return Database(url)


def moment_of(text: str | None) -> datetime | None:
    """A moment as it is typed, in the machine's zone where it names none."""
    if text is None:
        return None
    try:
        at = datetime.fromisoformat(text)
        return at if at.tzinfo else at.astimezone()
    except (ValueError, OverflowError):
        raise FieldError("--at", f"{text[:40]!r} is not a time such as 2026-05-12T10:21:18") from None
