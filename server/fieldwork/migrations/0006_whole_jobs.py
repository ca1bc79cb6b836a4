"""Where a run or an event came from."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("fieldwork", "0005_both_clocks"),
    ]

    operations = [
        migrations.AddField(
            model_name="event",
            name="origin",
            field=models.JSONField(null=True),
        ),
        migrations.AddField(
            model_name="run",
            name="origin",
            field=models.JSONField(null=True),
        ),
    ]
