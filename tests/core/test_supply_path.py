"""The tree of parts: order, flows, sizes, pressures at every node, and what is wrong with it."""

from typing import Any

import pytest

from ofen.document.job import LinePart, load
from ofen.physics.fuel.properties import flow_m3_per_s, gas
from ofen.physics.pipes import gas_line, materials, sizing
from ofen.plan import Plan, plan
from ofen.plant import regulators, sections
from ofen.plant.catalogue import shipped
from ofen.supply.path import PathNode


def planned(document: dict[str, Any]) -> Plan:
    return plan(load(document))


def codes(document: dict[str, Any]) -> dict[str, str]:
    return {v.code: v.subject for v in planned(document).stage("supply").verdicts}


def node(document: dict[str, Any], id: str) -> PathNode:
    return next(n for n in planned(document).path if n.id == id)


def test_pressures_fall_along_the_path_and_join_up(depot: dict[str, Any]) -> None:
    path = planned(depot).path
    by_id = {n.id: n for n in path}
    for n in path[1:]:
        if n.kind == "space":
            continue
        assert n.running_in_pa == by_id[n.after].running_out_pa
        assert n.running_out_pa is not None and n.running_in_pa is not None
        assert n.running_out_pa <= n.running_in_pa


def test_the_inlet_is_the_regulator_less_every_drop(depot: dict[str, Any]) -> None:
    # Hand solution of the last section: 27.4 mbar less 5 % droop, less ¾ in over 18 m with three elbows and a valve, less
    # the connector at (32.06/55)^1.85 of 125 Pa.
    pipe = materials.pipe("steel_schedule_40", "3/4")
    length = materials.equivalent_length_m(pipe, 18, 3, 0, 1)
    taken = planned(depot).stage("equipment").value("equipment.input_w")
    assert taken is not None
    from ofen.physics.air.atmosphere import pressure_pa

    flow = flow_m3_per_s(gas("propane"), taken, pressure_pa(640))
    expected = 2740 * 0.95 - gas_line.drop_pa(gas("propane"), pipe.bore_m, length, flow) - 125 * (taken / 55_000) ** 1.85
    assert node(depot, "inlet-1").running_in_pa == pytest.approx(expected, rel=1e-9)


def test_choose_takes_the_smallest_that_passes(depot: dict[str, Any]) -> None:
    assert node(depot, "line-b").detail == "3/4 in"
    depot["supplies"][0]["parts"][4]["nominal"] = "1/2"
    found = codes(depot)
    assert "supply.line.too_small" in found
    verdict = next(v for v in planned(depot).stage("supply").verdicts if v.code == "supply.line.too_small")
    assert dict(verdict.fix) == {"supplies[0].parts[4].nominal": "3/4"}


def test_a_line_that_passes_by_little_is_too_tight(depot: dict[str, Any]) -> None:
    reach = dict(
        next(v for v in planned(depot).stage("supply").verdicts if v.code == "supply.line.carries" and v.subject == "line-b").values
    )["holds_to"][0]
    depot["supplies"][0]["parts"][4] |= {"nominal": "3/4", "length_m": float(reach) + 0.5}
    assert codes(depot)["supply.line.too_tight"] == "line-b"
    depot["supplies"][0]["parts"][4]["length_m"] = float(reach) - 0.5
    assert "supply.line.too_tight" not in codes(depot)


def test_the_trade_example_gets_both_reasons() -> None:
    # Common practice: 278 ft³/h over 40 ft and four elbows; 1 in passes by 2 % and fails by the next row.
    line = LinePart(id="a", material="steel_schedule_40", nominal="1", length_m=40 * 0.3048, elbows=4, tees=0, valves=0)
    flow = 278 * gas_line.CUBIC_FOOT_PER_HOUR
    half = 0.5 * gas_line.INWC_PA

    def tried(nominal: str) -> sections.LineResult:
        pipe = materials.pipe("steel_schedule_40", nominal)
        length = materials.equivalent_length_m(pipe, line.length_m or 0.0, 4, 0, 0)
        drop = materials.drop_pa(gas("natural_gas"), pipe, length, flow, 1743)
        return sections.line_result(
            gas=gas("natural_gas"),
            line=line,
            pipe=pipe,
            drop_pa=drop,
            flow_m3_per_s=flow,
            inlet_pa=1743,
            allowed_pa=half,
            barometer_pa=101_325,
        )

    one = tried("1")
    assert not one.passes(0.1)
    assert one.passes(0.0)
    assert one.capacity_m3_per_s / flow - 1 == pytest.approx(0.02, abs=0.005)
    assert one.row_capacity_m3_per_s < flow
    larger = tried("1 1/4")
    assert larger.passes(0.1)
    tree = sizing.Tree([0], [40 * 0.3048], [flow], ["steel_schedule_40"], {0: (4, 0, 0)}, {0: larger.pipe})
    made = sizing.size(gas("natural_gas"), tree, half, 0.1)
    longest = sizing.longest_m(
        gas=gas("natural_gas"), sized=made, row=0, pipe=larger.pipe, method="own", spare_fraction=0.1, allowed=half
    )
    assert longest
    assert materials.equivalent_length_m(larger.pipe, longest, 4, 0, 0) / 0.3048 == pytest.approx(167, abs=3)


