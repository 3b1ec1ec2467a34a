"""photographs"""

import sqlalchemy as sa
import sqlmodel
from alembic import op

from vadum.tape.dialect import refuse_changes

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "photograph",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("run_id", sa.Integer(), nullable=False),
        sa.Column("hash", sqlmodel.sql.sqltypes.AutoString(length=64), nullable=False),
        sa.Column("width", sa.Integer(), nullable=False),
        sa.Column("height", sa.Integer(), nullable=False),
        sa.Column("data", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(["run_id"], ["run.id"]),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("run_id", "hash"),
    )
    op.create_index("ix_photograph_run_id", "photograph", ["run_id"])
    refuse_changes(op.get_bind(), ("photograph",))


def downgrade() -> None:
    op.drop_table("photograph")
