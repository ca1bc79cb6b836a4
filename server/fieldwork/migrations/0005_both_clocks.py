"""Both clocks of a beginning and of a sign-off; whether an event was checked wholly as it came in; what a run never changes."""

from django.db import migrations, models

from ofen_server.append_only import fixed, never_emptied


class Migration(migrations.Migration):
    dependencies = [("fieldwork", "0004_sealed_procedure")]

    operations = [
        migrations.AddField("run", "device_at", models.DateTimeField(null=True)),
        migrations.AddField("signoff", "device_at", models.DateTimeField(null=True)),
        migrations.AddField("event", "checked", models.BooleanField(default=False)),
        never_emptied("fieldwork_event"),
        never_emptied("fieldwork_signoff"),
        fixed("fieldwork_run", ("id", "job_id", "revision_id", "unit", "procedure", "begun_by_id", "begun_at", "device_at")),
    ]
