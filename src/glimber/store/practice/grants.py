"""The rights a colleague's role needs on the server that keeps a practice log, and no more."""

from __future__ import annotations

from pathlib import Path
from typing import Final

from glimber.store.faults import StoreError
from glimber.store.practice.location import TABLES, VERSION_TABLE, is_server, setting_of

FUNCTIONS: Final = ("glimber_spread", "glimber_named")
"""Functions that give the figures of a team without anybody's rows."""
_LONGEST_NAME: Final = 63
"""In bytes: PostgreSQL cuts longer names off."""


def grants(role: str) -> tuple[str, ...]:
    """Return the statements that give a role what keeping practice needs: reading and adding records, changing nothing else.

    Records are voided and ended by updates, so tries, rounds and changes can be updated; only the names of the team can be
    deleted, each by their own person. Raises StoreError for what is no name of a role.
    """
    if not role or len(role.encode()) > _LONGEST_NAME or not role.isprintable():
        raise StoreError(f"{role!r} is no name of a role; expected 1 to {_LONGEST_NAME} printable characters")
    name = '"' + role.replace('"', '""') + '"'
    return (
        f"GRANT USAGE ON SCHEMA public TO {name}",
        f"GRANT SELECT ON {VERSION_TABLE} TO {name}",
        *(f"GRANT SELECT, INSERT, UPDATE ON {table} TO {name}" for table in sorted({*TABLES, "ticks"} - {"events"})),
        f"GRANT SELECT, INSERT ON events TO {name}",
        f"GRANT SELECT, INSERT, DELETE ON people TO {name}",
        *(f"GRANT EXECUTE ON FUNCTION {function}(text[], text[], int) TO {name}" for function in FUNCTIONS),
    )


def apply_grants(folder: Path, setting: str, role: str) -> tuple[str, ...]:
    """Give a role what it needs on the server of a folio, all of it or nothing; the statements that were carried out.

    Raises StoreError for a log in a file, a role that is not there, or an own role that may not grant.
    """
    import sqlalchemy as sa

    from glimber.store.practice.log import open_log

    statements = grants(role)
    if not is_server(setting_of(folder, setting)):
        raise StoreError(f"{folder}: the practice log is a file of this folio; roles are of a database server")
    with open_log(folder, setting) as log:
        log.connection.rollback()
        try:
            for statement in statements:
                log.connection.execute(sa.text(statement.replace(":", r"\:")))
            log.connection.commit()
        except sa.exc.DBAPIError as error:
            log.connection.rollback()
            raise StoreError(f"nothing was granted to {role}: {str(error.orig).splitlines()[0]}") from None
    return statements
