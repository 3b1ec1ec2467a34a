"""specimens between sample and run"""

import sqlalchemy as sa
import sqlmodel
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None

TEXT = sqlmodel.sql.sqltypes.AutoString


def upgrade() -> None:
    op.create_table(
        "specimen",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("sample_id", sa.Integer(), nullable=False),
        sa.Column("code", TEXT(length=20), nullable=False),
        sa.Column("cut_from", TEXT(length=20), nullable=False),
        sa.Column("depth_m", sa.Float(), nullable=True),
        sa.Column("orientation", TEXT(length=20), nullable=False),
        sa.Column("size", TEXT(length=60), nullable=False),
        sa.Column("mass_g", sa.Float(), nullable=True),
        sa.Column("note", TEXT(), nullable=False),
        sa.ForeignKeyConstraint(["sample_id"], ["sample.id"]),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("sample_id", "code"),
    )
    op.create_index("ix_specimen_sample_id", "specimen", ["sample_id"])
    op.create_table(
        "specimenuse",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("specimen_id", sa.Integer(), nullable=False),
        sa.Column("run_id", sa.Integer(), nullable=False),
        sa.Column("mass_g", sa.Float(), nullable=True),
        sa.ForeignKeyConstraint(["specimen_id"], ["specimen.id"]),
        sa.ForeignKeyConstraint(["run_id"], ["run.id"]),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("run_id"),
    )
    op.create_index("ix_specimenuse_specimen_id", "specimenuse", ["specimen_id"])


def downgrade() -> None:
    op.drop_table("specimenuse")
    op.drop_table("specimen")
