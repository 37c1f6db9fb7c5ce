"""shooting: takes with their settings, backdrop frames and guides for each angle, set-ups, freshness"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    op.create_table(
        "setup",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(length=80), nullable=False),
        sa.Column("camera", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("lamps", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("locked", sa.Boolean(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_setup")),
        sa.UniqueConstraint("name", name="uq_setup_name"),
    )
    op.add_column("frame", sa.Column("angle_id", sa.Integer(), nullable=True))
    op.create_foreign_key(op.f("fk_frame_angle_id"), "frame", "angle", ["angle_id"], ["id"], ondelete="SET NULL")
    op.add_column("frame", sa.Column("made_with", postgresql.JSONB(astext_type=sa.Text()), nullable=True))
    op.drop_constraint("ck_frame_kind", "frame")
    op.create_check_constraint(op.f("ck_frame_kind"), "frame", "kind in ('product', 'backdrop', 'silhouette')")
    op.add_column("angle", sa.Column("guide_id", sa.Integer(), nullable=True))
    op.create_foreign_key("fk_angle_guide", "angle", "frame", ["guide_id"], ["id"], ondelete="SET NULL")
    op.add_column("shot", sa.Column("skipped", sa.Boolean(), nullable=False, server_default=sa.false()))
    op.add_column(
        "cut", sa.Column("freshness", postgresql.JSONB(astext_type=sa.Text()), nullable=False, server_default=sa.text("'[]'"))
    )
    op.add_column("cut", sa.Column("estimated", sa.Boolean(), nullable=False, server_default=sa.false()))
