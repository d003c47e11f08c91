"""Rows that people edit count their changes; the journal says whose change it was."""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None

_EDITED = (
    "athlete", "session", "delivery", "clip", "view", "event", "tag", "pair", "talk", "plan", "arm_note", "task",
)  # fmt: skip


def upgrade() -> None:
    for table in _EDITED:
        op.add_column(table, sa.Column("edition", sa.Integer(), nullable=False, server_default="1"))
    for column in ("person", "client"):
        op.add_column("change", sa.Column(column, sa.String(), nullable=False, server_default=""))
    op.create_index(op.f("ix_change_person"), "change", ["person"], unique=False)


def downgrade() -> None:
    op.drop_index(op.f("ix_change_person"), table_name="change")
    for column in ("person", "client"):
        op.drop_column("change", column)
    for table in _EDITED:
        op.drop_column(table, "edition")
