"""What a job hands over as tables: its log and record as a workbook, its joints, its material."""

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
    return (
        sheets.visits(entries, names, viewer),
        sheets.log(entries, names, viewer),
        sheets.commissioning(stands.runs, viewer),
        sheets.record(stands.runs, viewer),
        sheets.joints(stands.plan.supplies, stands.runs),
        sheets.vessels(entries, names, viewer),
    )


def joints(job: Job, viewer: Viewer) -> Sheet:
    """Return the joint register of a job."""
    return desks.joints(Snapshot(job).texts)


def bill(job: Job, viewer: Viewer) -> Sheet:
    """Return the bill of material of a job."""
    return sheets.material(desks.of_plan(newest(job).document, built.bill), viewer)
