"""Roles in a team: everyone who could do everything before goes on as a lead."""

import django.db.models.deletion
from django.db import migrations, models

ROLES = [("lead", "Lead"), ("technician", "Technician"), ("guest", "Guest")]


class Migration(migrations.Migration):
    dependencies = [("teams", "0003_bright_sun")]

    operations = [
        migrations.AddField("membership", "role", models.CharField(max_length=12, choices=ROLES, default="lead")),
        migrations.AlterField("membership", "role", models.CharField(max_length=12, choices=ROLES, default="technician")),
        migrations.AddConstraint(
            "membership",
            models.CheckConstraint(condition=models.Q(role__in=["lead", "technician", "guest"]), name="known_role"),
        ),
        migrations.AddField(
            "person",
            "works_in",
            models.ForeignKey(
                null=True, blank=True, on_delete=django.db.models.deletion.SET_NULL, related_name="+", to="teams.team"
            ),
        ),
    ]
