"""Many new rows at once: their ids, and what the ledger will say of them, found before the lock is taken; written table
by table in one statement each, noted in the ledger and found as any other.

A session that writes five hundred tins row by row holds the lock for seconds, and every reading meanwhile waits for it.
"""

from collections.abc import Mapping, Sequence
from typing import Any, NamedTuple

from sqlalchemy import Table, bindparam, insert, select, update
from sqlmodel import Session, SQLModel

from vadum.tape import find, ledger
from vadum.tape.dialect import next_ids


class Batch(NamedTuple):
    """Rows of one table as they will be written, and their digests for the ledger. `changed` names the columns that
    change in rows that are there already; of new rows it is empty."""

    model: type[SQLModel]
    rows: list[dict[str, Any]]
    digests: list[str]
    changed: tuple[str, ...] = ()

    @property
    def table(self) -> Table:
        """Where they go."""
        table: Table = self.model.__table__  # type: ignore[attr-defined]
        return table


def foreseen(session: Session, rows: Sequence[SQLModel], reached: dict[str, int]) -> list[Batch]:
    """Rows that are new and of no session, with the ids they will have; the rows themselves have them from now on.

    `reached` is the last id that was foreseen of each table, and goes on.
    """
    connection = session.connection()
    found = []
    for model in dict.fromkeys(type(row) for row in rows):
        table: Table = model.__table__  # type: ignore[attr-defined]
        its = [row for row in rows if type(row) is model]
        columns = [c.name for c in table.c]
        ids = next_ids(connection, table, len(its), reached.get(table.name, 0))
        reached[table.name] = ids[-1]
        for row, id_ in zip(its, ids, strict=True):
            row.id = id_
        contents = [{name: getattr(row, name) for name in columns} for row in its]
        found.append(Batch(model, contents, [ledger.digest_of(table, content) for content in contents]))
    return found


def foreseen_changes(rows: Sequence[tuple[SQLModel, Mapping[str, Any]]]) -> list[Batch]:
    """Rows that are there, each with the columns that it will have otherwise; one that would stay as it is is left
    alone."""
    found: dict[tuple[type[SQLModel], tuple[str, ...]], Batch] = {}
    for row, new in rows:
        table: Table = row.__table__  # type: ignore[attr-defined]
        changed = tuple(sorted(name for name, value in new.items() if getattr(row, name) != value))
        if not changed:
            continue
        content = {c.name: getattr(row, c.name) for c in table.c} | dict(new)
        batch = found.setdefault((type(row), changed), Batch(type(row), [], [], changed))
        batch.rows.append(content)
        batch.digests.append(ledger.digest_of(table, content))
    return list(found.values())


def hold(session: Session, batches: Sequence[Batch]) -> None:
    """Hold the rows that will change, until the transaction ends; in a file the writer holds everything already."""
    for batch in batches:
        if batch.changed:
            ids = [row["id"] for row in batch.rows]
            session.connection().execute(select(batch.table.c.id).where(batch.table.c.id.in_(ids)).with_for_update())


def still_free(session: Session, batches: Sequence[Batch]) -> bool:
    """Whether the ids that were foreseen are still nobody's."""
    for batch in batches:
        if batch.changed:
            continue
        ids = [row["id"] for row in batch.rows]
        there = select(batch.table.c.id).where(batch.table.c.id.between(min(ids), max(ids))).limit(1)
        if session.connection().execute(there).first() is not None:
            return False
    return True


def write(session: Session, batches: Sequence[Batch]) -> None:
    """Insert them, or change them; whoever answers for the transaction answers for them in the ledger.

    Changes are of tables alone whose words nobody searches for.
    """
    connection = session.connection()
    by = connection.info.get("by", "")
    for batch in batches:
        words = ""
        if batch.changed:
            words = ledger.words_of_change(batch.changed)
            statement = update(batch.table).where(batch.table.c.id == bindparam("its_id"))
            values: dict[str, Any] = {name: bindparam(f"new_{name}") for name in batch.changed}
            told = [{"its_id": row["id"]} | {f"new_{name}": row[name] for name in batch.changed} for row in batch.rows]
            connection.execute(statement.values(values), told)
        else:
            connection.execute(insert(batch.table), batch.rows)
            find.follow_made(connection, batch.model, batch.rows)
        for row, digest in zip(batch.rows, batch.digests, strict=True):
            ledger.note(connection, batch.table.name, ledger.subject_of(batch.table, row), digest, by, words)
