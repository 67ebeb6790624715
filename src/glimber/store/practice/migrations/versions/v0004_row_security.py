"""On a server each role has its own rows: an owner on every record, row-level security by it, and spreads over a team from
functions that give no person's row. A log in a file has one person, and stays as it is.

The role that made the tables administers the server and is not held by the policies.
"""

import hashlib

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None

_TABLES = ("tries", "rounds", "changes", "events", "people")
_MINE = "owner = CURRENT_USER::text"
_QUARTILES = "ARRAY[0, 0.25, 0.5, 0.75, 1]::float[]"
_SHARED = "(to_trigger IS NOT NULL OR verdict = 'retire')"
_PER_PERSON = """
    SELECT t.binding, t.person, count(*) AS tries, avg(CASE WHEN t.outcome = 'hit' THEN 1.0 ELSE 0.0 END) AS clean,
           percentile_cont(0.5) WITHIN GROUP (ORDER BY t.recall_ms + coalesce(t.motor_ms, 0))
               FILTER (WHERE t.outcome = 'hit') AS time_ms
    FROM tries t JOIN unnest(wanted, places) AS w(binding, place) ON t.binding = w.binding AND t."trigger" = w.place
    WHERE t.first AND t.aids = 0 AND t.outcome <> 'void'
    GROUP BY t.binding, t.person HAVING count(*) >= least_tries
"""
_SPREAD = f"""
CREATE FUNCTION glimber_spread(wanted text[], places text[], least_tries int)
RETURNS TABLE (binding text, people bigint, tries numeric, clean float[], time_ms float[])
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS $$
    WITH each AS ({_PER_PERSON})
    SELECT each.binding, count(*), CASE WHEN count(*) >= 3 THEN sum(each.tries) END,
           CASE WHEN count(*) >= 3 THEN percentile_cont({_QUARTILES}) WITHIN GROUP (ORDER BY each.clean::float) END,
           CASE WHEN count(*) >= 3 THEN percentile_cont({_QUARTILES}) WITHIN GROUP (ORDER BY each.time_ms) END
    FROM each GROUP BY each.binding
$$
"""
_NAMED = f"""
CREATE FUNCTION glimber_named(wanted text[], places text[], least_tries int)
RETURNS TABLE (binding text, name text, tries bigint, clean float, time_ms float)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS $$
    WITH each AS ({_PER_PERSON.replace("WHERE t.first", "WHERE t.person IN (SELECT person FROM people) AND t.first")})
    SELECT each.binding, people.name, each.tries, each.clean::float, each.time_ms
    FROM each JOIN people USING (person) ORDER BY each.binding, people.name
$$
"""
_ONLY_TICKED = """
CREATE FUNCTION glimber_only_ticked() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF OLD.owner IS DISTINCT FROM CURRENT_USER::text AND OLD.owner IS NOT NULL
       AND (to_jsonb(NEW) - 'applied' - 'reverted') <> (to_jsonb(OLD) - 'applied' - 'reverted') THEN
        RAISE EXCEPTION 'a change of % can be ticked off by others and not altered', OLD.owner;
    END IF;
    RETURN NEW;
END $$
"""


def upgrade() -> None:
    connection = op.get_bind()
    if connection.dialect.name != "postgresql":
        return
    for table in _TABLES:
        op.add_column(table, sa.Column("owner", sa.Text))
        op.execute(f"ALTER TABLE {table} ALTER COLUMN owner SET DEFAULT CURRENT_USER::text")
    _own_what_is_there(connection)
    for table in _TABLES:
        op.execute(f"ALTER TABLE {table} ENABLE ROW LEVEL SECURITY")
        seen = {"people": "true", "changes": f"{_MINE} OR owner IS NULL OR {_SHARED}"}.get(table, f"{_MINE} OR owner IS NULL")
        altered = f"{_MINE} OR owner IS NULL OR {_SHARED}" if table == "changes" else f"{_MINE} OR owner IS NULL"
        op.execute(f"CREATE POLICY glimber_see ON {table} FOR SELECT USING ({seen})")
        op.execute(f"CREATE POLICY glimber_add ON {table} FOR INSERT WITH CHECK ({_MINE})")
        op.execute(f"CREATE POLICY glimber_alter ON {table} FOR UPDATE USING ({altered}) WITH CHECK ({altered})")
        op.execute(f"CREATE POLICY glimber_remove ON {table} FOR DELETE USING ({_MINE})")
    op.execute(_ONLY_TICKED)
    op.execute("CREATE TRIGGER glimber_only_ticked BEFORE UPDATE ON changes FOR EACH ROW EXECUTE FUNCTION glimber_only_ticked()")
    for function in (_SPREAD, _NAMED):
        op.execute(function)
    for name in ("glimber_spread", "glimber_named"):
        op.execute(f"REVOKE ALL ON FUNCTION {name}(text[], text[], int) FROM PUBLIC")


def _own_what_is_there(connection: sa.Connection) -> None:
    """Give records from before there were owners to the roles whose digest they bear; the others stay seen by all who were."""
    roles = [str(name) for name in connection.exec_driver_sql("SELECT rolname FROM pg_roles").scalars()]
    for role in roles:
        person = hashlib.sha256(f"glimber person {role}".encode()).hexdigest()[:24]
        for table in ("tries", "rounds", "changes", "people"):
            statement = sa.text(f"UPDATE {table} SET owner = :role WHERE person = :person AND owner IS NULL")
            connection.execute(statement, {"role": role, "person": person})
    connection.exec_driver_sql("UPDATE events SET owner = rounds.owner FROM rounds WHERE events.round = rounds.id")
