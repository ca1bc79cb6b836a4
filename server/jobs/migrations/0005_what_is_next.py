"""What a job needs next in columns, so that the list is one query; a job filed away; a job never changes its team."""

from django.db import migrations, models

from ofen_server.append_only import fixed, never_emptied


class Migration(migrations.Migration):
    dependencies = [("jobs", "0004_revision_uid")]

    operations = [
        migrations.AddField("job", "filed_at", models.DateTimeField(null=True)),
        migrations.AddField("job", "name", models.CharField(blank=True, default="", max_length=200)),
        migrations.AddField("job", "note", models.CharField(blank=True, default="", max_length=500)),
        migrations.AddField("job", "place", models.CharField(blank=True, default="", max_length=300)),
        migrations.AddField("job", "saved_at", models.DateTimeField(null=True)),
        migrations.AddField("job", "next_code", models.CharField(blank=True, default="", max_length=40)),
        migrations.AddField("job", "next_words", models.CharField(blank=True, default="", max_length=300)),
        migrations.AddField("job", "next_stage", models.CharField(blank=True, default="need", max_length=20)),
        migrations.AddField("job", "next_rank", models.IntegerField(default=9)),
        migrations.AddField("job", "change_over_at", models.DateTimeField(null=True)),
        migrations.AddField("job", "next_by", models.CharField(blank=True, default="", max_length=20)),
        never_emptied("jobs_revision"),
        fixed("jobs_job", ("id", "team_id", "made_at")),
    ]
