"""What was tried of an instrument only grows."""

from django.db import migrations

from ofen_server.append_only import append_only, never_emptied


class Migration(migrations.Migration):
    """Put the triggers in place."""

    dependencies = [("instruments", "0001_shelf")]
    operations = [append_only("instruments_trial"), never_emptied("instruments_trial")]
