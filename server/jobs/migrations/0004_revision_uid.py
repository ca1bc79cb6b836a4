import uuid

import django.contrib.postgres.functions
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("jobs", "0003_append_only"),
    ]

    operations = [
        migrations.AddField(
            model_name="revision",
            name="uid",
            field=models.UUIDField(
                db_default=django.contrib.postgres.functions.RandomUUID(), default=uuid.uuid4, editable=False, unique=True
            ),
        ),
        migrations.AddField(
            model_name="revision",
            name="device_version",
            field=models.CharField(blank=True, db_default="", default="", max_length=20),
        ),
        migrations.AddField(
            model_name="revision",
            name="device_agrees",
            field=models.BooleanField(default=None, null=True),
        ),
    ]
