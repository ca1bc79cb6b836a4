"""What is done outside of any request, by the queue."""

from procrastinate.contrib.django import app

from . import reports


@app.task(name=reports.TASK, queue=reports.QUEUE)
def make_report(made_id: str) -> None:
    """Make a report that was asked for."""
    reports.make(made_id)
