"""Kept pairs, and profiles of throws by which twins are found."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "pair",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("athlete_throw", sa.Integer(), nullable=False),
        sa.Column("twin_throw", sa.Integer(), nullable=False),
        sa.Column("others", sa.JSON(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("why", sa.String(), nullable=False),
        sa.Column("notes", sa.JSON(), nullable=False),
        sa.Column("state", sa.JSON(), nullable=False),
        sa.Column("opened", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["athlete_throw"], ["delivery.id"], name=op.f("fk_pair_athlete_throw"),
                                initially="DEFERRED", deferrable=True),
        sa.ForeignKeyConstraint(["twin_throw"], ["delivery.id"], name=op.f("fk_pair_twin_throw"),
                                initially="DEFERRED", deferrable=True),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_pair")),
    )  # fmt: skip
    with op.batch_alter_table("pair", schema=None) as batch_op:
        for column in ("athlete_throw", "twin_throw", "opened"):
            batch_op.create_index(batch_op.f(f"ix_pair_{column}"), [column], unique=False)
    op.create_table(
        "profile",
        sa.Column("delivery_id", sa.Integer(), nullable=False),
        sa.Column("track", sa.String(), nullable=False),
        sa.Column("view", sa.String(), nullable=False),
        sa.Column("rate", sa.Double(), nullable=False),
        sa.Column("features", sa.LargeBinary(), nullable=False),
        sa.ForeignKeyConstraint(["delivery_id"], ["delivery.id"], name=op.f("fk_profile_delivery_id"),
                                initially="DEFERRED", deferrable=True),
        sa.PrimaryKeyConstraint("delivery_id", name=op.f("pk_profile")),
    )  # fmt: skip


def downgrade() -> None:
    op.drop_table("profile")
    op.drop_table("pair")
