"""What a throw of one clip was estimated to be in space."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("delivery", sa.Column("in_space", sa.String(), nullable=True))


def downgrade() -> None:
    op.drop_column("delivery", "in_space")
