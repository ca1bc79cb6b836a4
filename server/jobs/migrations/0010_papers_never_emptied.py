"""The papers of jobs are emptied as little as they are changed."""

from django.db import migrations

from ofen_server.append_only import never_emptied


class Migration(migrations.Migration):
    dependencies = [("jobs", "0009_whole_jobs")]

    operations = [never_emptied("jobs_paper")]
