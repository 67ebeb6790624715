"""Whose a try, a round or a change is, where several people keep their practice on one server; and who agreed to be named."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    for table in ("tries", "rounds", "changes"):
        op.add_column(table, sa.Column("person", sa.Text))
    op.create_table(
        "people", sa.Column("person", sa.Text, primary_key=True), sa.Column("name", sa.Text, nullable=False)
    )
