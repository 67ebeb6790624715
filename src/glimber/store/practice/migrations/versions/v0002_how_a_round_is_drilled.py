"""Add how a round was planned and drilled, and what each prompt showed."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("tries", sa.Column("cue", sa.Text))
    op.add_column("rounds", sa.Column("hits", sa.Text, nullable=False, server_default="[]"))
    op.add_column("rounds", sa.Column("minutes", sa.Float))
    op.add_column("rounds", sa.Column("goal", sa.Text, nullable=False, server_default="picked"))
    op.add_column("rounds", sa.Column("cue", sa.Text))
    op.add_column("rounds", sa.Column("deadline", sa.Text))
    op.add_column("rounds", sa.Column("strict", sa.Boolean, nullable=False, server_default=sa.false()))
    op.add_column("rounds", sa.Column("hands", sa.Text))
    op.add_column("rounds", sa.Column("run", sa.Text))
