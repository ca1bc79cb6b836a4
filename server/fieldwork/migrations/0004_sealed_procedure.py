"""A run owns its procedure: those begun before are sealed with the one they were signed by, else with that of their plan."""

from typing import Any

from django.db import migrations, models


def seal(apps: Any, editor: Any) -> None:
    from ofen.commissioning.before_sealing import procedure_from
    from ofen.document import write
    from ofen.figures.errors import JobFaults
    from ofen.questions.commissioning import procedure_of

    run_model = apps.get_model("fieldwork", "Run")
    signed = dict(apps.get_model("fieldwork", "SignOff").objects.values_list("run_id", "sealed"))
    for run in run_model.objects.select_related("revision").filter(procedure__isnull=True):
        try:
            evidence = signed.get(run.pk)
            made = procedure_from(evidence["procedure"]) if evidence else procedure_of(run.revision.document, run.unit)
        except JobFaults:
            continue  # nothing is lost: its events stay, and it is named where it is shown
        run.procedure = write(made.sealed)
        run.save(update_fields=["procedure"])


class Migration(migrations.Migration):
    dependencies = [("fieldwork", "0003_append_only"), ("jobs", "0004_revision_uid")]

    operations = [
        migrations.AddField("run", "procedure", models.JSONField(null=True)),
        migrations.RunPython(seal, migrations.RunPython.noop),
    ]
