"""These records only grow: the database itself refuses to change or remove them."""

from django.db import migrations

from ofen_server.append_only import append_only


class Migration(migrations.Migration):
    """Put the triggers in place."""

    dependencies = [("logbook", "0002_initial")]
    operations = [append_only("logbook_entry")]
