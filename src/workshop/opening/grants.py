"""What the application may do in the database, given to it by the owner after every change of the tables."""

from __future__ import annotations

from django.db import connection
from psycopg import sql

from launch.state import Role

__all__ = ["ON_RECORD", "give_rights"]

#: What was once written stays as it was written: no right to change it or take it away.
ON_RECORD = (
    "orders_event", "making_revision", "making_finding", "people_peopleevent", "stations_stationchange",
)  # fmt: skip
_READ_ONLY = ("django_migrations",)


def give_rights() -> None:
    """Give the application's role its rights; where one role is all, as on somebody's own server, none."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT current_user, 1 FROM pg_roles WHERE rolname = %s", [Role.APPLICATION.value])
        row = cursor.fetchone()
        if row is None or row[0] == Role.APPLICATION.value:
            return
        role = sql.Identifier(Role.APPLICATION.value)
        database = sql.Identifier(connection.settings_dict["NAME"])
        for statement in (
            "REVOKE ALL ON DATABASE {database} FROM PUBLIC",
            "GRANT CONNECT ON DATABASE {database} TO {role}",
            "REVOKE ALL ON ALL TABLES IN SCHEMA public FROM {role}",
            "REVOKE ALL ON SCHEMA public FROM PUBLIC",
            "GRANT USAGE ON SCHEMA public TO {role}",
            "GRANT SELECT, INSERT, UPDATE, DELETE ON ALL TABLES IN SCHEMA public TO {role}",
            "GRANT USAGE, SELECT ON ALL SEQUENCES IN SCHEMA public TO {role}",
            "GRANT EXECUTE ON FUNCTION kizami_forget(bigint[]) TO {role}",
        ):
            cursor.execute(sql.SQL(statement).format(role=role, database=database))
        for names, rights in ((ON_RECORD, "UPDATE, DELETE"), (_READ_ONLY, "INSERT, UPDATE, DELETE")):
            tables = sql.SQL(", ").join(map(sql.Identifier, names))
            cursor.execute(
                sql.SQL("REVOKE {rights} ON {tables} FROM {role}").format(
                    rights=sql.SQL(rights), tables=tables, role=role
                )
            )
