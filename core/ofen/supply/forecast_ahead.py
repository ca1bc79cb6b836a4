"""Whether the hours ahead of a supply go by the forecast of the job, and how far that forecast may be off by then."""

from __future__ import annotations

from collections.abc import Callable

from ..document.forecast import Forecast
from ..document.job import COLDEST_C, Site
from ..figures.assessment import Assessment
from ..plant.placed import PlacedSupply
from ..plant.weather import EIGHT_OF_TEN, error_k, of_the_mean
from .weather_ahead import AT, coldest

# The clock of a place is this far from the sun's at the most (common practice: zones and summer time).
CLOCK_OFF_S, SUN_S_PER_DEGREE = 3.5 * 3600.0, 240.0


def judge(
    assessment: Assessment, site: Site, supply: PlacedSupply, forecast: Forecast | None, lasts_s: Callable[[float], float | None]
) -> None:
    """Judge into the Supply assessment what the forecast of the job says of the hours ahead of a supply.

    Arguments: assessment (added to), with the hours ahead of the supply judged already; site; supply; forecast; lasts_s, how long the
    supply lasts if it comes so many kelvin colder, None where that is longer than any hours that may be asked for.
    Source: common practice; the error of a forecast from memory.
    """
    night = supply.given.night
    if forecast is None or not forecast.is_there or night.lasts_s is None or site.outside_lowest_c is None:
        return
    if night.begins_on is None:
        assessment.judge("supply.forecast.no_day", "storage", f"{AT}.begins_on")
    elif supply.begins_s is None and night.hours:
        assessment.judge("supply.forecast.typed", "storage", f"{AT}.hours")
    elif supply.begins_s is None:
        begins, ends = forecast.points[0], forecast.points[-1]
        values = {"begins": (begins[0], "moment"), "ends": (ends[0], "moment"), "when": (night.clock_s(0.0), "clock")}
        assessment.judge("supply.forecast.elsewhere", "storage", f"{AT}.begins_on", **values)
    else:
        _used(assessment, site, supply, supply.begins_s, forecast)
        _until(assessment, supply, supply.begins_s, forecast, lasts_s)


def judge_itself(assessment: Assessment, site: Site, forecast: Forecast | None) -> None:
    """Judge into the Supply assessment whether a forecast can be used, and whether it is colder than what everything was checked for.

    Arguments: assessment (added to); site; forecast.
    Source: common practice.
    """
    if forecast is None or not forecast.is_there:
        if forecast is not None and forecast.issued_at:
            assessment.judge("supply.forecast.one_hour", "storage", "weather")
        return
    to_come = [(at, c) for at, c in forecast.points if at >= forecast.issued_s]
    at, coldest_c = min(to_come, key=lambda p: p[1], default=(0.0, 0.0))
    if to_come and site.outside_lowest_c is not None and coldest_c < site.outside_lowest_c:
        assessment.judge(
            "supply.forecast.colder",
            "storage",
            "site.outside_lowest_c",
            fix={"site.outside_lowest_c": coldest_c} if coldest_c >= COLDEST_C else None,
            found=(coldest_c, "temperature"),
            limit=(site.outside_lowest_c, "temperature"),
            when=(at, "moment"),
        )


def _until(
    assessment: Assessment, supply: PlacedSupply, begins_s: float, forecast: Forecast, lasts_s: Callable[[float], float | None]
) -> None:
    """How long the supply lasts by the forecast, and how long if the forecast is off to the cold side."""
    night = supply.given.night
    asked_s, likely_s = night.lasts_s or 0.0, lasts_s(0.0)
    # Of hours that average out the error is smaller than that of one hour.
    over_s = asked_s if likely_s is None else likely_s
    off_k = EIGHT_OF_TEN * error_k(begins_s + over_s - forecast.issued_s) * of_the_mean(over_s)
    soonest_s = lasts_s(off_k)
    if soonest_s is None or (likely_s is not None and likely_s <= asked_s):
        return
    values = {
        "found": (night.clock_s(soonest_s), "clock"),
        "after": (soonest_s, "duration"),
        "off": (off_k, "temperature_difference"),
    }
    if soonest_s <= asked_s:
        assessment.judge("supply.forecast.until_short", "storage", f"{AT}.lasts_s", limit=(asked_s, "duration"), **values)
    elif likely_s is not None:
        assessment.judge("supply.forecast.until", "storage", f"{AT}.lasts_s", likely=(night.clock_s(likely_s), "clock"), **values)


def _used(assessment: Assessment, site: Site, supply: PlacedSupply, begins_s: float, forecast: Forecast) -> None:
    night = supply.given.night
    lasts_s = night.lasts_s or 0.0
    after_s, coldest_c = coldest(site, supply.given)
    off_k = EIGHT_OF_TEN * error_k(begins_s + after_s - forecast.issued_s)
    assessment.judge(
        "supply.forecast.used",
        "storage",
        "weather",
        issued=(forecast.issued_s, "moment"),
        source=forecast.source or "no source named",
        found=(coldest_c, "temperature"),
        when=(night.clock_s(after_s), "clock"),
        off=(off_k, "temperature_difference"),
    )
    lasts = next((v for v in assessment.verdicts if v.code == "supply.night.lasts"), None)
    limit = dict(lasts.values).get("holds_to") if lasts else None
    if isinstance(limit, tuple) and coldest_c - limit[0] < off_k:
        assessment.judge(
            "supply.forecast.margin",
            "storage",
            f"{AT}.reserve_count",
            found=(coldest_c - limit[0], "temperature_difference"),
            coldest=(coldest_c, "temperature"),
            limit=limit,
            off=(off_k, "temperature_difference"),
            lead=(max(0.0, begins_s + after_s - forecast.issued_s), "duration"),
        )
    ahead_s, ahead_then_s = forecast.offset_s(begins_s), forecast.offset_s(begins_s + lasts_s)
    if ahead_s != ahead_then_s:
        changed = next(at for at, _ in forecast.points if at > begins_s and forecast.offset_s(at) != ahead_s)
        code = "supply.forecast.clock_back" if ahead_then_s < ahead_s else "supply.forecast.clock_on"
        found = (night.clock_s(changed - begins_s), "clock")
        assessment.judge(code, "storage", "weather", found=found, by=(abs(ahead_then_s - ahead_s), "duration"))
    if site.longitude_deg is not None and abs(ahead_s - site.longitude_deg * SUN_S_PER_DEGREE) > CLOCK_OFF_S:
        usual_s = round(site.longitude_deg * SUN_S_PER_DEGREE / 3600.0) * 3600.0
        assessment.judge("supply.forecast.zone", "storage", "weather", found=(ahead_s, "duration"), usual=(usual_s, "duration"))
