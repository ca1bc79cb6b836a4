"""Where vessels went only grows: the database itself refuses to change or remove it."""

from django.db import migrations

from ofen_server.append_only import append_only, never_emptied


class Migration(migrations.Migration):
    """Put the triggers in place."""

    dependencies = [("catalogue", "0002_stock")]
    operations = [append_only("catalogue_move"), never_emptied("catalogue_move")]
