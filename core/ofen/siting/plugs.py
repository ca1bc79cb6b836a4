"""Volts left at the plug of a heater on a cord, judged."""

from __future__ import annotations

from ..catalogue.sheets import Heater
from ..figures import figure
from ..job import Cord
from ..need.loads import MAINS_FROM_V
from ..numerics import total
from ..plant.cords import volts
from ..stage import StageReport, labels, missing
from .cords import resistance_ohm_per_m

START_SHARE = 0.8
# Over the volts of its sheet: 10 % on the mains; a 12 V battery being charged stands at 14.4 V (common practice).
MOST_OVER, MOST_OVER_BATTERY = 0.10, 0.21
# What of a battery is used before it is charged again (common practice).
USED_OF_BATTERY = 0.9


def assess(report: StageReport, subject: str, at: str, cord: Cord, heaters: list[Heater]) -> None:
    """Judge the cord of the hungriest heater into the Siting report.

    Arguments: report (added to); subject, the machine where the cord is one's own, else "siting"; at, where the cord stands in
    the document; cord; heaters that have such a one each.
    Source: common practice; the heater's data sheet for the least volts.
    """
    who = "cord" if subject == "siting" else subject
    key = "siting.cord" if subject == "siting" else f"siting.{subject}.cord"
    powered = [h for h in heaters if h.fan_running_w > 0]
    if heaters and not powered:
        report.judge("siting.cord.none_needed", who, "equipment.heaters")
        return
    _battery(report, who, key, at, cord, powered)
    lacking = missing(cord, "source_v", "conductor", "length_m")
    if lacking or not heaters:
        report.judge(
            "siting.cord.missing",
            who,
            f"{at}.{lacking[0]}" if lacking else "equipment.heaters",
            what=labels(cord, lacking) if lacking else "heaters chosen",
        )
        return
    assert cord.source_v and cord.conductor and cord.length_m
    wrong = next((h for h in powered if cord.source_v > _most_v(h)), None)
    if wrong is not None:
        report.judge(
            "siting.cord.wrong_volts",
            who,
            f"{at}.source_v",
            name=wrong.name,
            found=(cord.source_v, "voltage"),
            limit=(_most_v(wrong), "voltage"),
            holds_to=(_most_v(wrong), "voltage"),
            wants=(wrong.supply_v, "voltage"),
        )
        return
    h = max(powered, key=lambda h: h.fan_running_w)
    found = volts(cord, h)
    assert found
    for word, power in (("running", h.fan_running_w), ("starting", h.fan_starting_w)):
        report.add(
            figure(
                f"{key}.{word}_v",
                f"Volts at the plug, {word}",
                found[word],
                "voltage",
                "U source − 2 · L · R · I",
                [
                    ("U source", cord.source_v, "voltage"),
                    ("I", power / (h.supply_v * h.power_factor), "current"),
                    ("R per metre", resistance_ohm_per_m(cord.conductor), "resistance"),
                    ("L, one way", cord.length_m, "length"),
                ],
                "Ohm's law; copper at 75 °C (IEC 60228 class 5; NFPA 70 table 8, stranded)",
            ),
            headline=word == "running",
        )
    per_m = 2 * resistance_ohm_per_m(cord.conductor) * h.fan_running_w / (h.supply_v * h.power_factor)
    longest = max(0.0, (cord.source_v - h.supply_least_v) / per_m)
    code = "siting.cord.carries" if found["running"] >= h.supply_least_v else "siting.cord.too_thin"
    report.judge(
        code,
        who,
        f"{at}.conductor",
        name=h.name,
        found=(found["running"], "voltage"),
        limit=(h.supply_least_v, "voltage"),
        conductor=cord.conductor,
        holds_to=(longest, "length"),
    )
    least_start = START_SHARE * h.supply_v
    if found["starting"] < least_start:
        report.judge(
            "siting.cord.sags_at_start",
            who,
            f"{at}.conductor",
            name=h.name,
            found=(found["starting"], "voltage"),
            limit=(least_start, "voltage"),
            conductor=cord.conductor,
        )


def _most_v(h: Heater) -> float:
    """The most volts a machine may get."""
    return h.supply_v * (1 + (MOST_OVER_BATTERY if h.supply_v < MAINS_FROM_V else MOST_OVER))


def _battery(report: StageReport, who: str, key: str, at: str, cord: Cord, powered: list[Heater]) -> None:
    """How long a battery carries the heaters on it: the glow at the start, then the fan on high."""
    on_it = [h for h in powered if h.supply_v < MAINS_FROM_V]
    if not on_it:
        return
    if cord.battery_j is None:
        report.judge("siting.battery.missing", who, f"{at}.battery_j", names=", ".join(h.name for h in on_it))
        return
    running, starting = total(h.fan_running_w for h in on_it), total(h.fan_starting_w for h in on_it)
    lasts = report.add(
        figure(
            f"{key}.battery_s",
            "The battery carries them on high",
            USED_OF_BATTERY * cord.battery_j / running,
            "duration",
            "battery × share used ÷ running watts",
            [
                ("battery", cord.battery_j, "energy"),
                ("share used", USED_OF_BATTERY, "fraction"),
                ("on high", running, "electric_power"),
                ("glowing, at each start", starting, "electric_power"),
            ],
            "data sheets; 90 % of a battery is used (common practice)",
        ),
        headline=True,
    )
    values = {"found": (lasts, "duration"), "running": (running, "electric_power"), "starting": (starting, "electric_power")}
    report.judge("siting.battery.lasts", who, f"{at}.battery_j", **values)
