"""Sign-offs of a job, reports that are made, shares."""

import uuid

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

from ofen_server.append_only import append_only, never_emptied


class Migration(migrations.Migration):
    dependencies = [
        ("handover", "0001_feeds"),
        ("jobs", "0009_whole_jobs"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name="HandedOver",
            fields=[
                ("id", models.UUIDField(editable=False, primary_key=True, serialize=False)),
                ("name", models.CharField(max_length=120)),
                ("strokes", models.JSONField(default=list)),
                ("at", models.DateTimeField(auto_now_add=True)),
                ("head", models.CharField(max_length=64)),
                ("files", models.JSONField()),
                ("over", models.JSONField(default=list)),
                ("by", models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                ("job", models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name="handed_over", to="jobs.job")),
                ("revision", models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name="+", to="jobs.revision")),
            ],
            options={
                "ordering": ["-at"],
            },
        ),
        migrations.CreateModel(
            name="Made",
            fields=[
                ("id", models.UUIDField(editable=False, primary_key=True, serialize=False)),
                ("audience", models.CharField(max_length=12)),
                ("paper", models.CharField(max_length=8)),
                ("units", models.CharField(max_length=8)),
                ("zone", models.CharField(max_length=60)),
                ("address", models.CharField(max_length=300)),
                ("state", models.CharField(default="asked", max_length=10)),
                ("doing", models.CharField(blank=True, default="Waiting for the press", max_length=80)),
                ("done", models.PositiveSmallIntegerField(default=0)),
                ("asked_at", models.DateTimeField(auto_now_add=True)),
                ("ended_at", models.DateTimeField(null=True)),
                ("revision", models.PositiveIntegerField(null=True)),
                ("head", models.CharField(blank=True, default="", max_length=64)),
                ("digest", models.CharField(blank=True, db_index=True, default="", max_length=64)),
                ("pages", models.PositiveIntegerField(null=True)),
                ("size", models.PositiveIntegerField(null=True)),
                ("why", models.CharField(blank=True, default="", max_length=300)),
                ("job", models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name="reports", to="jobs.job")),
                ("person", models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
            ],
            options={
                "ordering": ["-asked_at"],
                "constraints": [
                    models.CheckConstraint(
                        condition=models.Q(("state__in", ["asked", "making", "made", "failed"])), name="report_state"
                    )
                ],
            },
        ),
        migrations.CreateModel(
            name="Share",
            fields=[
                ("id", models.UUIDField(default=uuid.uuid4, editable=False, primary_key=True, serialize=False)),
                ("what", models.CharField(max_length=10)),
                ("audience", models.CharField(blank=True, default="", max_length=12)),
                ("units", models.CharField(max_length=8)),
                ("zone", models.CharField(max_length=60)),
                ("given_to", models.CharField(blank=True, default="", max_length=120)),
                ("digest", models.CharField(max_length=64, unique=True)),
                ("made_at", models.DateTimeField(auto_now_add=True)),
                ("ends_at", models.DateTimeField()),
                ("read_at", models.DateTimeField(null=True)),
                ("reads", models.PositiveIntegerField(default=0)),
                ("revoked_at", models.DateTimeField(null=True)),
                ("job", models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name="shares", to="jobs.job")),
                ("person", models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
            ],
            options={
                "ordering": ["-made_at"],
                "constraints": [models.CheckConstraint(condition=models.Q(("what__in", ["read", "take"])), name="share_what")],
            },
        ),
        append_only("handover_handedover"),
        never_emptied("handover_handedover"),
    ]
