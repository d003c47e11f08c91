"""At which rate a clip was likely taken that seems to be slow motion."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("view", sa.Column("likely_fps", sa.Double(), nullable=True))


def downgrade() -> None:
    op.drop_column("view", "likely_fps")
