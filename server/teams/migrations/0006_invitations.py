"""Joining a team needs one's own yes; the team somebody works in is chosen, and stays for those who never had to choose."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

WORKED_IN = """
    UPDATE teams_person p SET works_in_id = (SELECT min(team_id) FROM teams_membership m WHERE m.person_id = p.id)
    WHERE NOT EXISTS (SELECT FROM teams_membership m WHERE m.person_id = p.id AND m.team_id = p.works_in_id)
"""


class Migration(migrations.Migration):
    dependencies = [("teams", "0005_whole_jobs")]

    operations = [
        migrations.CreateModel(
            "Invitation",
            [
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(db_index=True, max_length=150)),
                ("role", models.CharField(max_length=12)),
                ("made_at", models.DateTimeField(auto_now_add=True)),
                ("by", models.ForeignKey(settings.AUTH_USER_MODEL, django.db.models.deletion.CASCADE, related_name="+")),
                ("team", models.ForeignKey("teams.team", django.db.models.deletion.CASCADE, related_name="invitations")),
            ],
            options={
                "ordering": ["name"],
                "constraints": [
                    models.UniqueConstraint(fields=["team", "name"], name="one_invitation"),
                    models.CheckConstraint(condition=models.Q(role__in=["lead", "technician", "guest"]), name="known_role_asked"),
                ],
            },
        ),
        migrations.RunSQL(WORKED_IN, migrations.RunSQL.noop),
    ]
