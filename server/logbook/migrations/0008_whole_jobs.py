"""Where an entry came from."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("logbook", "0007_imports"),
    ]

    operations = [
        migrations.AddField(
            model_name="entry",
            name="origin",
            field=models.JSONField(null=True),
        ),
    ]
