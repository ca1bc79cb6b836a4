"""No plan contradicts itself: over all starts and hundreds of random jobs; and what gets worse never needs less."""

import copy
import random
from typing import Any

import pytest

from ofen.document.job import load_as_far
from ofen.figures.verdicts import rules
from ofen.plan import Plan, plan
from ofen.plant.catalogue import shipped as catalogue
from ofen.questions import starts
from ofen.questions.contradictions import contradictions, never_together
from ofen.questions.starts import fill
from tests.conftest import example, examples

DEMOS = ("tram-depot", "canvas-hall", "seedling-house", "valve-house", "pontoon-cabin")
SHARES = 8


def planned(document: dict[str, Any]) -> Plan:
    return plan(load_as_far(document)[0])


def figures(document: dict[str, Any]) -> dict[str, float]:
    return {f.key: f.value for r in planned(document).assessments for f in r.figures}


def random_job(pick: random.Random) -> dict[str, Any]:
    """A start answered anywhere it may be answered, then changed as a person might: other vessels, hoses, machines, nights."""
    start = starts.start(pick.choice(sorted(starts.shipped())))
    answers: dict[str, Any] = {}
    for q in start.questions:
        if q.kind == "choice":
            answers[q.key] = pick.choice(q.options)[0]
        elif pick.random() < 0.7:
            low, high = (q.usual_low, q.usual_high) if pick.random() < 0.7 else (q.low, q.high)
            value = float(low) + (float(high) - float(low)) * pick.random()
            answers[q.key] = round(value) if q.kind == "whole" else value
    document = fill.make(start, answers, pick.choice(["metric", "us"])).document
    for supply in document["supplies"]:
        if supply["fuel"] == "propane" and pick.random() < 0.6:
            supply["storage"] |= {"count": pick.randint(1, 12), "vessel": pick.choice(list(catalogue().vessels))}
            supply["storage"]["duty_fraction"] = pick.choice([0.3, 0.6, 1.0])
            if pick.random() < 0.6:
                evening = document["site"]["outside_lowest_c"] + pick.randint(0, 15)
                supply["night"] = {"lasts_s": pick.randint(2, 60) * 3600, "evening_c": evening, "lowest_at_s": 21_600}
                supply["night"] |= reserve(random.Random(repr(supply["storage"])))
        if supply["fuel"] in ("diesel", "kerosene", "waste_oil") and pick.random() < 0.5:
            supply["liquid"] = supply.get("liquid", {}) | {"fuel_c": pick.randint(-30, 30)}
            supply["liquid"]["grade"] = pick.choice(["diesel_summer", "diesel_winter", "diesel_arctic", "used_oil"])
        for part in supply.get("parts", ()):
            if "length_m" in part and pick.random() < 0.3:
                part["length_m"] = pick.choice([0.5, 5, 40, 200])
            if part["kind"] == "regulator" and pick.random() < 0.3:
                part["model"] = pick.choice(list(catalogue().regulators))
    # Of its own chance, so that what came before is as it was.
    site(document, random.Random(repr(sorted(answers.items(), key=str))))
    for kind, known in (("heaters", catalogue().heaters), ("generators", catalogue().generators)):
        for machine in document["equipment"].get(kind, ()):
            if pick.random() < 0.3:
                machine["model"] = pick.choice(list(known))
    return document


def reserve(pick: random.Random) -> dict[str, Any]:
    """What stands behind the cylinders in use, and at times a window of days instead of a night."""
    held: dict[str, Any] = {"reserve_count": pick.choice([0, 0, 1, 2, 6])}
    held["reserve_way"] = pick.choice(["automatic", "by_hand", "swapped"])
    hours = random.Random(repr(held) + repr(pick.getstate()[1][:2]))
    held["changes"] = [{"id": f"change-{n}", "after_s": hours.randint(1, 60) * 3600.0} for n in range(hours.choice([0, 0, 1, 3]))]
    return held | ({"lasts_s": pick.randint(3, 7) * 86_400} if pick.random() < 0.2 else {})


