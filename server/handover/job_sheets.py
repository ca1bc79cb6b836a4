"""What a job hands over as tables, in the English of whoever reads them: its log and record as a workbook, its joints, its material."""

from collections.abc import Sequence

from jobs.models import Job
from jobs.snapshot import Snapshot, newest
from ofen.handover import bill as built
from ofen.handover import sheets
from ofen.handover.report import names_told
from ofen.handover.sheets import Sheet
from ofen.handover.viewer import Viewer
from ofen_server import desks


def everything(job: Job, viewer: Viewer) -> Sequence[Sheet]:
    """Return the log and the record of a job as tables."""
    snapshot = Snapshot(job)
    stands, entries = snapshot.standing, snapshot.entries
    names = names_told(stands.plan)
    tables = (
        sheets.visits(entries, names, viewer),
        sheets.log(entries, names, viewer),
        sheets.commissioning(stands.runs, viewer),
        sheets.record(stands.runs, viewer),
        sheets.joints(stands.plan.supplies, stands.runs),
        sheets.vessels(entries, names, viewer),
    )
    return [sheets.in_english(table, viewer.english) for table in tables]


def joints(job: Job, viewer: Viewer) -> Sheet:
    """Return the joint register of a job."""
    return sheets.in_english(desks.joints(Snapshot(job).texts), viewer.english)


def bill(job: Job, viewer: Viewer) -> Sheet:
    """Return the bill of material of a job."""
    return sheets.in_english(sheets.material(desks.of_plan(newest(job).document, built.bill), viewer), viewer.english)
