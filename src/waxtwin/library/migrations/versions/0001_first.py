"""The first schema."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "athlete",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("throws", sa.String(), nullable=False),
        sa.Column("height_m", sa.Double(), nullable=True),
        sa.Column("mass_kg", sa.Double(), nullable=True),
        sa.Column("span_m", sa.Double(), nullable=True),
        sa.Column("born", sa.String(), nullable=True),
        sa.Column("guardian", sa.String(), nullable=False),
        sa.Column("consent_on", sa.String(), nullable=True),
        sa.Column("keep_until", sa.String(), nullable=True),
        sa.Column("notes", sa.String(), nullable=False),
        sa.Column("extra", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_athlete")),
    )
    with op.batch_alter_table("athlete", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_athlete_name"), ["name"], unique=False)

    op.create_table(
        "change",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("at", sa.String(), nullable=False),
        sa.Column("label", sa.String(), nullable=False),
        sa.Column("undone", sa.Boolean(), nullable=False),
        sa.Column("rows", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_change")),
    )
    with op.batch_alter_table("change", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_change_undone"), ["undone"], unique=False)

    op.create_table(
        "clip",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("sha256", sa.String(), nullable=False),
        sa.Column("file", sa.String(), nullable=False),
        sa.Column("linked", sa.Boolean(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("facts", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_clip")),
        sa.UniqueConstraint("sha256", name=op.f("uq_clip_sha256")),
    )
    op.create_table(
        "content",
        sa.Column("hash", sa.String(), nullable=False),
        sa.Column("data", sa.LargeBinary(), nullable=False),
        sa.PrimaryKeyConstraint("hash", name=op.f("pk_content")),
    )
    op.create_table(
        "session",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("athlete_id", sa.Integer(), nullable=False),
        sa.Column("date", sa.String(), nullable=False),
        sa.Column("place", sa.String(), nullable=False),
        sa.Column("notes", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["athlete_id"], ["athlete.id"], name=op.f("fk_session_athlete_id"), initially="DEFERRED", deferrable=True
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_session")),
        sa.UniqueConstraint("athlete_id", "date", name=op.f("uq_session_athlete_id")),
    )
    with op.batch_alter_table("session", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_session_athlete_id"), ["athlete_id"], unique=False)

    op.create_table(
        "delivery",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("athlete_id", sa.Integer(), nullable=False),
        sa.Column("session_id", sa.Integer(), nullable=True),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("recorded", sa.String(), nullable=True),
        sa.Column("pitch", sa.String(), nullable=True),
        sa.Column("effort", sa.String(), nullable=True),
        sa.Column("started_from", sa.String(), nullable=True),
        sa.Column("ball_speed_mps", sa.Double(), nullable=True),
        sa.Column("screening", sa.JSON(), nullable=False),
        sa.Column("notes", sa.String(), nullable=False),
        sa.Column("extra", sa.JSON(), nullable=False),
        sa.Column("origin", sa.String(), nullable=False),
        sa.Column("origin_hash", sa.String(), nullable=True),
        sa.Column("track", sa.String(), nullable=True),
        sa.Column("track_from", sa.String(), nullable=False),
        sa.Column("added", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["athlete_id"], ["athlete.id"], name=op.f("fk_delivery_athlete_id"), initially="DEFERRED", deferrable=True
        ),
        sa.ForeignKeyConstraint(
            ["session_id"], ["session.id"], name=op.f("fk_delivery_session_id"), initially="DEFERRED", deferrable=True
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_delivery")),
    )
    with op.batch_alter_table("delivery", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_delivery_athlete_id"), ["athlete_id"], unique=False)
        batch_op.create_index(batch_op.f("ix_delivery_origin_hash"), ["origin_hash"], unique=False)
        batch_op.create_index(batch_op.f("ix_delivery_recorded"), ["recorded"], unique=False)
        batch_op.create_index(batch_op.f("ix_delivery_session_id"), ["session_id"], unique=False)

    op.create_table(
        "event",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("delivery_id", sa.Integer(), nullable=False),
        sa.Column("stop", sa.String(), nullable=False),
        sa.Column("time", sa.Double(), nullable=False),
        sa.ForeignKeyConstraint(
            ["delivery_id"], ["delivery.id"], name=op.f("fk_event_delivery_id"), initially="DEFERRED", deferrable=True
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_event")),
        sa.UniqueConstraint("delivery_id", "stop", name=op.f("uq_event_delivery_id")),
    )
    with op.batch_alter_table("event", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_event_delivery_id"), ["delivery_id"], unique=False)

    op.create_table(
        "tag",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("delivery_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["delivery_id"], ["delivery.id"], name=op.f("fk_tag_delivery_id"), initially="DEFERRED", deferrable=True
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_tag")),
        sa.UniqueConstraint("delivery_id", "name", name=op.f("uq_tag_delivery_id")),
    )
    with op.batch_alter_table("tag", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_tag_delivery_id"), ["delivery_id"], unique=False)
        batch_op.create_index(batch_op.f("ix_tag_name"), ["name"], unique=False)

    op.create_table(
        "view",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("delivery_id", sa.Integer(), nullable=False),
        sa.Column("clip_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("view", sa.String(), nullable=False),
        sa.Column("first_s", sa.Double(), nullable=True),
        sa.Column("last_s", sa.Double(), nullable=True),
        sa.Column("start_s", sa.Double(), nullable=False),
        sa.Column("capture_fps", sa.Double(), nullable=True),
        sa.Column("camera", sa.JSON(), nullable=False),
        sa.Column("clicks", sa.JSON(), nullable=False),
        sa.Column("marks", sa.String(), nullable=True),
        sa.Column("steadying", sa.String(), nullable=True),
        sa.ForeignKeyConstraint(
            ["clip_id"], ["clip.id"], name=op.f("fk_view_clip_id"), initially="DEFERRED", deferrable=True
        ),
        sa.ForeignKeyConstraint(
            ["delivery_id"], ["delivery.id"], name=op.f("fk_view_delivery_id"), initially="DEFERRED", deferrable=True
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_view")),
    )
    with op.batch_alter_table("view", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_view_clip_id"), ["clip_id"], unique=False)
        batch_op.create_index(batch_op.f("ix_view_delivery_id"), ["delivery_id"], unique=False)


def downgrade() -> None:
    with op.batch_alter_table("view", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_view_delivery_id"))
        batch_op.drop_index(batch_op.f("ix_view_clip_id"))

    op.drop_table("view")
    with op.batch_alter_table("tag", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_tag_name"))
        batch_op.drop_index(batch_op.f("ix_tag_delivery_id"))

    op.drop_table("tag")
    with op.batch_alter_table("event", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_event_delivery_id"))

    op.drop_table("event")
    with op.batch_alter_table("delivery", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_delivery_session_id"))
        batch_op.drop_index(batch_op.f("ix_delivery_recorded"))
        batch_op.drop_index(batch_op.f("ix_delivery_origin_hash"))
        batch_op.drop_index(batch_op.f("ix_delivery_athlete_id"))

    op.drop_table("delivery")
    with op.batch_alter_table("session", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_session_athlete_id"))

    op.drop_table("session")
    op.drop_table("content")
    op.drop_table("clip")
    with op.batch_alter_table("change", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_change_undone"))

    op.drop_table("change")
    with op.batch_alter_table("athlete", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_athlete_name"))

    op.drop_table("athlete")
