"""Whether a restore was cut off: told by the database itself, beside its tables, so that whatever is started on it knows.

Between the old rows and the removals that are done once more lies a moment in which what was struck is there again. Nobody is let in then.
"""

from __future__ import annotations

from django.db import connection

_NAME = "aftershower.restoring"


def is_unfinished() -> bool:
    """Was a restore begun here and not brought to its end?"""
    with connection.cursor() as cursor:
        # Asked of the catalogue and not of the session, which knows only what held when it began.
        cursor.execute(
            "select exists (select 1 from pg_db_role_setting join pg_database on pg_database.oid = setdatabase"
            " where datname = current_database() and %s = any(setconfig))",
            [f"{_NAME}=yes"],
        )
        return bool(cursor.fetchone()[0])


def mark(unfinished: bool) -> None:
    """Say that it is, or not any more. The database's user has to be its owner."""
    with connection.cursor() as cursor:
        database = connection.ops.quote_name(connection.settings_dict["NAME"])
        cursor.execute(f"alter database {database} " + (f"set {_NAME} = 'yes'" if unfinished else f"reset {_NAME}"))
