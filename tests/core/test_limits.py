"""Limits that are true: planned again just inside and just outside what a verdict says it holds to, it stands and it falls."""

import copy
import random
import re
from collections import Counter
from collections.abc import Callable
from math import inf
from typing import Any

import pytest

from ofen.document.job import ConnectorPart, RegulatorPart, load_as_far
from ofen.document.paths import at, put
from ofen.figures.verdicts import Verdict
from ofen.need import heat
from ofen.plan import plan
from ofen.plant.gas import GasPlant, judged_at
from ofen.plant.nodes import Node, above
from ofen.plant.regulators import capacity_kg_per_s
from ofen.plant.sections import connector_rated_w
from ofen.questions import starts
from ofen.questions.starts import fill
from tests.conftest import example, examples

from .test_never_together import DEMOS, random_job

Said = dict[tuple[str, str, str], Any]
Change = Callable[[dict[str, Any], float, str, str], None]


def said(document: dict[str, Any]) -> Said:
    return {(v.code, v.subject, r.place): v for r in plan(load_as_far(document)[0]).assessments for v in r.verdicts}


def outside(document: dict[str, Any], value: float, place: str, subject: str) -> None:
    document["site"]["outside_lowest_c"] = value


def whole_night(document: dict[str, Any], value: float, place: str, subject: str) -> None:
    by = value - document["site"]["outside_lowest_c"]
    night = at(document, place).get("night") or {}
    document["site"]["outside_lowest_c"] = value
    if night.get("evening_c") is not None:
        night["evening_c"] += by
    for hour in night.get("hours") or ():
        hour["outside_c"] += by


def fuel(document: dict[str, Any], value: float, place: str, subject: str) -> None:
    put(document, f"{place}.liquid.fuel_c", value)


def altitude(document: dict[str, Any], value: float, place: str, subject: str) -> None:
    document["site"]["altitude_m"] = value


def part_of(document: dict[str, Any], place: str, subject: str) -> dict[str, Any]:
    found: dict[str, Any] = next(p for p in at(document, place)["parts"] if p["id"] == subject)
    return found


def line(document: dict[str, Any], value: float, place: str, subject: str) -> None:
    part_of(document, place, subject)["length_m"] = value


def wanted(document: dict[str, Any], value: float, place: str, subject: str) -> None:
    put(document, f"{place}.storage.wanted_s", value)


def cord(document: dict[str, Any], value: float, place: str, subject: str) -> None:
    siting = document["siting"]
    own = next((p for p in siting.get("places", ()) if p["id"] == subject and p.get("cord", {}).get("length_m")), None)
    at_it = own or siting["usual"]
    at_it["cord"]["length_m"] = value


# Which quantity a code speaks of, the value that holds it, and how near planning again must come: 1 % of it; a night is sought to a kelvin, in longer steps.
TRIED: dict[str, tuple[Change, str, float]] = {
    "equipment.heater.enough": (outside, "holds_to", 0.3),
    "equipment.heater.thin": (outside, "holds_to", 0.3),
    "equipment.heater.too_small": (outside, "holds_to", 0.3),
    "equipment.altitude.derated": (altitude, "holds_to", 10),
    "equipment.generator.carries": (altitude, "altitude", 12),
    "equipment.generator.thin": (altitude, "altitude", 12),
    "supply.storage.enough": (whole_night, "holds_to", 2.2),
    "supply.storage.too_cold": (outside, "holds_to", 0.3),
    "supply.night.lasts": (whole_night, "holds_to", 2.2),
    "supply.night.starves": (whole_night, "holds_to", 2.2),
    "supply.liquid.above_cloud": (fuel, "holds_to", 0.3),
    "supply.liquid.below_cloud": (fuel, "holds_to", 0.3),
    "supply.liquid.thin_enough": (fuel, "holds_to", 0.3),
    "supply.cartridge.feeds": (outside, "holds_to", 0.3),
    "supply.cartridge.fades": (outside, "holds_to", 0.3),
    "supply.line.carries": (line, "holds_to", 0.001),
    "supply.line.too_small": (line, "holds_to", 0.001),
    "supply.line.too_tight": (line, "holds_to", 0.001),
    "supply.storage.runs_short": (wanted, "holds_to", 60),
    "supply.liquid.lasts": (wanted, "holds_to", 60),
    "supply.liquid.runs_short": (wanted, "holds_to", 60),
    "siting.cord.carries": (cord, "holds_to", 0.01),
    "siting.cord.too_thin": (cord, "holds_to", 0.01),
}
# What carries, thinly or well, carries; what it must not become is another thing.
ALIKE = {
    "supply.night.starves": {"supply.night.starves", "supply.night.runs_empty"},
    "equipment.generator.carries": {"equipment.generator.carries", "equipment.generator.thin"},
    "equipment.generator.thin": {"equipment.generator.carries", "equipment.generator.thin"},
    "siting.cord.too_thin": {"siting.cord.too_thin", "siting.cord.sags_at_start"},
    "supply.line.too_small": {"supply.line.too_small", "supply.line.too_tight"},
    "supply.line.too_tight": {"supply.line.too_small", "supply.line.too_tight"},
}
# Beyond what may be typed a limit cannot be tried.
EDGES: dict[Change, tuple[float, float]] = {
    outside: (-49.5, 30),
    whole_night: (-45, 30),
    fuel: (-49.5, 60),
    altitude: (-400, 4990),
    line: (0.1, 990),
    wanted: (3600, 60 * 86400),
    cord: (0.5, 300),
}


