"""Triggers that let a table only grow, or keep what a row is about for ever."""

from collections.abc import Sequence

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


def never_emptied(table: str) -> migrations.RunSQL:
    """Return the migration step that refuses TRUNCATE on a table that only grows; no trigger by row sees that."""
    return migrations.RunSQL(
        f"""
        CREATE TRIGGER {table}_never_emptied BEFORE TRUNCATE ON {table}
        FOR EACH STATEMENT EXECUTE FUNCTION {table}_only_grows();
        """,
        f"DROP TRIGGER {table}_never_emptied ON {table};",
    )


def fixed(table: str, columns: Sequence[str]) -> migrations.RunSQL:
    """Return the migration step that keeps these columns of a table as they were written, and its rows where they are."""
    changed = " OR ".join(f"NEW.{c} IS DISTINCT FROM OLD.{c}" for c in columns)
    return migrations.RunSQL(
        f"""
        CREATE FUNCTION {table}_stays() RETURNS trigger LANGUAGE plpgsql AS
        $$ BEGIN RAISE EXCEPTION '{table}: {", ".join(columns)} are never changed, and no row is removed'; END $$;
        CREATE TRIGGER {table}_stays BEFORE UPDATE ON {table} FOR EACH ROW WHEN ({changed}) EXECUTE FUNCTION {table}_stays();
        CREATE TRIGGER {table}_stays_there BEFORE DELETE ON {table} FOR EACH ROW EXECUTE FUNCTION {table}_stays();
        CREATE TRIGGER {table}_never_emptied BEFORE TRUNCATE ON {table} FOR EACH STATEMENT EXECUTE FUNCTION {table}_stays();
        """,
        f"""
        DROP TRIGGER {table}_stays ON {table}; DROP TRIGGER {table}_stays_there ON {table};
        DROP TRIGGER {table}_never_emptied ON {table}; DROP FUNCTION {table}_stays();
        """,
    )
