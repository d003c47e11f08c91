"""Talk-throughs of two throws."""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "talk",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("athlete_throw", sa.Integer(), nullable=False),
        sa.Column("twin_throw", sa.Integer(), nullable=False),
        sa.Column("changed", sa.String(), nullable=False),
        sa.Column("body", sa.JSON(), nullable=False),
        sa.Column("voices", sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(["athlete_throw"], ["delivery.id"], name=op.f("fk_talk_athlete_throw"),
                                initially="DEFERRED", deferrable=True),
        sa.ForeignKeyConstraint(["twin_throw"], ["delivery.id"], name=op.f("fk_talk_twin_throw"),
                                initially="DEFERRED", deferrable=True),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_talk")),
    )  # fmt: skip
    with op.batch_alter_table("talk", schema=None) as batch_op:
        for column in ("athlete_throw", "twin_throw"):
            batch_op.create_index(batch_op.f(f"ix_talk_{column}"), [column], unique=False)


def downgrade() -> None:
    op.drop_table("talk")
