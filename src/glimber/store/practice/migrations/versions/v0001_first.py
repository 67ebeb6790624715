"""Rounds, tries, key events and changes."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "rounds",
        sa.Column("id", sa.String(36), primary_key=True),
        sa.Column("began", sa.String(24), nullable=False),
        sa.Column("ended", sa.String(24)),
        sa.Column("computer", sa.Text, nullable=False),
        sa.Column("mode", sa.Text, nullable=False),
        sa.Column("bindings", sa.Text, nullable=False),
    )
    op.create_table(
        "tries",
        sa.Column("id", sa.String(36), primary_key=True),
        sa.Column("round", sa.String(36), nullable=False),
        sa.Column("nth", sa.Integer, nullable=False),
        sa.Column("at", sa.String(24), nullable=False, index=True),
        sa.Column("computer", sa.Text, nullable=False),
        sa.Column("binding", sa.Text, nullable=False, index=True),
        sa.Column("trigger", sa.Text, nullable=False),
        sa.Column("mode", sa.Text, nullable=False),
        sa.Column("outcome", sa.Text, nullable=False),
        sa.Column("strict", sa.Boolean, nullable=False),
        sa.Column("slip", sa.Text),
        sa.Column("pressed", sa.Text),
        sa.Column("would_do", sa.Text),
        sa.Column("offset_u", sa.Text),
        sa.Column("recall_ms", sa.Float),
        sa.Column("motor_ms", sa.Float),
        sa.Column("deadline_ms", sa.Float, nullable=False),
        sa.Column("first", sa.Boolean, nullable=False),
        sa.Column("cold", sa.Boolean, nullable=False),
        sa.Column("aids", sa.Integer, nullable=False),
        sa.Column("void_why", sa.Text),
    )
    op.create_table(
        "events",
        sa.Column("id", sa.String(36), primary_key=True),
        sa.Column("round", sa.String(36), nullable=False),
        sa.Column("at", sa.String(24), nullable=False),
        sa.Column("board", sa.Text),
        sa.Column("events", sa.Text, nullable=False),
    )
    op.create_table(
        "changes",
        sa.Column("id", sa.String(36), primary_key=True),
        sa.Column("at", sa.String(24), nullable=False),
        sa.Column("computer", sa.Text, nullable=False),
        sa.Column("binding", sa.Text, nullable=False),
        sa.Column("verdict", sa.Text, nullable=False),
        sa.Column("command", sa.Text),
        sa.Column("from_trigger", sa.Text),
        sa.Column("to_trigger", sa.Text),
        sa.Column("why", sa.Text, nullable=False),
        sa.Column("swap_with", sa.Text),
        sa.Column("applied", sa.String(24)),
        sa.Column("reverted", sa.String(24)),
        sa.Column("until", sa.String(24)),
        sa.Column("old_trigger", sa.Text, nullable=False),
    )
