"""Jobs kept to begin others from."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("jobs", "0005_what_is_next"),
        ("teams", "0004_roles"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name="OwnStart",
            fields=[
                ("id", models.UUIDField(editable=False, primary_key=True, serialize=False)),
                ("title", models.CharField(max_length=120)),
                ("document", models.JSONField()),
                ("kept_at", models.DateTimeField(auto_now=True)),
                ("kept_by", models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                ("team", models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name="starts", to="teams.team")),
            ],
        ),
    ]
