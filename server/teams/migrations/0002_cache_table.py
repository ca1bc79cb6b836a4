"""The cache lives in PostgreSQL, so that any number of processes share it."""

from typing import Any

from django.core.management import call_command
from django.db import migrations


def make_table(apps: Any, editor: Any) -> None:
    """Make the table of the cache."""
    call_command("createcachetable", database=editor.connection.alias, verbosity=0)


class Migration(migrations.Migration):
    """Make the cache table."""

    dependencies = [("teams", "0001_initial")]
    operations = [migrations.RunPython(make_table, migrations.RunPython.noop)]
