"""The sign-off of a run is found by the head of its chain, by which a file that carries it asks whether it is so."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("fieldwork", "0006_whole_jobs")]

    operations = [
        migrations.RunSQL(
            "CREATE INDEX fieldwork_signoff_head ON fieldwork_signoff ((sealed #> '{chain,head}'))",
            "DROP INDEX fieldwork_signoff_head",
        ),
    ]
