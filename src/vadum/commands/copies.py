"""Checking, sealing, copying and moving a laboratory from the command line."""

from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated

import typer

from vadum.commands.common import DatabaseOption, opened, url_of
from vadum.soil.contract.errors import FieldError, VadumError


def add_to(app: typer.Typer) -> None:
    """Put these verbs on the command line."""
    for verb in (check, seal, backup, restore, move):
        app.command()(verb)


def check(
    db: DatabaseOption = None,
    seal: Annotated[Path | None, typer.Option(help="a seal that was kept elsewhere")] = None,
) -> None:
    """Compute all again that can be: chains, ledger, index, signatures, signed values, schema, the file itself."""
    from vadum.tape.audit import audit
    from vadum.tape.seal import read_seal

    kept = None
    if seal is not None:
        try:
            kept = read_seal(seal.read_text("utf-8"))
        except (OSError, UnicodeDecodeError):
            raise FieldError("--seal", f"{seal.name} cannot be read") from None
    number, faults = audit(opened(db), kept)
    for fault in faults:
        typer.echo(fault, err=True)
    if faults:
        raise VadumError(f"{len(faults)} faults in {number} runs")
    sealed = f" The ledger stands on the seal of {kept.at}." if kept else ""
    typer.echo(f"{number} runs: every chain and the ledger hold, every signed value computes again.{sealed}")


def seal(db: DatabaseOption = None) -> None:
    """Print where the ledger stands: a small text, to be kept where nobody who holds the database can change it."""
    from vadum.tape.audit import sealed

    typer.echo(sealed(opened(db), datetime.now(UTC)).text(), nl=False)


def backup(file: Path, db: DatabaseOption = None) -> None:
    """A consistent copy of the live database into a new file."""
    from vadum.tape import copies

    copies.backup(opened(db), file)
    typer.echo(f"Copied to {file}.")


def restore(file: Path, db: DatabaseOption = None) -> None:
    """Check a backup and put it in the database's place; the present one is kept aside. Refused while a server runs."""
    from vadum.tape import copies

    number, kept = copies.restore(file, url_of(db), datetime.now())
    typer.echo(f"{number} runs restored." + (f" The former database is {kept.name}." if kept else ""))


def move(
    origin: Annotated[str, typer.Argument(metavar="FROM", help="a SQLite file or a server's address")],
    target: Annotated[str, typer.Argument(metavar="TO", help="an empty one")],
) -> None:
    """Carry a laboratory whole into another database: ids, chains, ledger, signatures. Stop the program first."""
    from vadum.tape import copies
    from vadum.tape.database import Database
    from vadum.tape.hold import Held

    leaving = opened(origin)
    try:
        held = leaving.hold(alone=True)
    except Held as error:
        raise VadumError("a server is running on this database: stop it first, then move") from error
    try:
        runs, lines = copies.move(leaving, Database(url_of(target)))
    finally:
        if held:
            held.close()
    typer.echo(f"{runs} runs and {lines} ledger lines moved, and found whole where they arrived.")
