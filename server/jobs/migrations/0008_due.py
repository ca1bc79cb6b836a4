"""What is due on a job, in columns of its own: the next visit, the soonest safety test, all of it; and when something was logged last."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("jobs", "0007_papers")]

    operations = [
        migrations.AddField("job", "visit_at", models.DateTimeField(null=True)),
        migrations.AddField("job", "test_at", models.DateTimeField(null=True)),
        migrations.AddField("job", "due", models.JSONField(default=list)),
        migrations.AddField("job", "logged_at", models.DateTimeField(null=True)),
        migrations.AddField("job", "bypasses", models.IntegerField(default=0)),
    ]
