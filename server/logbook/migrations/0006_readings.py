"""Readings beside the entries they come from: by month, drawn together by time, the newest of each series; and batches."""

from pathlib import Path

from django.db import migrations, models

READINGS = Path(__file__).with_suffix(".sql").read_text(encoding="utf-8")

# What is in the log already is taken in as if it came in just now.
TAKE_IN = """
DO $$ DECLARE month timestamptz; BEGIN
    FOR month IN SELECT DISTINCT date_trunc('month', device_at AT TIME ZONE 'UTC') AT TIME ZONE 'UTC' FROM logbook_entry WHERE value IS NOT NULL LOOP
        PERFORM logbook_month(month);
    END LOOP;
END $$;
INSERT INTO logbook_reading
SELECT e.job_id, e.kind, e.subject, e.place, coalesce(e.vessel, 0), e.device_at, e.value, e.id, NULL FROM logbook_entry e
WHERE e.value IS NOT NULL AND e.kind <> 'kit' AND NOT EXISTS (SELECT FROM logbook_entry c WHERE c.job_id = e.job_id AND c.corrects = e.id);
INSERT INTO logbook_bucket
SELECT job_id, kind, subject, place, vessel, level_s, floor(date_part('epoch', at) / level_s)::bigint * level_s, min(value), max(value), sum(value), count(*)
FROM logbook_reading, logbook_level GROUP BY 1, 2, 3, 4, 5, 6, 7;
INSERT INTO logbook_newest
SELECT DISTINCT ON (job_id, kind, subject, place, vessel) job_id, kind, subject, place, vessel, at, value, entry_id
FROM logbook_reading ORDER BY job_id, kind, subject, place, vessel, at DESC, entry_id DESC;
"""

# Where Debian's pg_partman lies beside PostgreSQL and we may, it makes the months ahead; without it each is made as it is first needed.
PARTMAN = """
DO $$ BEGIN
    IF EXISTS (SELECT FROM pg_available_extensions WHERE name = 'pg_partman') AND (SELECT rolsuper FROM pg_roles WHERE rolname = current_user) THEN
        CREATE SCHEMA IF NOT EXISTS partman;
        CREATE EXTENSION IF NOT EXISTS pg_partman SCHEMA partman;
        PERFORM partman.create_parent('public.logbook_reading', 'at', 'native', 'monthly', p_premake := 3);
    END IF;
END $$;
"""

BACK = """
DROP TRIGGER logbook_entry_readings ON logbook_entry;
DROP FUNCTION logbook_keep_readings(); DROP FUNCTION logbook_take_out(uuid[]); DROP FUNCTION logbook_month(timestamptz);
DROP TABLE logbook_reading; DROP TABLE logbook_bucket; DROP TABLE logbook_newest; DROP TABLE logbook_level;
"""


class Migration(migrations.Migration):
    dependencies = [("logbook", "0005_more_columns")]

    operations = [
        migrations.AddField("entry", "batch", models.UUIDField(null=True)),
        migrations.AddIndex("entry", models.Index(fields=["job", "kind", "-device_at", "-id"], name="log_of_a_kind")),
        migrations.AddIndex(
            "entry", models.Index(fields=["job", "batch"], name="log_batches", condition=models.Q(batch__isnull=False))
        ),
        migrations.RunSQL(READINGS, BACK),
        migrations.RunSQL(PARTMAN, migrations.RunSQL.noop),
        migrations.RunSQL(TAKE_IN, migrations.RunSQL.noop),
    ]
