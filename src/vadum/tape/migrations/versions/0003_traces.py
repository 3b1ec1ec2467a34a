"""traces of instruments"""

import sqlalchemy as sa
import sqlmodel
from alembic import op

from vadum.tape.dialect import refuse_changes

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "trace",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("run_id", sa.Integer(), nullable=False),
        sa.Column("instrument", sqlmodel.sql.sqltypes.AutoString(length=40), nullable=False),
        sa.Column("channels", sqlmodel.sql.sqltypes.AutoString(length=200), nullable=False),
        sa.Column("samples", sa.Integer(), nullable=False),
        sa.Column("data", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(["run_id"], ["run.id"]),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("ix_trace_run_id", "trace", ["run_id"])
    refuse_changes(op.get_bind(), ("trace",))


def downgrade() -> None:
    op.drop_table("trace")
