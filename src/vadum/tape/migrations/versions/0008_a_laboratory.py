"""the laboratory and its jobs as somebody; closed ground, retired kit, withdrawn tests; papers; imported runs; find"""

from datetime import UTC, datetime

import sqlalchemy as sa
import sqlmodel
from alembic import op

from vadum.tape import find, ledger
from vadum.tape.dialect import make_findable
from vadum.tape.tables import Job, KitItem, Owed, Sample, Spot

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None

TEXT = sqlmodel.sql.sqltypes.AutoString
MOMENT = sa.DateTime(timezone=True)
ADDED = {
    "job": (("client", 120), ("contract", 60), ("engineer", 120), ("contractor", 120)),
    "sample": (("quality", 20), ("container", 60), ("condition", 200), ("note", None)),
    "owed": (("withdrawn_because", 200), ("withdrawn_by", 10)),
}
MOMENTS = (("job", "closed_at"), ("spot", "closed_at"), ("sample", "closed_at"), ("kititem", "retired_at"))
FIGURES = (("sample", "mass_g"), ("sample", "largest_grain_mm"), ("owed", "wanted_g"))


def upgrade() -> None:
    for table, columns in ADDED.items():
        for name, length in columns:
            op.add_column(table, sa.Column(name, TEXT(length=length), nullable=False, server_default=""))
    for table, name in MOMENTS:
        op.add_column(table, sa.Column(name, MOMENT, nullable=True))
    for table, name in FIGURES:
        op.add_column(table, sa.Column(name, sa.Float(), nullable=True))
    op.add_column("sample", sa.Column("received_on", sa.Date(), nullable=True))
    _job_schools()
    _papers()
    _people_and_imports()
    _find()
    connection = op.get_bind()
    ledger.begin(connection)
    changed = [model.__table__ for model in (Job, Spot, Sample, Owed, KitItem)]
    ledger.adopt(connection, changed, datetime.now(UTC), "migration", "noted again: it has more columns")


def _job_schools() -> None:
    op.create_table(
        "jobschool",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("method", TEXT(length=40), nullable=False),
        sa.Column("school", TEXT(length=60), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"]),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("job_id", "method"),
    )
    op.create_index("ix_jobschool_job_id", "jobschool", ["job_id"])


def _papers() -> None:
    op.create_table(
        "kitfile",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("item_id", sa.Integer(), nullable=False),
        sa.Column("hash", TEXT(length=64), nullable=False),
        sa.Column("name", TEXT(length=120), nullable=False),
        sa.Column("media_type", TEXT(length=60), nullable=False),
        sa.Column("data", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(["item_id"], ["kititem.id"]),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("item_id", "hash"),
    )
    op.create_index("ix_kitfile_item_id", "kitfile", ["item_id"])
    op.create_table(
        "laboratorymark",
        sa.Column("key", TEXT(length=40), nullable=False),
        sa.Column("media_type", TEXT(length=40), nullable=False),
        sa.Column("hash", TEXT(length=64), nullable=False),
        sa.Column("data", sa.Text(), nullable=False),
        sa.PrimaryKeyConstraint("key"),
    )


def _people_and_imports() -> None:
    op.create_table(
        "personsetting",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("key", TEXT(length=40), nullable=False),
        sa.Column("value", TEXT(length=40), nullable=False),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"]),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("person_id", "key"),
    )
    op.create_index("ix_personsetting_person_id", "personsetting", ["person_id"])
    op.create_table(
        "importedrun",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("run_id", sa.Integer(), nullable=False),
        sa.Column("laboratory", TEXT(length=120), nullable=False),
        sa.Column("code", TEXT(length=20), nullable=False),
        sa.Column("sample_id", sa.Integer(), nullable=False),
        sa.Column("people", sa.Text(), nullable=False),
        sa.Column("manifest", TEXT(length=64), nullable=False),
        sa.ForeignKeyConstraint(["run_id"], ["run.id"]),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("run_id"),
    )


def _find() -> None:
    op.create_table(
        "findable",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("kind", TEXT(length=20), nullable=False),
        sa.Column("subject", sa.Integer(), nullable=False),
        sa.Column("code", TEXT(length=80), nullable=False),
        sa.Column("words", sa.Text(), nullable=False),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("kind", "subject"),
    )
    op.create_index("ix_findable_code", "findable", ["code"])
    op.create_index("ix_run_started_at", "run", ["started_at"])
    make_findable(op.get_bind())
    find.rebuild(op.get_bind())


def downgrade() -> None:
    if op.get_bind().dialect.name == "sqlite":
        op.execute("DROP TABLE findable_words")
    op.drop_index("ix_run_started_at", "run")
    for table in ("findable", "importedrun", "personsetting", "laboratorymark", "kitfile", "jobschool"):
        op.drop_table(table)
    for table, name in (*MOMENTS, *FIGURES, ("sample", "received_on")):
        op.drop_column(table, name)
    for table, columns in ADDED.items():
        for name, _ in columns:
            op.drop_column(table, name)
