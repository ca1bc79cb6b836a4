"""Teams take turns for their reports; the queue that stood for it before goes. What a share is of stays as it was made."""

from django.db import migrations, models

from ofen_server.append_only import fixed

# The tables, functions and types of the package that kept the queue.
QUEUE_GOES = """
    DO $$ DECLARE found record; BEGIN
        FOR found IN SELECT c.oid::regclass AS name FROM pg_class c WHERE c.relkind = 'r' AND c.relname LIKE 'procrastinate\\_%' AND c.relnamespace = 'public'::regnamespace LOOP
            EXECUTE format('DROP TABLE %s CASCADE', found.name);
        END LOOP;
        FOR found IN SELECT p.oid::regprocedure AS name FROM pg_proc p WHERE p.proname LIKE 'procrastinate\\_%' AND p.pronamespace = 'public'::regnamespace LOOP
            EXECUTE format('DROP FUNCTION %s CASCADE', found.name);
        END LOOP;
        FOR found IN SELECT t.oid::regtype AS name FROM pg_type t WHERE t.typname LIKE 'procrastinate\\_%' AND t.typtype IN ('e', 'c') AND t.typnamespace = 'public'::regnamespace LOOP
            EXECUTE format('DROP TYPE IF EXISTS %s CASCADE', found.name);
        END LOOP;
    END $$;
    DELETE FROM django_migrations WHERE app = 'procrastinate';
"""


class Migration(migrations.Migration):
    dependencies = [("handover", "0002_whole_jobs")]

    operations = [
        migrations.AddField("made", "tries", models.PositiveSmallIntegerField(default=0, db_default=0)),
        migrations.AddIndex("made", models.Index(fields=["ended_at"], name="reports_ended")),
        migrations.RunSQL(QUEUE_GOES, migrations.RunSQL.noop),
        migrations.RunSQL(
            "CREATE INDEX handover_handedover_head ON handover_handedover (head)", "DROP INDEX handover_handedover_head"
        ),
        fixed(
            "handover_share",
            ["job_id", "person_id", "what", "audience", "units", "zone", "given_to", "digest", "made_at", "ends_at"],
        ),
    ]
