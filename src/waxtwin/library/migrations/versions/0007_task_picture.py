"""A house's own picture in the place of a practice task's drawn sequence."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("task", sa.Column("picture", sa.String(), nullable=True))


def downgrade() -> None:
    op.drop_column("task", "picture")
