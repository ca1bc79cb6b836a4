"""A report and a share keep the English of whoever ordered them."""

from django.db import migrations, models

ENGLISH = models.CharField(db_default="british", default="british", max_length=8)


class Migration(migrations.Migration):
    dependencies = [("handover", "0003_turns")]

    operations = [
        migrations.AddField("made", "english", ENGLISH),
        migrations.AddField("share", "english", ENGLISH),
    ]
