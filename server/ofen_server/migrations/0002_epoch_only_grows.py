"""By the newest mark every device knows which life of the database it talks to: no mark is changed or removed."""

from django.db import migrations

from ofen_server.append_only import append_only, never_emptied


class Migration(migrations.Migration):
    dependencies = [("ofen_server", "0001_epoch")]

    operations = [append_only("ofen_server_epoch"), never_emptied("ofen_server_epoch")]
