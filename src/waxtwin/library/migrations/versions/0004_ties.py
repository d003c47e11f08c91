"""Moments of a pair that somebody tied by eye."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("pair", sa.Column("ties", sa.JSON(), nullable=False, server_default="[]"))


def downgrade() -> None:
    op.drop_column("pair", "ties")
