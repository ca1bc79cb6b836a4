"""What was done that leaves no other record."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

from ofen_server.append_only import append_only, never_emptied


class Migration(migrations.Migration):
    dependencies = [
        ("teams", "0004_roles"),
    ]

    operations = [
        migrations.CreateModel(
            name="Did",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("job", models.UUIDField(db_index=True, null=True)),
                ("act", models.CharField(max_length=20)),
                ("words", models.CharField(max_length=300)),
                ("at", models.DateTimeField(auto_now_add=True)),
                (
                    "person",
                    models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name="did", to=settings.AUTH_USER_MODEL),
                ),
                ("team", models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name="did", to="teams.team")),
            ],
            options={
                "indexes": [models.Index(fields=["team", "person", "-at"], name="did_of_a_person")],
            },
        ),
        append_only("teams_did"),
        never_emptied("teams_did"),
    ]
