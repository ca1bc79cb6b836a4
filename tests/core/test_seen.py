"""What somebody saw, smelt or measured speaks at once, wherever the job is looked at, until a later look clears it."""

from typing import Any

import pytest

from ofen.document.job import load
from ofen.handover.open_things import open_things
from ofen.plan import Plan, plan
from ofen.running.seen import harms
from tests.core.logged import assess, counted

from .test_fuel_use import entry


@pytest.fixture
def made(depot: dict[str, Any]) -> Plan:
    return plan(load(depot))


def levels(made: Plan, *log: dict[str, Any]) -> dict[str, str]:
    return {v.code.removeprefix("running.seen."): v.level for v in harms(made.planned, counted(log))}


@pytest.mark.parametrize(
    ("seen", "what", "level"),
    [
        ({"kind": "flame", "look": "yellow"}, "flame_sooty", "stop"),
        ({"kind": "flame", "look": "lifting"}, "flame_lifts", "caution"),
        ({"kind": "flame", "look": "pulsing"}, "flame_pulses", "caution"),
        ({"kind": "flame", "look": "none"}, "flame_out", "caution"),
        ({"kind": "smell", "look": "fuel"}, "smell_of_fuel", "stop"),
        ({"kind": "smell", "look": "exhaust"}, "smell_of_exhaust", "stop"),
        ({"kind": "frost", "look": "shell", "subject": "supply-1"}, "frost_on_shell", "caution"),
        ({"kind": "frost", "look": "regulator", "subject": "supply-1"}, "frost_on_regulator", "caution"),
        ({"kind": "co", "value": 36e-6}, "co_high", "stop"),
        ({"kind": "co", "value": 10e-6}, "co_raised", "caution"),
    ],
)
def test_what_harms_speaks_until_a_later_look_clears_it(made: Plan, seen: dict[str, Any], what: str, level: str) -> None:
    body = {k: v for k, v in seen.items() if k != "kind" and k != "value"}
    if seen["kind"] == "flame":
        body["subject"] = "heater-1"
    first = entry(1, 0, seen["kind"], seen.get("value"), **body)
    assert levels(made, first) == {what: level}
    right = {"flame": {"look": "steady"}, "smell": {"look": "none"}, "frost": {"look": "none"}, "co": {}}[seen["kind"]]
    later = entry(
        2, 1, seen["kind"], 4e-6 if seen["kind"] == "co" else None, **{k: v for k, v in body.items() if k != "look"}, **right
    )
    assert levels(made, first, later) == {}
    assert levels(made, later | {"at": first["at"]}, first | {"at": later["at"]}) == {what: level}


def test_an_entry_without_a_subject_speaks_of_the_only_machine_and_the_first_supply(made: Plan) -> None:
    log = counted([entry(1, 0, "flame", None, look="yellow"), entry(2, 0, "frost", None, look="shell")])
    names = {v.subject: dict(v.values)["name"] for v in harms(made.planned, log)}
    assert names == {"heater-1": made.placed.names["heater-1"], "supply-1": made.planned.supplies[0].name}
    # A later look at it by its id clears it.
    clear = counted([*log, entry(3, 1, "flame", None, look="steady", subject="heater-1")])
    assert [v.subject for v in harms(made.planned, clear)] == ["supply-1"]


def test_low_co_and_warm_air_do_not_excuse_a_sooty_flame(made: Plan) -> None:
    log = [
        entry(1, 0, "flame", None, look="yellow", subject="heater-1"),
        entry(2, 0, "co", 4e-6),
        entry(3, 0, "air", 46.0, where="out", subject="heater-1"),
    ]
    report = assess(made.planned, log)
    assert report.verdicts[0].code == "running.seen.flame_sooty"
    assert dict(report.verdicts[0].values)["name"] == made.placed.names["heater-1"]


def test_what_harms_refuses_the_sign_off_of_the_job(made: Plan) -> None:
    sooty = counted([entry(1, 0, "flame", None, look="yellow", subject="heater-1")])
    found = open_things(made, [], overdue=[], faults=[], unread=[], harms=harms(made.planned, sooty))
    assert (found[0].key, found[0].holds, found[0].stage) == ("stop.running.seen.flame_sooty.heater-1", True, "running")
    pulsing = counted([entry(1, 0, "flame", None, look="pulsing", subject="heater-1")])
    told = next(
        o for o in open_things(made, [], overdue=[], faults=[], unread=[], harms=harms(made.planned, pulsing)) if "seen" in o.key
    )
    assert not told.holds
