"""Who reads a report: their units, and the clock of their time zone; the core knows none."""

from datetime import UTC, datetime
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from ofen.figures.dialects import English
from ofen.figures.errors import Fault, JobFaults
from ofen.handover.viewer import Viewer

LATEST_S = 7.3e9


def zone_of(name: str) -> ZoneInfo:
    """Return a time zone by name; JobFaults for one there is not."""
    try:
        return ZoneInfo(name)
    except (ZoneInfoNotFoundError, ValueError, OSError):
        raise JobFaults([Fault("zone", f"{name[:60]!r} is not a time zone. Write it like Europe/Vienna, or UTC")]) from None


def viewer_of(units: str, zone: str, english: English = "british") -> Viewer:
    """Return a viewer whose moments are in that zone: "26 Nov 2026, 12:50" in British, "Nov 26, 2026, 12:50" in American English."""
    there = zone_of(zone)

    def clock(at_s: float) -> str:
        at = datetime.fromtimestamp(min(max(at_s, 0.0), LATEST_S), UTC).astimezone(there)
        return f"{at:%b} {at.day}, {at:%Y, %H:%M}" if english == "american" else f"{at.day} {at:%b %Y, %H:%M}"

    return Viewer(units, clock, english)
