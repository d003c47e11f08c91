"""Plans, arm notes, practice tasks, the league's limits, what devices logged, and figures worked out once."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("athlete", sa.Column("limits", sa.JSON(), nullable=False, server_default="{}"))
    op.add_column("session", sa.Column("thrown", sa.Integer(), nullable=True))
    op.add_column("session", sa.Column("log", sa.JSON(), nullable=False, server_default="[]"))
    op.create_table(
        "figures",
        sa.Column("delivery_id", sa.Integer(), nullable=False),
        sa.Column("basis", sa.String(), nullable=False),
        sa.Column("planar", sa.Boolean(), nullable=False),
        sa.Column("data", sa.LargeBinary(), nullable=False),
        _owner("figures", "delivery"),
        sa.PrimaryKeyConstraint("delivery_id", name=op.f("pk_figures")),
    )
    op.create_table(
        "plan",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("athlete_id", sa.Integer(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("made", sa.String(), nullable=False),
        sa.Column("sent", sa.String(), nullable=True),
        sa.Column("start", sa.String(), nullable=True),
        sa.Column("next_look", sa.String(), nullable=True),
        sa.Column("speed_aim_mps", sa.Double(), nullable=True),
        sa.Column("focus", sa.JSON(), nullable=False),
        sa.Column("notes", sa.String(), nullable=False),
        _owner("plan", "athlete"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_plan")),
        sa.UniqueConstraint("athlete_id", "version", name=op.f("uq_plan_athlete_id")),
    )
    op.create_table(
        "arm_note",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("athlete_id", sa.Integer(), nullable=False),
        sa.Column("date", sa.String(), nullable=False),
        sa.Column("soreness", sa.Integer(), nullable=False),
        sa.Column("place", sa.String(), nullable=False),
        sa.Column("since", sa.String(), nullable=True),
        sa.Column("text", sa.String(), nullable=False),
        _owner("arm_note", "athlete"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_arm_note")),
    )
    for table, column in (("plan", "athlete_id"), ("arm_note", "athlete_id"), ("arm_note", "date")):
        op.create_index(op.f(f"ix_{table}_{column}"), table, [column], unique=False)
    op.create_table(
        "task",
        sa.Column("id", sa.Integer(), nullable=False),
        *(
            sa.Column(name, sa.String(), nullable=False)
            for name in ("key", "title", "purpose", "how", "dose", "caution")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_task")),
        sa.UniqueConstraint("key", name=op.f("uq_task_key")),
    )


def _owner(table: str, owner: str) -> sa.ForeignKeyConstraint:
    name = op.f(f"fk_{table}_{owner}_id")
    return sa.ForeignKeyConstraint([f"{owner}_id"], [f"{owner}.id"], name=name, initially="DEFERRED", deferrable=True)


def downgrade() -> None:
    for table in ("task", "arm_note", "plan", "figures"):
        op.drop_table(table)
    for table, column in (("session", "log"), ("session", "thrown"), ("athlete", "limits")):
        op.drop_column(table, column)
