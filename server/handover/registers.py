"""What a job hands over as tables: its log and record as a workbook, its joints, its material."""

from collections.abc import Sequence
from typing import Any

from fieldwork import actions as fieldwork
from jobs.actions import newest
from jobs.models import Job
from logbook import actions as logbook
from ofen.document import write
from ofen.document.job import load_as_far
from ofen.handover import bill as built
from ofen.handover import sheets
from ofen.handover.reader import Reader
from ofen.handover.report import names_told
from ofen.handover.sheets import Sheet
from ofen.plan import Plan, plan


def planned(job: Job) -> Plan:
    """Return the plan of a job as it is."""
    return plan(load_as_far(newest(job).document)[0])


def _runs(job: Job, made: Plan) -> list[dict[str, Any]]:
    return fieldwork.commissioning(job, made, logbook.newest_entries(job), fieldwork.first_signed_s(job)).told()


def everything(job: Job, reader: Reader) -> Sequence[Sheet]:
    """Return the log and the record of a job as tables."""
    made = planned(job)
    runs, entries, names = _runs(job, made), logbook.whole(job)[0], names_told(made)
    return (
        sheets.visits(entries, names, reader),
        sheets.log(entries, names, reader),
        sheets.commissioning(runs, reader),
        sheets.record(runs, reader),
        sheets.joints(write(made)["supplies"], runs, reader),
        sheets.vessels(entries, names, reader),
    )


def joints(job: Job, reader: Reader) -> Sheet:
    """Return the joint register of a job."""
    made = planned(job)
    return sheets.joints(write(made)["supplies"], _runs(job, made), reader)


def bill(job: Job, reader: Reader) -> Sheet:
    """Return the bill of material of a job."""
    return sheets.material(built.bill(planned(job)), reader)
