"""Dates and moments as texts of a document."""

from __future__ import annotations

from datetime import date, datetime, timedelta
from functools import lru_cache

FIRST_YEAR, LAST_YEAR = 2000, 2200
DAY_WORDS = "must be a date, such as 2026-01-12, from 2000 up to 2200"
# No zone is further from UTC than 14 hours; a database takes none of 16 or more.
FURTHEST_ZONE = timedelta(hours=16)
MOMENT_WORDS = "must be a date and time with its zone, such as 2026-01-12T06:30:00Z, from 2000 up to 2200"


def is_day(text: str) -> bool:
    """Return whether a text is a date, from 2000 up to 2200.

    Arguments: text.
    Source: ISO 8601.
    """
    try:
        return len(text) == 10 and FIRST_YEAR <= date.fromisoformat(text).year < LAST_YEAR
    except ValueError:
        return False


@lru_cache(maxsize=4096)
def is_moment(text: str) -> bool:
    """Return whether a text is a date and time with its zone, from 2000 up to 2200.

    Arguments: text.
    Source: ISO 8601.
    """
    if len(text) > 40:
        return False
    try:
        given = datetime.fromisoformat(text)
    except ValueError:
        return False
    ahead = given.utcoffset()
    return ahead is not None and abs(ahead) < FURTHEST_ZONE and FIRST_YEAR <= given.year < LAST_YEAR
