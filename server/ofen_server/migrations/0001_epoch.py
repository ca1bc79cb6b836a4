"""The mark of this life of the database."""

import uuid
from typing import Any

from django.db import migrations, models


def first(apps: Any, schema_editor: Any) -> None:
    """Begin the first life."""
    apps.get_model("ofen_server", "Epoch").objects.create()


class Migration(migrations.Migration):
    initial = True

    dependencies = []

    operations = [
        migrations.CreateModel(
            name="Epoch",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("mark", models.UUIDField(default=uuid.uuid4, editable=False)),
                ("since", models.DateTimeField(auto_now_add=True)),
            ],
        ),
        migrations.RunPython(first, migrations.RunPython.noop),
    ]
