"""Readings of one series in a window of time, as many points as a screen can show: least and most of each, found in the database."""

from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any
from uuid import UUID

from django.db import connection

MOST_POINTS = 2000
SERIES = "job_id = %s AND kind = %s AND subject = %s AND place = %s AND vessel = %s"
LEVELS = (7200, 300, 30)

RAW = f"""
    SELECT floor(date_part('epoch', at) / %s)::bigint AS n, min(value), max(value), avg(value), count(*)
    FROM logbook_reading WHERE {SERIES} AND at >= %s AND at < %s GROUP BY n ORDER BY n
"""
DRAWN = f"""
    SELECT from_s / %s AS n, min(least), max(most), sum(total) / sum(count), sum(count)
    FROM logbook_bucket WHERE {SERIES} AND level_s = %s AND from_s >= %s AND from_s < %s GROUP BY n ORDER BY n
"""
ALL_SERIES = """
    SELECT n.kind, n.subject, n.place, n.vessel, n.at, n.value,
        (SELECT min(from_s) FROM logbook_bucket b WHERE (b.job_id, b.kind, b.subject, b.place, b.vessel, b.level_s)
            = (n.job_id, n.kind, n.subject, n.place, n.vessel, 7200))
    FROM logbook_newest n WHERE n.job_id = %s ORDER BY n.kind, n.subject, n.place, n.vessel
"""


@dataclass(frozen=True)
class Series:
    """What one series is of."""

    kind: str
    subject: str = ""
    place: str = ""
    vessel: int = 0


def window(job: UUID, series: Series, begin: datetime, end: datetime, points: int) -> dict[str, Any]:
    """Return a series between two moments in at most so many points, each with its middle, least, most, mean and count.

    Each point stands for `step_s` seconds; where that is a multiple of what the database has drawn together, it reads that.
    """
    sql, of, step = query(job, series, begin, end, points)
    with connection.cursor() as cursor:
        cursor.execute(sql, of)
        rows = cursor.fetchall()
    return {
        "step_s": step,
        "at_s": [(n + 0.5) * step for n, *_ in rows],
        "least": [least for _, least, *_ in rows],
        "most": [most for _, _, most, *_ in rows],
        "mean": [mean for *_, mean, _ in rows],
        "count": [int(count) for *_, count in rows],
    }


def query(job: UUID, series: Series, begin: datetime, end: datetime, points: int) -> tuple[str, tuple[Any, ...], float]:
    """Return what is asked for a window: the query, its parameters, and how many seconds a point of it stands for."""
    from_s, to_s = begin.timestamp(), end.timestamp()
    step = max(1.0, (to_s - from_s) / max(1, min(points, MOST_POINTS)))
    level = next((level for level in LEVELS if level <= step), None)
    of = (job, series.kind, series.subject, series.place, series.vessel)
    if level is None:
        return RAW, (step, *of, begin, end), step
    # Whole pieces, so that none is counted in two points.
    step = level * max(1, round(step / level))
    return DRAWN, (int(step), *of, level, int(from_s // level * level), int(to_s)), step


def all_series(job: UUID) -> list[dict[str, Any]]:
    """Return every series of a job with its newest value, and from when on there are readings."""
    with connection.cursor() as cursor:
        cursor.execute(ALL_SERIES, [job])
        return [
            {
                "kind": kind,
                "subject": subject,
                "place": place,
                "vessel": vessel,
                "newest_at": at.isoformat(),
                "newest": value,
                "begins_at": datetime.fromtimestamp(first if first is not None else at.timestamp(), UTC).isoformat(),
            }
            for kind, subject, place, vessel, at, value, first in cursor.fetchall()
        ]
