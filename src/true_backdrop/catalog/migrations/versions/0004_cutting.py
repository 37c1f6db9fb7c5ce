"""silhouettes of the empty set, frames that come back from a retoucher, places of doubt, levels for the chart of a set."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0004"
down_revision = "0003"

_KINDS = "kind in ('product', 'backdrop', 'silhouette', 'slice', 'backlit', 'matte', 'retouched')"


def upgrade() -> None:
    op.drop_constraint("ck_frame_kind", "frame")
    op.create_check_constraint(op.f("ck_frame_kind"), "frame", _KINDS)
    op.add_column("cut", sa.Column("places", postgresql.JSONB(), nullable=False, server_default="[]"))
    op.add_column("cut", sa.Column("levels_sha256", sa.String(length=64), nullable=True))
    op.add_column("cut", sa.Column("cutout_sha256", sa.String(length=64), nullable=True))
    op.add_column("cut", sa.Column("hand_made", sa.Boolean(), nullable=False, server_default=sa.false()))
    op.add_column("treatment_revision", sa.Column("batch", sa.String(length=32), nullable=True))
    op.add_column("treatment_revision", sa.Column("stands_for", sa.Integer(), nullable=True))
    op.add_column("shot", sa.Column("accepted_key", sa.String(length=64), nullable=True))
