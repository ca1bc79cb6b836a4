"""Papers kept with a job."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

from ofen_server.append_only import append_only


class Migration(migrations.Migration):
    dependencies = [
        ("jobs", "0006_own_starts"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name="Paper",
            fields=[
                ("id", models.UUIDField(editable=False, primary_key=True, serialize=False)),
                ("name", models.CharField(max_length=120)),
                ("kind", models.CharField(max_length=40)),
                ("size", models.PositiveIntegerField()),
                ("digest", models.CharField(max_length=64)),
                ("kept_at", models.DateTimeField(auto_now_add=True)),
                ("job", models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name="papers", to="jobs.job")),
                ("kept_by", models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
            ],
        ),
        append_only("jobs_paper"),
    ]
