"""Whole jobs in and out: where a record came from, papers told within their job, jobs found by words and given to another team."""

import uuid

from django.conf import settings
from django.db import migrations, models

from ofen_server.append_only import fixed


class Migration(migrations.Migration):
    dependencies = [
        ("jobs", "0008_due"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.AddField(
            model_name="job",
            name="found_by",
            field=models.TextField(blank=True, default=""),
        ),
        migrations.AddField(
            model_name="job",
            name="people",
            field=models.JSONField(default=list),
        ),
        migrations.AddField(
            model_name="job",
            name="origin",
            field=models.JSONField(null=True),
        ),
        migrations.AddField(
            model_name="paper",
            name="origin",
            field=models.JSONField(null=True),
        ),
        migrations.AddField(
            model_name="paper",
            name="uid",
            field=models.UUIDField(null=True, editable=False),
        ),
        # The device made the id of a paper; until now it was the key itself. The table only grows but for this once.
        migrations.RunSQL(
            """
            ALTER TABLE jobs_paper DISABLE TRIGGER jobs_paper_only_grows;
            UPDATE jobs_paper SET uid = id;
            ALTER TABLE jobs_paper ENABLE TRIGGER jobs_paper_only_grows;
            """,
            migrations.RunSQL.noop,
        ),
        migrations.AlterField("paper", "uid", models.UUIDField(editable=False)),
        migrations.AlterField(
            model_name="paper",
            name="id",
            field=models.UUIDField(default=uuid.uuid4, editable=False, primary_key=True, serialize=False),
        ),
        migrations.AddConstraint(
            model_name="paper",
            constraint=models.UniqueConstraint(fields=("job", "uid"), name="one_paper_of_an_id"),
        ),
        # A job may be given to another team: its team is no longer fixed.
        migrations.RunSQL(fixed("jobs_job", ("id", "team_id", "made_at")).reverse_sql, migrations.RunSQL.noop),
        fixed("jobs_job", ("id", "made_at")),
    ]