def tried(document: dict[str, Any]) -> Counter[tuple[str, str]]:
    """Plan again on both sides of every limit; what came of each code."""
    found: Counter[tuple[str, str]] = Counter()
    for (code, subject, place), v in said(document).items():
        if code not in TRIED or not v.holds:
            continue
        change, name, near = TRIED[code]
        limit = dict(v.values).get(name)
        if limit is None or isinstance(limit, str):
            continue
        value = limit[0]
        low, high = EDGES[change]
        near = max(near, 0.01 * abs(value))
        if not low < value - near < value + near < high:
            continue
        if change is altitude and code.startswith("equipment.generator"):
            machine = next(m for m in plan(load_as_far(document)[0]).placed.machines if m.id == subject)
            assert machine.sheet is not None
            if value >= machine.sheet.altitude_most_m - near:
                continue  # there it may not stand, whatever it carries
        stands = []
        for side in (-near, near):
            again = copy.deepcopy(document)
            change(again, value + side, place, subject)
            then = {c: o for (c, s, p), o in said(again).items() if s == subject and p == place}
            # A line whose size is chosen gets the next one where this one ends.
            alike = [o for c, o in then.items() if c in ALIKE.get(code, {code})]
            stands.append(any(dict(o.values).get("size") == dict(v.values).get("size") for o in alike))
        found[code, "flips" if stands[0] != stands[1] else f"does not flip at {value:.4g}"] += 1
    return found


@pytest.mark.parametrize("name", DEMOS)
def test_the_limits_of_an_example_are_where_its_verdicts_flip(name: str) -> None:
    assert {k for k in tried(example(name)) if k[1] != "flips"} == set()


@pytest.mark.parametrize("key", list(starts.shipped()))
def test_the_limits_of_a_start_are_where_its_verdicts_flip(key: str) -> None:
    assert {k for k in tried(fill.make(starts.start(key)).document) if k[1] != "flips"} == set()


def test_the_limits_of_random_jobs_are_where_their_verdicts_flip() -> None:
    pick, whole = random.Random("limits"), Counter[tuple[str, str]]()
    for _ in range(examples(350, 110)):
        whole += tried(random_job(pick))
    assert {k: n for k, n in whole.items() if k[1] != "flips"} == {}
    assert {code for code, _ in whole} >= {
        "equipment.heater.enough",
        "equipment.generator.carries",
        "supply.storage.enough",
        "supply.night.lasts",
    }


def inlets_tried(document: dict[str, Any]) -> Counter[str]:
    """Draw a little less and a little more than an inlet says it holds to, through the pipes as they are laid."""
    found: Counter[str] = Counter()
    made = plan(load_as_far(document)[0])
    for supply in made.supplies:
        gas_plant = supply.plant.gas
        if gas_plant is None:
            continue
        by_id = {n.part.id: n for n in gas_plant.nodes}
        for v in supply.assessment.verdicts:
            if v.code not in ("supply.inlet.in_window", "supply.inlet.below") or not dict(v.values).get("holds_to"):
                continue
            node, least = by_id[v.subject], dict(v.values)["least"][0]
            limit, now = dict(v.values)["holds_to"][0], node.input_w
            stands = []
            for share in (0.99 * limit / now, 1.01 * limit / now):
                drawn = {i: w * share for i, w in supply.plant.input_w.items()}
                inlet, _ = gas_plant.pressures_pa(drawn, gas_plant.source.running_pa, full_droop=True)
                at_it = inlet[judged_at(node, gas_plant.catalogue).place]
                stands.append(at_it is not None and at_it >= least and rated(gas_plant, node, share, inlet))
            found["flips" if stands == [True, False] else f"{v.code} {stands} at {limit:.4g}"] += 1
    return found


