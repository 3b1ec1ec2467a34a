"""column matches"""

import sqlalchemy as sa
import sqlmodel
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "columnmatch",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("method", sqlmodel.sql.sqltypes.AutoString(length=40), nullable=False),
        sa.Column("rows", sqlmodel.sql.sqltypes.AutoString(length=40), nullable=False),
        sa.Column("signature", sqlmodel.sql.sqltypes.AutoString(length=32), nullable=False),
        sa.Column("fields", sa.Text(), nullable=False),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("method", "rows", "signature"),
    )


def downgrade() -> None:
    op.drop_table("columnmatch")
