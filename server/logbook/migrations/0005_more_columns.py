"""What the assessment reads of an entry in columns of its own, filled from what was sent, which stays as it was."""

from django.db import migrations, models

from ofen_server.append_only import never_emptied

PLACE = """
    CASE body->>'quantity' WHEN 'supply_air' THEN 'out' WHEN 'return_air' THEN 'in' WHEN 'space_air' THEN 'space'
        WHEN 'outside_air' THEN 'outside' ELSE CASE jsonb_typeof(body->'where') WHEN 'string' THEN left(body->>'where', 20) ELSE '' END END
"""
UUID = "^[0-9a-fA-F]{8}-([0-9a-fA-F]{4}-){3}[0-9a-fA-F]{12}$"


class Migration(migrations.Migration):
    dependencies = [("logbook", "0004_kinds")]

    operations = [
        migrations.AddField("entry", "vessel", models.IntegerField(null=True)),
        migrations.AddField("entry", "place", models.CharField(max_length=20, blank=True, default="")),
        migrations.AddField("entry", "corrects", models.UUIDField(null=True)),
        migrations.AddField("entry", "checked", models.BooleanField(default=False)),
        migrations.RunSQL(
            f"""
            ALTER TABLE logbook_entry DISABLE TRIGGER logbook_entry_only_grows;
            UPDATE logbook_entry SET place = {PLACE},
                vessel = CASE WHEN body->>'vessel' ~ '^[0-9]{{1,4}}$' THEN (body->>'vessel')::int END,
                corrects = CASE WHEN jsonb_typeof(body->'corrects') = 'string' AND body->>'corrects' ~ '{UUID}'
                    THEN (body->>'corrects')::uuid END;
            ALTER TABLE logbook_entry ENABLE TRIGGER logbook_entry_only_grows;
            """,
            migrations.RunSQL.noop,
        ),
        migrations.AddIndex("entry", models.Index(fields=["job", "server_at"], name="log_since")),
        migrations.AddIndex(
            "entry",
            models.Index(fields=["job", "corrects"], name="log_corrections", condition=models.Q(corrects__isnull=False)),
        ),
        never_emptied("logbook_entry"),
    ]
