"""sources of takes: watched folders, focus series, spins, the framing box of a set-up"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    json = postgresql.JSONB(astext_type=sa.Text())
    op.create_table(
        "focus_series",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("shoot_id", sa.Integer(), nullable=False),
        sa.Column("shot_id", sa.Integer(), nullable=False),
        sa.Column("steps", json, nullable=False),
        sa.Column("state", sa.String(length=10), nullable=False),
        sa.Column("problem", sa.String(length=1000), nullable=True),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.CheckConstraint("state in ('shooting', 'merging', 'done', 'failed')", name=op.f("ck_focus_series_state")),
        sa.ForeignKeyConstraint(["shoot_id"], ["shoot.id"], name=op.f("fk_focus_series_shoot_id"), ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["shot_id"], ["shot.id"], name=op.f("fk_focus_series_shot_id"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_focus_series")),
    )
    op.create_table(
        "taken_file",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("shoot_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(length=255), nullable=False),
        sa.Column("size", sa.BigInteger(), nullable=False),
        sa.Column("mtime_ns", sa.BigInteger(), nullable=False),
        sa.Column("frame_id", sa.Integer(), nullable=True),
        sa.Column("problem", sa.String(length=1000), nullable=True),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["frame_id"], ["frame.id"], name=op.f("fk_taken_file_frame_id"), ondelete="SET NULL"),
        sa.ForeignKeyConstraint(["shoot_id"], ["shoot.id"], name=op.f("fk_taken_file_shoot_id"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_taken_file")),
        sa.UniqueConstraint("shoot_id", "name", "size", "mtime_ns", name="uq_taken_file_stamp"),
    )
    op.add_column("shoot", sa.Column("watched_folder", sa.String(length=500), nullable=True))
    op.add_column("shoot", sa.Column("expected_shot_id", sa.Integer(), nullable=True))
    op.create_foreign_key("fk_shoot_expected_shot", "shoot", "shot", ["expected_shot_id"], ["id"], ondelete="SET NULL")
    op.add_column("shoot", sa.Column("expected_kind", sa.String(length=10), nullable=False, server_default="product"))
    op.add_column("angle", sa.Column("spin", sa.String(length=50), nullable=True))
    op.add_column("angle", sa.Column("degrees", sa.Float(), nullable=True))
    op.add_column("angle", sa.Column("stands_as_id", sa.Integer(), nullable=True))
    op.create_foreign_key("fk_angle_stands_as", "angle", "angle", ["stands_as_id"], ["id"], ondelete="SET NULL")
    op.add_column("frame", sa.Column("series_id", sa.Integer(), nullable=True))
    op.create_foreign_key(op.f("fk_frame_series_id"), "frame", "focus_series", ["series_id"], ["id"], ondelete="SET NULL")
    op.drop_constraint("ck_frame_kind", "frame")
    op.create_check_constraint(op.f("ck_frame_kind"), "frame", "kind in ('product', 'backdrop', 'silhouette', 'slice')")
    op.add_column("setup", sa.Column("framing", json, nullable=True))
