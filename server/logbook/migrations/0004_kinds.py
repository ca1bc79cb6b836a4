"""Kind, subject and value of an entry in columns of their own; what was sent stays in `body` as it was."""

from django.db import migrations, models

KIND = """
    CASE COALESCE(body->>'kind', body->>'quantity')
        WHEN 'gross_weight' THEN 'weight' WHEN 'supply_air' THEN 'air' WHEN 'return_air' THEN 'air'
        WHEN 'space_air' THEN 'air' WHEN 'outside_air' THEN 'air' ELSE COALESCE(body->>'kind', body->>'quantity') END
"""


class Migration(migrations.Migration):
    dependencies = [("logbook", "0003_append_only")]

    operations = [
        migrations.AddField("entry", "kind", models.CharField(max_length=20, default="")),
        migrations.AddField("entry", "subject", models.CharField(max_length=40, blank=True, default="")),
        migrations.AddField("entry", "value", models.FloatField(null=True)),
        migrations.RunSQL(
            f"""
            ALTER TABLE logbook_entry DISABLE TRIGGER logbook_entry_only_grows;
            UPDATE logbook_entry SET kind = {KIND}, subject = COALESCE(body->>'subject', ''),
                value = CASE jsonb_typeof(body->'value') WHEN 'number' THEN (body->>'value')::double precision END;
            ALTER TABLE logbook_entry ENABLE TRIGGER logbook_entry_only_grows;
            """,
            migrations.RunSQL.noop,
        ),
        migrations.AlterField("entry", "kind", models.CharField(max_length=20)),
        migrations.AddIndex("entry", models.Index(fields=["job", "device_at"], name="log_of_a_job")),
    ]
