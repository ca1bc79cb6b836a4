"""A trigger that lets a table only grow."""

from django.db import migrations


def append_only(table: str) -> migrations.RunSQL:
    """Return the migration step that refuses UPDATE and DELETE on a table."""
    return migrations.RunSQL(
        f"""
        CREATE FUNCTION {table}_only_grows() RETURNS trigger LANGUAGE plpgsql AS
        $$ BEGIN RAISE EXCEPTION '{table} only grows: its rows are never changed or removed'; END $$;
        CREATE TRIGGER {table}_only_grows BEFORE UPDATE OR DELETE ON {table}
        FOR EACH ROW EXECUTE FUNCTION {table}_only_grows();
        """,
        f"DROP TRIGGER {table}_only_grows ON {table}; DROP FUNCTION {table}_only_grows();",
    )