def site(document: dict[str, Any], pick: random.Random) -> None:
    """Stand things elsewhere, open and shut what is there, lay ducts and a lead, ground and feed as a person might."""
    siting = document["siting"]
    usual = siting["usual"]
    if pick.random() < 0.4:
        usual |= {"wall": pick.choice(["front", "back", "left"]), "wall_m": pick.uniform(0.2, 9), "along_m": pick.uniform(0, 6)}
    for o in siting.get("openings", ()):
        o["stands"] = pick.choice(["shut", "open", "intake"])
    siting["air"] = {"people": pick.randint(0, 40), "co_alarm": pick.choice(["yes", "no"]), "sleeps": pick.choice(["yes", "no"])}
    usual["earthing"] = {
        "feeds_by": pick.choice(["plugs", "switch", "socket"]),
        "earth": pick.choice(["frame", "rod", "pipe"]),
        "neutral": pick.choice(["bonded", "isolated"]),
        "moves_neutral": pick.choice(["yes", "no"]),
    }
    heaters = document["equipment"].get("heaters") or []
    if heaters and pick.random() < 0.5:
        cord = {"after": "lead", "conductor": pick.choice(["16 AWG", "2.5 mm2"]), "length_m": pick.uniform(1, 60), "breaker_a": 10}
        usual["cord"] = (usual.get("cord") or {}) | cord
        lead = {"id": "lead", "conductor": pick.choice(["14 AWG", "4 mm2"]), "length_m": pick.uniform(1, 40), "breaker_a": 16}
        siting["leads"] = [lead | {"source_v": pick.choice([118, 230, 12.6])}]
    if heaters and pick.random() < 0.5:
        piece = {"machine": heaters[0]["id"], "build": pick.choice(["rigid", "flexible"]), "diameter_m": pick.uniform(0.1, 0.5)}
        siting["ducts"] = [
            piece | {"id": f"duct-{n}", "after": f"duct-{n - 1}" if n else "", "length_m": pick.uniform(0.5, 8)} for n in range(2)
        ]
        usual["vent"] = {"height_m": pick.uniform(0, 6), "slope_fraction": pick.uniform(-0.2, 0.3), "cap": "no"}


def test_every_code_of_the_table_is_a_verdict() -> None:
    assert never_together()
    for of, codes in never_together():
        assert of in ("job", "supply", "subject")
        assert len(codes) > 1
        assert codes <= set(rules()), codes - set(rules())


def test_the_check_finds_a_contradiction() -> None:
    made = planned(example("tram-depot"))
    assert contradictions(made) == []
    good = next(v for r in made.assessments for v in r.verdicts if v.code in ("equipment.heater.enough", "equipment.heater.thin"))
    next(r for r in made.assessments if good in r.verdicts).judge(
        "equipment.heater.need_missing", "equipment", "need.spaces", found=(1.0, "heat_flow")
    )
    assert contradictions(made) == [("", tuple(sorted((good.code, "equipment.heater.need_missing"))))]


@pytest.mark.parametrize("name", DEMOS)
def test_no_example_contradicts_itself(name: str) -> None:
    assert contradictions(planned(example(name))) == []


@pytest.mark.parametrize("key", list(starts.shipped()))
def test_no_start_contradicts_itself(key: str) -> None:
    for units in ("metric", "us"):
        assert contradictions(planned(fill.make(starts.start(key), units=units).document)) == []


@pytest.mark.parametrize("share", range(SHARES))
def test_no_random_job_contradicts_itself(share: int) -> None:
    pick = random.Random(f"never together {share}")
    for n in range(examples(2000, 400) // SHARES):
        document = random_job(pick)
        assert contradictions(planned(document)) == [], (share, n)


@pytest.mark.parametrize("share", range(4))
def test_what_gets_worse_never_needs_less(share: int) -> None:
    pick, compared = random.Random(f"worse {share}"), 0
    for n in range(examples(72, 40)):
        document = random_job(pick)
        before = figures(document)
        colder = copy.deepcopy(document)
        colder["site"]["outside_lowest_c"] = max(-50, document["site"]["outside_lowest_c"] - 5)
        after = figures(colder)
        for key in ("need.loss_w", "need.design_w", "supply.count_vaporizing"):
            if key in before and key in after:
                assert after[key] >= before[key] * (1 - 1e-9), (key, share, n)
        for s, supply in enumerate(document["supplies"]):
            if supply["fuel"] != "propane" or not supply["storage"].get("count"):
                continue
            more = copy.deepcopy(document)
            more["supplies"][s]["storage"]["count"] += 1
            if "supply.hours_high_s" in before:
                assert figures(more)["supply.hours_high_s"] > before["supply.hours_high_s"]
            # Of a fixed size: one that is chosen grows with its length.
            fixed = copy.deepcopy(document)
            lines = [p for p in fixed["supplies"][s]["parts"] if p["kind"] == "line"]
            for line in lines:
                line["nominal"] = "1/2"
            short = figures(fixed)
            for line in lines[:1]:
                line["length_m"] *= 1.5
            then = figures(fixed)
            for key in (f for f in short if f.endswith(".inlet_pa") and f in then):
                assert then[key] <= short[key] + 1e-9 * abs(short[key]), (key, share, n)
                compared += 1
    assert compared > examples(10, 2)
