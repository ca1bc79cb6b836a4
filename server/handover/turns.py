"""Whose report is made next: teams take turns, and in a team its people do; what a press left when it ended is taken up by the next."""

import logging
import time
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any
from uuid import UUID

import psycopg
from django.db import InterfaceError, OperationalError, connection

from . import report_orders
from .models import Made
from .report_orders import CHANNEL

log = logging.getLogger("ofen")
# Of a lock by two numbers the first says what kind of thing it is of.
LOCK = 0x0FE17E6
# So often it is looked for what waits, where nobody says that something does.
LOOKS_EVERY_S = 2.0
# A report that has ended its press so often is not begun again.
MOST_TRIES = 3

# The team that was served longest ago first, in it the person served longest ago. One that is being made belongs to whoever holds its lock.
NEXT = """
    WITH served AS (
        SELECT j.team_id, m.person_id, max(m.ended_at) AS at FROM handover_made m JOIN jobs_job j ON j.id = m.job_id
        WHERE m.ended_at > now() - interval '1 hour' GROUP BY 1, 2
    )
    SELECT m.id FROM handover_made m JOIN jobs_job j ON j.id = m.job_id
    LEFT JOIN (SELECT team_id, max(at) AS at FROM served GROUP BY 1) AS team ON team.team_id = j.team_id
    LEFT JOIN served AS person ON person.team_id = j.team_id AND person.person_id = m.person_id
    WHERE m.state IN ('asked', 'making')
    ORDER BY team.at NULLS FIRST, person.at NULLS FIRST, m.asked_at, m.id LIMIT 100
"""


def waits() -> list[UUID]:
    """Return the reports that wait, whose turn it is first."""
    with connection.cursor() as cursor:
        cursor.execute(NEXT)
        return [id for (id,) in cursor.fetchall()]


@contextmanager
def _held(id: UUID) -> Iterator[bool]:
    """Hold a report for this press alone; whether it could be had. Where the press ends, however it ends, the database lets it go."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_try_advisory_lock(%s, hashtext(%s))", [LOCK, str(id)])
        (mine,) = cursor.fetchone()
    try:
        yield bool(mine)
    finally:
        if mine:
            try:
                with connection.cursor() as cursor:
                    cursor.execute("SELECT pg_advisory_unlock(%s, hashtext(%s))", [LOCK, str(id)])
            except (OperationalError, InterfaceError):
                log.warning("the database went away while report %s was made", id)


def make_next() -> bool:
    """Make the report whose turn it is; whether there was one."""
    for id in waits():
        with _held(id) as mine:
            order = Made.objects.filter(pk=id, state__in=("asked", "making")).first() if mine else None
            if order is None:
                continue
            if order.tries >= MOST_TRIES:
                report_orders.failed(order, f"The press ended {MOST_TRIES} times while it made this report.")
            else:
                Made.objects.filter(pk=id).update(tries=order.tries + 1)
                report_orders.make(str(id))
            return True
    return False


def work(once: bool) -> None:
    """Make what waits, until nothing does, or for ever; while the database is away, wait for it."""
    listens_on: Any = None
    while True:
        try:
            connection.ensure_connection()
            if listens_on is not connection.connection:
                with connection.cursor() as cursor:
                    cursor.execute(f"LISTEN {CHANNEL}")
                listens_on = connection.connection
            if make_next():
                continue
            if once:
                return
            for _ in listens_on.notifies(timeout=LOOKS_EVERY_S, stop_after=1):
                pass
        except (OperationalError, InterfaceError, psycopg.OperationalError, psycopg.InterfaceError) as gone:
            log.warning("the database does not answer: %s", gone)
            connection.close()
            if once:
                raise
            time.sleep(1.0)
