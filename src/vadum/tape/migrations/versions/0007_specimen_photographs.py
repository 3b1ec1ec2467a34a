"""photographs of a specimen itself, without a run on it"""

import sqlalchemy as sa
import sqlmodel
from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None

TEXT = sqlmodel.sql.sqltypes.AutoString


def upgrade() -> None:
    op.create_table(
        "specimenphotograph",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("specimen_id", sa.Integer(), nullable=False),
        sa.Column("hash", TEXT(length=64), nullable=False),
        sa.Column("caption", TEXT(length=200), nullable=False),
        sa.Column("by", TEXT(length=10), nullable=False),
        sa.Column("width", sa.Integer(), nullable=False),
        sa.Column("height", sa.Integer(), nullable=False),
        sa.Column("data", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(["specimen_id"], ["specimen.id"]),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("specimen_id", "hash"),
    )
    op.create_index("ix_specimenphotograph_specimen_id", "specimenphotograph", ["specimen_id"])


def downgrade() -> None:
    op.drop_table("specimenphotograph")
