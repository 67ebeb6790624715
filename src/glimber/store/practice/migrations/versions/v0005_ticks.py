"""On a server each person ticks off for themselves: what one has set in their program is not set in another's.

What was ticked off before counts for everybody, as it did then. A log in a file has one person, and stays as it is.
"""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None

_MINE = "owner = CURRENT_USER::text"
_ONLY_REVERTED = """
CREATE OR REPLACE FUNCTION glimber_only_ticked() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF OLD.owner IS DISTINCT FROM CURRENT_USER::text AND OLD.owner IS NOT NULL
       AND (to_jsonb(NEW) - 'reverted') <> (to_jsonb(OLD) - 'reverted') THEN
        RAISE EXCEPTION 'a change of % can be taken back by others and not altered', OLD.owner;
    END IF;
    RETURN NEW;
END $$
"""
_MAY_CHANGE = """
SELECT DISTINCT grantee FROM information_schema.role_table_grants
WHERE table_name = 'changes' AND privilege_type = 'UPDATE' AND grantee <> CURRENT_USER
"""


def upgrade() -> None:
    connection = op.get_bind()
    if connection.dialect.name != "postgresql":
        return
    op.create_table(
        "ticks",
        sa.Column("change", sa.Text, primary_key=True),
        sa.Column("person", sa.Text, primary_key=True),
        sa.Column("owner", sa.Text, primary_key=True, server_default=sa.text("CURRENT_USER")),
        sa.Column("applied", sa.Text),
    )
    op.execute("ALTER TABLE ticks ENABLE ROW LEVEL SECURITY")
    op.execute(f"CREATE POLICY glimber_own ON ticks USING ({_MINE}) WITH CHECK ({_MINE})")
    op.execute(_ONLY_REVERTED)
    for role in list(connection.exec_driver_sql(_MAY_CHANGE).scalars()):
        name = '"' + str(role).replace('"', '""') + '"'
        op.execute(f"GRANT SELECT, INSERT, UPDATE ON ticks TO {name}".replace(":", r"\:"))
