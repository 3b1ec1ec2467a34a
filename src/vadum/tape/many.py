"""Many new rows at once: their ids, and what the ledger will say of them, found before the lock is taken; written table
by table in one statement each, noted in the ledger and found as any other.

A session that writes five hundred tins row by row holds the lock for seconds, and every reading meanwhile waits for it.
"""

from collections.abc import Sequence
from typing import Any, NamedTuple

from sqlalchemy import Table, insert, select
from sqlmodel import Session, SQLModel

from vadum.tape import find, ledger
from vadum.tape.dialect import next_ids


class Batch(NamedTuple):
    """Rows of one table as they will be written, and their digests for the ledger."""

    model: type[SQLModel]
    rows: list[dict[str, Any]]
    digests: list[str]

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


def still_free(session: Session, batches: Sequence[Batch]) -> bool:
    """Whether the ids that were foreseen are still nobody's."""
    for batch in batches:
        ids = [row["id"] for row in batch.rows]
        there = select(batch.table.c.id).where(batch.table.c.id.between(min(ids), max(ids))).limit(1)
        if session.connection().execute(there).first() is not None:
            return False
    return True


def write(session: Session, batches: Sequence[Batch]) -> None:
    """Insert them; whoever answers for the transaction answers for them in the ledger."""
    connection = session.connection()
    by = connection.info.get("by", "")
    for batch in batches:
        connection.execute(insert(batch.table), batch.rows)
        for row, digest in zip(batch.rows, batch.digests, strict=True):
            ledger.note(connection, batch.table.name, ledger.subject_of(batch.table, row), digest, by)
        find.follow_made(connection, batch.model, batch.rows)
