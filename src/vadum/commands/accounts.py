"""Accounts from the command line, for whoever looks after the machine: each change is noted in the ledger."""

import getpass
import os
from datetime import UTC, datetime
from typing import Annotated, Any

import typer

from vadum.commands.common import DatabaseOption, opened
from vadum.soil.contract.errors import FieldError

BY = "command"
accounts = typer.Typer(no_args_is_help=True, help="Pass-phrases, roles, sessions: of one account each.")


def asked_passphrase() -> str:
    """From VADUM_PASSPHRASE, or typed."""
    return os.environ.get("VADUM_PASSPHRASE") or getpass.getpass("pass-phrase: ")


def made(login: str, name: str, initials: str, role: str, db: str) -> None:
    """Make an account."""
    from pydantic import ValidationError

    from vadum.tape import people
    from vadum.tape.database import Database

    try:
        new = people.NewPerson.model_validate(
            {"login": login, "name": name, "initials": initials, "role": role, "passphrase": asked_passphrase()}
        )
    except ValidationError as error:
        first = error.errors()[0]
        raise FieldError(str(first["loc"][0]), first["msg"].removeprefix("Value error, ")) from None
    database = Database(db)
    database.migrate()
    stored = people.hashed(new.passphrase)
    with database.writing(BY) as session:
        people.add(session, new, stored)
    typer.echo(f"{name} may sign in as {login}, {role}.")


def _changed(db: str | None, login: str, change: Any) -> Any:
    from vadum.tape import people

    database = opened(db)
    database.migrate()
    with database.writing(BY) as session:
        return change(people, session, people.named(session, login))


@accounts.command()
def passphrase(login: str, db: DatabaseOption = None) -> None:
    """Set a new pass-phrase; every session of the account ends."""
    from vadum.tape import people

    stored = people.hashed(people.new_passphrase(asked_passphrase()))
    _changed(db, login, lambda rooms, session, person: rooms.set_passphrase(session, person, stored, BY))
    typer.echo(f"{login}: the pass-phrase is changed.")


@accounts.command()
def reset(
    login: str,
    address: Annotated[str, typer.Option(help="where the program answers")] = "http://127.0.0.1:8780",
    db: DatabaseOption = None,
) -> None:
    """A link with which the person sets a new pass-phrase, once, within half a day."""
    now = datetime.now(UTC)
    token = _changed(db, login, lambda rooms, session, person: rooms.reset_link(session, person, BY, now))
    typer.echo(f"{address.rstrip('/')}/enter/{token}")


@accounts.command()
def role(login: str, role: str, db: DatabaseOption = None) -> None:
    """Give the account another role: technician, checker or manager."""
    _changed(db, login, lambda rooms, session, person: rooms.change_role(session, person, role, BY))
    typer.echo(f"{login}: {role}.")


@accounts.command()
def disable(login: str, db: DatabaseOption = None) -> None:
    """Close the account: it signs in no more, and its sessions end."""
    _changed(db, login, lambda rooms, session, person: rooms.set_active(session, person, False, BY))
    typer.echo(f"{login}: closed.")


@accounts.command()
def enable(login: str, db: DatabaseOption = None) -> None:
    """Open the account again."""
    _changed(db, login, lambda rooms, session, person: rooms.set_active(session, person, True, BY))
    typer.echo(f"{login}: open.")


@accounts.command("end-sessions")
def end_sessions(login: str, db: DatabaseOption = None) -> None:
    """End every session of the account."""
    ended = _changed(db, login, lambda rooms, session, person: rooms.end_sessions(session, person, BY))
    typer.echo(f"{login}: {ended} sessions ended.")
