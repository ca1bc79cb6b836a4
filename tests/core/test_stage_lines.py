"""Where each stage stands, in one line: how many of the worst it has, or its result where all is well."""

import copy
from collections.abc import Sequence
from typing import Any

import pytest

from ofen.commissioning.again import Stale
from ofen.commissioning.machines import MachineState
from ofen.document.job import load_as_far
from ofen.figures.assessment import Assessment
from ofen.figures.verdicts import said, values_json
from ofen.handover.open_things import OpenItem
from ofen.handover.stage_lines import StageLine, commissioning_line, handover_line, planned_lines, running_line
from ofen.plan import Plan, plan
from ofen.running.entries import counted, usable
from tests.conftest import example

SIGNED_S = 1_763_300_000.0
AT = {"at": "2026-01-12T08:00:00+00:00", "by": "Mirel"}
LOG = counted(usable([AT | {"id": "1", "kind": "flame", "subject": "heater-1", "look": "yellow"}]))


def words(line: StageLine, system: str = "metric") -> str:
    return said(line.say, values_json(line.values), system)


def planned(document: dict[str, Any]) -> Plan:
    return plan(load_as_far(document)[0])


def by_stage(document: dict[str, Any]) -> dict[str, StageLine]:
    return {line.stage: line for line in planned_lines(planned(document))}


def machine(state: Any, name: str = "Tarn 35", gates: Sequence[str] = (), stale: Sequence[Stale] = ()) -> MachineState:
    return MachineState(name.lower(), name, state, f"run of {name}", tuple(gates), tuple(stale))


def test_the_stages_that_are_planned_say_what_they_come_to() -> None:
    lines = by_stage(example("canvas-hall"))
    assert words(lines["need"]) == "25.8 kW heat, 3,820 W power"
    assert words(lines["equipment"]) == "2 × Tarn 35, 1 × Linnet 8"
    assert (words(lines["siting"]), lines["siting"].level) == ("OK", "note")


def test_a_stage_that_is_not_well_counts_the_worst_of_what_it_has() -> None:
    document = copy.deepcopy(example("canvas-hall"))
    lines = by_stage(document)
    cautions = len([v for v in planned(document).stage("supply").verdicts if v.level == "caution"])
    assert (words(lines["supply"]), cautions) == (f"{cautions} caution" + ("s" if cautions > 1 else ""), cautions)
    document["supplies"][0]["storage"]["count"] = 1
    # One carries an evening, but not two days and a half.
    assert by_stage(document)["supply"].level == "caution"
    document["supplies"][0]["night"]["lasts_s"] = 60 * 3600
    stopped = by_stage(document)["supply"]
    stops = len([v for v in planned(document).stage("supply").verdicts if v.level == "stop"])
    assert (words(stopped), stopped.level) == (f"{stops} stop" + ("s" if stops > 1 else ""), "stop")
    unknown = by_stage(example("valve-house"))["siting"]
    assert unknown.level == "not_checked" and words(unknown).endswith(" not checked")


def test_supply_says_how_cold_it_may_get_where_all_of_it_is_well() -> None:
    made = planned(example("canvas-hall"))
    for assessment in made.assessments:
        assessment.verdicts[:] = [v for v in assessment.verdicts if v.level not in ("caution", "stop", "not_checked")]
    held = [
        dict(v.values)["holds_to"]
        for v in made.stage("supply").verdicts
        if v.code in ("supply.night.lasts", "supply.storage.enough")
    ]
    coldest = max(float(h[0]) for h in held)
    line = planned_lines(made)[2]
    assert (line.say, dict(line.values)) == ("OK to {coldest}", {"coldest": (coldest, "temperature")})


@pytest.mark.parametrize(
    ("machines", "says", "level"),
    [
        ([], "no machine chosen", None),
        ([machine("not_begun")], "not started", "not_checked"),
        ([machine("begun", gates=["joint_open", "sign_off"])], "2 items open", "caution"),
        ([machine("begun")], "ready to sign off", "caution"),
        ([machine("begun", gates=["bypass_open"])], "a bypass is open", "stop"),
        ([machine("signed"), machine("begun", "Linnet 8")], "1 of 2 signed off", "caution"),
        ([machine("signed"), machine("no_procedure", "Linnet 8")], "1 of 2 signed off", "caution"),
        (
            [machine("signed", stale=[Stale("a", "Joint a", "is new", {})]), machine("signed", "Linnet 8")],
            "1 to test again",
            "stop",
        ),
        ([machine("signed")], "signed off 2025-11-16 13:33", "good"),
    ],
)
def test_commissioning_says_how_far_it_is(machines: list[MachineState], says: str, level: str | None) -> None:
    line = commissioning_line(planned(example("canvas-hall")), machines, {"run of Tarn 35": SIGNED_S, "a start": SIGNED_S + 3600.0})
    assert (words(line)[: len(says)], line.level) == (says, level)


def test_running_says_when_to_change_and_what_is_wrong() -> None:
    stage = Assessment("running")
    assert words(running_line(stage, counted([]))) == "no log yet"
    stage.judge(
        "running.fuel.change_at", "a", "running", when=(SIGNED_S, "moment"), left=(9.0, "mass"), reserve=(3.0, "mass"), rate="x"
    )
    line = running_line(stage, LOG)
    assert (line.say, dict(line.values)) == ("change {when}", {"when": (SIGNED_S, "moment")})
    stage.judge(
        "running.fuel.change_at",
        "b",
        "running",
        when=(SIGNED_S - 60, "moment"),
        left=(9.0, "mass"),
        reserve=(3.0, "mass"),
        rate="x",
    )
    assert dict(running_line(stage, LOG).values)["when"] == (SIGNED_S - 60, "moment")
    stage.judge("running.seen.smell_of_fuel", "running", "running")
    assert (words(running_line(stage, LOG)), running_line(stage, LOG).level) == ("1 stop", "stop")
    stage.judge("running.fuel.change_now", "a", "running", left=(2.0, "mass"), reserve=(3.0, "mass"))
    assert words(running_line(stage, LOG)) == "change over now"


def test_handover_says_what_blocks_it() -> None:
    signed, begun = machine("signed"), machine("begun", "Linnet 8")
    blocking = OpenItem("stop.need.a.b.c", "A Stop", True, "need")
    of_machine = OpenItem("begun.linnet 8", "Not signed off", True, "commissioning")
    over = OpenItem("told.a", "No contact", False, "handover")
    assert words(handover_line([signed], [])) == "nothing open"
    assert words(handover_line([signed], [over])) == "1 item open"
    assert words(handover_line([signed, machine("no_procedure", "Linnet 8")], [])) == "1 of 2 signed off"
    assert words(handover_line([signed, begun], [of_machine])) == "1 item blocks"
    assert words(handover_line([signed, begun], [blocking, of_machine])) == "2 items block"
    assert words(handover_line([signed], [blocking, blocking])) == "2 items block"
    assert (
        words(handover_line([machine("signed", stale=[Stale("a", "Joint a", "is new", {})])], [blocking])) == "sign-off out of date"
    )


def test_what_was_packed_is_no_log_yet() -> None:
    packed = usable([AT | {"id": "1", "kind": "kit", "item": "soap", "look": "packed"}])
    assert len(packed) == 1
    assert words(running_line(Assessment("running"), counted(packed))) == "no log yet"
