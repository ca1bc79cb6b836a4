"""A catalytic heater without a shut-off of its own: stopped without a valve before it, tested in two parts with one."""

from typing import Any

import pytest

from ofen.commissioning.procedure import Procedure
from ofen.commissioning.steps.test import Test
from ofen.document.job import load_as_far
from ofen.plan import Plan, plan

PIPE = {"kind": "line", "id": "line", "after": "", "material": "steel_schedule_40", "length_m": 5, "nominal": "1/2", "elbows": 1}


def planned(model: str, valve: bool) -> Plan:
    parts: list[dict[str, Any]] = [dict(PIPE)]
    if valve:
        parts.append({"kind": "shut_off", "id": "cock", "name": "Cock", "after": "line"})
    parts.append({"kind": "appliance", "id": "inlet", "after": parts[-1]["id"], "machine": "m"})
    document = {
        "format": "ofen-job/2",
        "name": "One",
        "site": {"altitude_m": 0, "outside_lowest_c": -5, "gas_service_pa": 2000},
        "equipment": {"heaters": [{"id": "m", "model": model, "fuel": "natural_gas"}]},
        "supplies": [{"id": "s", "fuel": "natural_gas", "parts": parts}],
    }
    return plan(load_as_far(document)[0])


def codes(made: Plan) -> set[str]:
    return {v.code for s in made.supplies for v in s.assessment.verdicts if v.code.startswith("supply.bed.")}


@pytest.mark.parametrize(
    ("model", "valve", "code"),
    [
        ("slate-18-catalytic", False, set()),
        ("slate-18-catalytic", True, set()),
        ("slate-35-catalytic", False, {"supply.bed.no_shut_off"}),
        ("slate-35-catalytic", True, {"supply.bed.shut_by_valve"}),
    ],
)
def test_something_keeps_the_gas_from_a_cold_bed(model: str, valve: bool, code: set[str]) -> None:
    made = planned(model, valve)
    assert codes(made) == code
    assert made.has_stop or code != {"supply.bed.no_shut_off"}


def leak_checks(procedure: Procedure) -> dict[str, list[str]]:
    return {s.id: list(s.joints) for s in procedure.steps if isinstance(s, Test)}


def test_the_line_is_tested_before_the_preheat_and_what_is_behind_the_valve_once_the_bed_is_hot() -> None:
    (procedure,) = planned("slate-35-catalytic", True).procedures
    order = [s.id for s in procedure.steps]
    assert order.index("bed_shut") < order.index("open_slowly") < order.index("leak_test") < order.index("preheat")
    assert order.index("preheat") < order.index("gas_on") < order.index("leak_test_bed")
    found = leak_checks(procedure)
    assert found["leak_test_bed"] == ["cock>inlet"]
    assert set(found["leak_test"]) == {"storage>line", "line#elbow-1", "line>cock", "port"}
    (own,) = planned("slate-18-catalytic", True).procedures
    assert "leak_test_bed" not in leak_checks(own) and "cock>inlet" in leak_checks(own)["leak_test"]