def rated(gas_plant: GasPlant, node: Node, share: float, inlet_pa: list[float | None]) -> bool:
    """Whether every connector and regulator on the way still carries it."""
    for n in [node, *above(node)]:
        most = inf
        if isinstance(n.part, ConnectorPart) and (flex := gas_plant.catalogue.connectors.get(n.part.model)):
            most = connector_rated_w(flex, gas_plant.gas)
        if isinstance(n.part, RegulatorPart) and (sheet := gas_plant.catalogue.regulators.get(n.part.model)):
            most = capacity_kg_per_s(sheet, inlet_pa[n.place] or 0.0) * gas_plant.gas.gross_j_per_kg
        if n.input_w * share > most:
            return False
    return True


def test_what_an_inlet_holds_to_is_where_its_window_or_a_rating_ends() -> None:
    pick, whole = random.Random("inlets"), Counter[str]()
    for key in starts.shipped():
        whole += inlets_tried(fill.make(starts.start(key)).document)
    for _ in range(examples(200, 70)):
        whole += inlets_tried(random_job(pick))
    assert set(whole) == {"flips"}, whole
    assert whole["flips"] > examples(40, 15)


@pytest.mark.parametrize("name", ["tram-depot", "canvas-hall", "seedling-house", "pontoon-cabin"])
def test_the_quick_need_is_the_whole_one(name: str) -> None:
    for warm_up in (None, 7200):
        document = example(name)
        document["need"]["spaces"][0]["warm_up_s"] = warm_up
        for value in (-40, -12.5, 0, 5):
            document["site"]["outside_lowest_c"] = value
            job, _ = load_as_far(document)
            assert heat.design_w_at(job, value) == pytest.approx(heat.assess(job)[1].design_w, rel=1e-9)


# What Siting says holds to a figure that is typed where the verdict stands.
AS_TYPED = re.compile(r"siting\.(clearance|level|flood|vent|duct|opening)\.|siting\.vessels\.(kept|too_close)")
NOT_AS_TYPED = {
    "siting.duct.carries",
    "siting.duct.starves",
    "siting.duct.even",
    "siting.duct.uneven",
    "siting.opening.beyond_wall",
}


def sited(document: dict[str, Any]) -> Counter[str]:
    """Type what each says it holds to, a little less and a little more: it stands on one side alone."""
    found: Counter[str] = Counter()
    for v in siting_of(document):
        code, limit = v.code, dict(v.values).get("holds_to")
        if not AS_TYPED.match(code) or code in NOT_AS_TYPED or not v.holds or limit is None or isinstance(limit, str):
            continue
        stands = []
        for side in (-1, 1):
            again = copy.deepcopy(document)
            put(again, by_id(again, v.at), limit[0] + side * max(0.002, 0.005 * abs(limit[0])))
            stands.append(any((o.code, o.subject, o.at) == (code, v.subject, v.at) for o in siting_of(again)))
        found["flips" if stands[0] != stands[1] else f"{code} at {v.at}"] += 1
    return found


def siting_of(document: dict[str, Any]) -> list[Verdict]:
    return list(plan(load_as_far(document)[0]).stage("siting").verdicts)


def by_id(document: dict[str, Any], path: str) -> str:
    """A path by indices as `paths.put` takes it, entries by their ids."""
    here: Any = document
    made = []
    for step in path.split("."):
        name, _, index = step.partition("[")
        here = here[name] if isinstance(here, dict) and name in here else {}
        if index:
            here = here[int(index.rstrip("]"))]
            name = f"{name}[{here['id']}]"
        made.append(name)
    return ".".join(made)


def test_what_siting_holds_to_is_where_it_flips_when_typed() -> None:
    whole: Counter[str] = Counter()
    for name in DEMOS:
        whole += sited(example(name))
    for key in starts.shipped():
        whole += sited(fill.make(starts.start(key)).document)
    assert set(whole) == {"flips"}, whole
    assert whole["flips"] > 60
