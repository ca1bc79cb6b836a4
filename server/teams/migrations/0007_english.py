"""Each person may read another English than the one that goes with their units."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("teams", "0006_invitations")]

    operations = [
        migrations.AddField(
            "person",
            "english",
            models.CharField(
                blank=True, choices=[("british", "British"), ("american", "American")], db_default="", default="", max_length=8
            ),
        ),
    ]