def test_standing_pressure_is_lock_up_or_unknown(depot: dict[str, Any]) -> None:
    assert node(depot, "inlet-1").standing_in_pa is None
    assert "supply.inlet.standing_unknown" in codes(depot)
    assert "supply.regulator.lockup_unknown" in codes(depot)
    depot["supplies"][0]["parts"][3]["model"] = "second-27-4"
    assert node(depot, "inlet-1").standing_in_pa == pytest.approx(2740 * 1.2)
    assert "supply.inlet.standing_good" in codes(depot)


def test_a_second_regulator_of_the_same_stage_is_a_stop(depot: dict[str, Any]) -> None:
    parts = depot["supplies"][0]["parts"]
    parts[5]["after"] = "again"
    parts.append({"kind": "regulator", "id": "again", "name": "Again", "after": "line-b", "model": "second-27-10"})
    assert codes(depot)["supply.regulator.second_in_series"] == "again"


def test_a_second_stage_alone_is_a_stop(depot: dict[str, Any]) -> None:
    parts = depot["supplies"][0]["parts"]
    del parts[1:3]
    parts[1]["after"] = "shut-off"
    found = codes(depot)
    assert found["supply.regulator.first_missing"] == "second-stage"
    assert found["supply.regulator.inlet_too_high"] == "second-stage"


def test_a_regulator_is_judged_at_its_cold_inlet(depot: dict[str, Any]) -> None:
    depot["supplies"][0]["parts"][1]["model"] = "first-12"
    depot["supplies"][0]["storage"] |= {"count": 1, "duty_fraction": 1}
    found = {v.subject for v in planned(depot).stage("supply").verdicts if v.code == "supply.regulator.too_small"}
    assert "first-stage" in found


def test_least_inlet_and_capacity_are_inverses() -> None:
    first = shipped().regulators["first-12"]
    for flow in (3.5, 5.0, 8.0, 12.0):
        inlet = regulators.least_inlet_pa(first, flow / 3600)
        assert inlet is not None
        assert regulators.capacity_kg_per_s(first, inlet) * 3600 == pytest.approx(flow)
    assert regulators.least_inlet_pa(first, 13 / 3600) is None
    assert regulators.capacity_kg_per_s(first, 50_000) == 0


def test_a_connector_rated_too_small_is_a_stop(depot: dict[str, Any]) -> None:
    depot["supplies"][0]["parts"][5]["model"] = "flex-half"
    assert codes(depot)["supply.connector.too_small"] == "connector"


def test_an_inlet_below_its_window_is_a_stop(depot: dict[str, Any]) -> None:
    depot["supplies"][0]["parts"][4] |= {"nominal": "1/2", "length_m": 200}
    assert codes(depot)["supply.inlet.below"] == "inlet-1"


def test_an_inlet_above_its_window_is_a_stop(depot: dict[str, Any]) -> None:
    parts = depot["supplies"][0]["parts"]
    del parts[3]
    parts[3]["after"] = "line-a"
    assert codes(depot)["supply.inlet.above"] == "inlet-1"


@pytest.mark.parametrize(
    ("index", "change", "code"),
    [
        (1, {"model": "none"}, "supply.regulator.unknown"),
        (2, {"length_m": None}, "supply.line.missing"),
        (2, {"nominal": "9"}, "supply.line.unknown_size"),
        (4, {"after": "nowhere"}, "supply.part.orphan"),
        (5, {"model": ""}, "supply.connector.not_chosen"),
        (6, {"machine": "heater-9"}, "supply.inlet.no_heater"),
        (6, {"machine": "heater-9"}, "supply.inlet.heater_without_line"),
    ],
)
def test_what_is_wrong_with_a_part_is_named_and_the_rest_still_stands(
    depot: dict[str, Any], index: int, change: dict[str, Any], code: str
) -> None:
    depot["supplies"][0]["parts"][index] |= change
    made = planned(depot)
    assert code in {v.code for v in made.stage("supply").verdicts}
    assert made.stage("need").value("need.loss_w") is not None
    assert made.path[0].id == "storage"


def test_a_circle_is_named(depot: dict[str, Any]) -> None:
    depot["supplies"][0]["parts"][2]["after"] = "line-b"
    found = {v.subject for v in planned(depot).stage("supply").verdicts if v.code == "supply.part.circular"}
    assert {"line-a", "second-stage", "line-b"} <= found


def test_what_hangs_after_an_unknown_regulator_is_not_checked(depot: dict[str, Any]) -> None:
    depot["supplies"][0]["parts"][3]["model"] = ""
    found = codes(depot)
    assert found["supply.line.not_checked"] == "line-b"
    assert found["supply.connector.not_checked"] == "connector"
    assert found["supply.inlet.not_checked"] == "inlet-1"


def test_two_heaters_on_one_line_share_its_flow(depot: dict[str, Any]) -> None:
    depot["equipment"]["heaters"].append({"id": "heater-2", "model": "tarn-35-indirect"})
    depot["supplies"][0]["parts"].append(
        {"kind": "appliance", "id": "inlet-2", "name": "Heater 2", "after": "connector", "machine": "heater-2"}
    )
    one, two = node(depot, "inlet-1"), node(depot, "inlet-2")
    assert one.running_in_pa == two.running_in_pa
    total = dict(node(depot, "line-b").values)["flow"][0]
    single = dict(one.values)["flow"][0]
    assert total == pytest.approx(2 * float(single))


def test_own_allowed_drop_counts(depot: dict[str, Any]) -> None:
    depot["supplies"][0]["parts"][4]["allowed_drop_pa"] = 400
    assert node(depot, "line-b").detail == "1/2 in"
