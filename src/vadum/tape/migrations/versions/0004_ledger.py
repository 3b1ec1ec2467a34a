"""arrival times, known browsers, laboratory settings, and the ledger over all that stands

A later migration that changes a column which the ledger's digests hold must note the table's rows again (ledger.adopt).
"""

from datetime import UTC, datetime

import sqlalchemy as sa
import sqlmodel
from alembic import op

from vadum.tape import ledger
from vadum.tape.dialect import refuse_changes
from vadum.tape.tables import Entry

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None

TEXT = sqlmodel.sql.sqltypes.AutoString
BY = "migration"


def upgrade() -> None:
    moment = sa.DateTime(timezone=True)
    op.add_column("entry", sa.Column("arrived_at", moment, nullable=True))
    for table in ("signin", "onetimelink"):
        op.add_column(table, sa.Column("resets", sa.Boolean(), nullable=False, server_default=sa.false()))
    op.create_table(
        "knownbrowser",
        sa.Column("token_hash", TEXT(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("seen_at", moment, nullable=False),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"]),
        sa.PrimaryKeyConstraint("token_hash"),
    )
    op.create_index("ix_knownbrowser_person_id", "knownbrowser", ["person_id"])
    op.create_table(
        "laboratorysetting",
        sa.Column("key", TEXT(length=40), nullable=False),
        sa.Column("value", TEXT(length=200), nullable=False),
        sa.PrimaryKeyConstraint("key"),
    )
    op.create_table(
        "ledger",
        sa.Column("seq", sa.BigInteger(), autoincrement=False, nullable=False),
        sa.Column("at", moment, nullable=False),
        sa.Column("by", TEXT(length=40), nullable=False),
        sa.Column("kind", TEXT(length=20), nullable=False),
        sa.Column("subject", TEXT(length=60), nullable=False),
        sa.Column("digest", TEXT(length=64), nullable=False),
        sa.Column("words", TEXT(length=200), nullable=False),
        sa.Column("previous_hash", TEXT(length=64), nullable=False),
        sa.Column("hash", TEXT(length=64), nullable=False),
        sa.PrimaryKeyConstraint("seq"),
    )
    connection = op.get_bind()
    refuse_changes(connection, ("ledger",))
    ledger.begin(connection)
    entry = Entry.__table__
    for row in connection.execute(
        sa.select(entry.c.run_id, entry.c.seq, entry.c.hash).order_by(entry.c.run_id, entry.c.seq)
    ):
        ledger.note(connection, "entry", f"{row[0]}/{row[1]}", row[2], BY, "stood before the ledger")
    ledger.adopt(connection, [t.__table__ for t in ledger.WHOLE], datetime.now(UTC), BY)


def downgrade() -> None:
    op.drop_table("ledger")
    op.drop_table("laboratorysetting")
    op.drop_table("knownbrowser")
    op.drop_column("onetimelink", "resets")
    op.drop_column("signin", "resets")
    op.drop_column("entry", "arrived_at")
