"""The joint register: every joint once, made as its material is, and those on the way to one machine."""

import dataclasses
from typing import Any

from ofen.commissioning.procedure import changes
from ofen.document.job import load
from ofen.handover.bill import bill
from ofen.handover.kit import kit
from ofen.plan import plan
from ofen.plant.nodes import order
from ofen.questions import starts
from ofen.questions.starts import fill
from ofen.supply.tree.joints import Joint, on_the_way, register, vessels_coupled
from tests.conftest import example


def of(document: dict[str, Any]) -> tuple[Any, Any]:
    supply = plan(load(document)).supplies[0].supply
    nodes, _ = order(supply.given.parts)
    return register(nodes, vessels_coupled(supply)), nodes


def test_every_part_and_fitting_has_its_joints(depot: dict[str, Any]) -> None:
    found, _ = of(depot)
    parts = depot["supplies"][0]["parts"]
    fittings = [p.get(k, 0) for p in parts for k in ("elbows", "tees", "valves")]
    expected = depot["supplies"][0]["storage"]["count"] + len(parts)
    for count in fittings:
        expected += count
    assert len(found) == expected
    assert len({j.id for j in found}) == len(found)


def test_a_joint_is_made_as_its_material_asks(depot: dict[str, Any]) -> None:
    by = {j.id: j for j in of(depot)[0]}
    assert by["coupling-1"].tool == "hand only, no {term:spanner}"
    assert by["coupling-1"].seal.startswith("none")
    assert by["line-b#elbow-1"].sort == "threaded"
    assert "sealant" in by["line-b#elbow-1"].seal
    assert by["connector>inlet-1"].sort == "flare"
    assert by["shut-off>first-stage"].sort == "threaded"
    for part in depot["supplies"][0]["parts"]:
        if part["id"] == "line-b":
            part["material"] = "csst"
    assert {j.id: j for j in of(depot)[0]}["line-b#elbow-1"].seal.startswith("none")


def test_only_what_lies_on_the_way_to_a_machine_is_its_own() -> None:
    house = example("seedling-house")
    house["supplies"][0]["parts"].append({"kind": "test_port", "id": "tap", "name": "Tap", "after": "main"})
    found, nodes = of(house)
    heater, set_ = (on_the_way(found, nodes, m) for m in ("heater-1", "generator-1"))
    assert {"drip-a#cap", "branch-a>drip-a", "storage>shut-off"} <= {j.id for j in heater}
    assert "drip-a#cap" not in {j.id for j in set_}
    assert "tap#plug" in {j.id for j in found}
    assert not any(j.id.startswith("coupling") for j in found)


def test_the_procedure_tests_the_joints_of_its_unit(depot: dict[str, Any]) -> None:
    made = plan(load(depot))
    found, nodes = of(depot)
    tested = [dataclasses.replace(j, between="", behind=()) for j in made.procedures[0].joints]
    assert tested[:-2] == list(on_the_way(found, nodes, "heater-1"))
    assert [j.sort for j in tested[-2:]] == ["port", "burner port"]
    assert "second-stage" in next(j.id for j in made.procedures[0].joints if "3/4 in" in j.between and ">" in j.id)
    table = made.stage("supply").tables["joints"]
    assert [j.id for j in table][: len(found)] == [j.id for j in found]
    assert table[-1].sort == "port"


def test_one_cylinder_has_no_manifold_and_two_have_one_in_path_bill_and_kit() -> None:
    document = fill.make(starts.start("small_set")).document
    for count, there in ((1, False), (2, True)):
        document["supplies"][0]["storage"]["count"] = count
        made = plan(load(document))
        joints = {j.id for j in made.commissioned[0].unit.site.joints}
        assert ("storage>valve" in joints) is there
        assert {f"coupling-{n}" for n in range(1, count + 1)} == {j for j in joints if j.startswith("coupling-")}
        assert any("Manifold" in r.what for r in bill(made)) is there
        assert any(k.key.startswith("manifold:") for k in kit(made)) is there
        # The regulator that a set brings along has joints of its own, tested with the others.
        procedure = made.commissioned[0].procedure
        assert procedure is not None
        tested = {j for s in procedure.steps for j in getattr(s, "joints", ())}
        assert "set_regulator" in tested and ("storage>valve" in tested) is there


def test_a_run_that_named_a_manifold_of_one_cylinder_is_not_stale_for_it() -> None:
    document = fill.make(starts.start("kiosk_cylinder")).document
    document["supplies"][0]["storage"]["count"] = 1
    now = plan(load(document)).commissioned[0].procedure
    assert now is not None
    was = dataclasses.replace(now, joints=(*now.joints, Joint(id="storage>valve", name="Manifold to Cylinder valve", node="valve")))
    assert list(changes(was, now)) == []
    # A second cylinder brings the manifold, and that is new.
    document["supplies"][0]["storage"]["count"] = 2
    two = plan(load(document)).commissioned[0].procedure
    assert two is not None
    assert {"storage>valve", "coupling-2"} <= {c[0] for c in changes(now, two)}
