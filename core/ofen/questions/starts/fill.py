"""From the answers of a start to the whole document: put, derived, machines picked by the ranking, supplies settled by the plan's own remedies."""

from __future__ import annotations

import copy
import dataclasses
from dataclasses import dataclass
from math import ceil, inf, pi, sqrt
from typing import Any

from ...document.job import FORMAT, AppliancePart, Job, load_as_far
from ...document.paths import at, indexed, put
from ...equipment import candidates, generators
from ...figures.assessment import Assessment
from ...figures.errors import Fault, JobFaults
from ...figures.memo import Memo
from ...figures.numerics import total
from ...need import heat, power
from ...physics.fuel.properties import fuel as fuel_of
from ...plan import plan
from ...plant import natural_gas
from ...plant.catalogue import Catalogue, Regulator
from ...plant.catalogue import shipped as catalogue
from ...plant.nodes import order
from ...plant.placed import resolve
from ...plant.regulators import capacity_kg_per_s, least_inlet_pa
from . import Start
from .derive import DERIVES

MOST_ROUNDS = 8
# A duct for a heater outside is so wide that its air goes at this speed, in steps of 50 mm, and ends so far inside (from memory).
DUCT_M_PER_S, DUCT_STEP_M, DUCT_IN_M = 4.0, 0.05, 1.0
MAINS = {"us": "split_120_240", "metric": "single_230"}


@dataclass(frozen=True)
class Made:
    """The document a start makes, and what of the answers could not be used, by question."""

    document: dict[str, Any]
    faults: tuple[Fault, ...]


def make(start: Start, answers: dict[str, object] | None = None, units: str = "metric") -> Made:
    """Return the whole job document of a start; an answer that cannot be used is named and the usual one stands.

    Arguments: start; answers by question in SI, those missing are the usual ones; units of the person, by which mains and
    vessels are those of the place.
    Errors: JobFaults where answers are no object.
    Source: common practice; the ranking and the plan's own remedies.
    """
    given = answers if answers is not None else {}
    if not isinstance(given, dict):
        raise JobFaults([Fault("answers", "must be an object of answers by question")])
    asked = {q.key: q for q in start.questions}
    faults = [Fault(str(k)[:80], f"is not asked here. Asked: {', '.join(asked)}") for k in given if k not in asked]
    typed: dict[str, Any] = {}
    for q in start.questions:
        if q.key in given and given[q.key] is not None:
            wrong = q.fault(given[q.key])
            if wrong:
                faults.append(Fault(q.key, wrong))
            else:
                typed[q.key] = given[q.key]
    values = {q.key: typed.get(q.key, q.usual) for q in start.questions}
    document = _before_machines(start, values, units)
    _take_machines(start, document, values)
    _settle(document, [p for q in start.questions for p in q.puts if q.key in typed])
    document["assumed"] = _assumed(start, document, typed)
    return Made(document, tuple(faults))


def _before_machines(start: Start, values: dict[str, Any], units: str) -> dict[str, Any]:
    document = {"format": FORMAT, "name": start.title, "start": start.key, **copy.deepcopy(start.job)}
    document.setdefault("need", {}).setdefault("system", MAINS.get(units, "single_230"))
    document["supplies"] = [{k: copy.deepcopy(v) for k, v in s.items() if k not in ("branch", "like")} for s in start.supplies]
    if units == "us":
        for path, value in start.us.items():
            put(document, path, value)
    _put_answers(start, document, values)
    for name in start.derives:
        for path, value in DERIVES[name](values).items():
            put(document, path, value)
    return document


def _put_answers(start: Start, document: dict[str, Any], values: dict[str, Any]) -> None:
    for q in start.questions:
        for path in q.puts:
            # A place that comes with the machines is filled once they are there.
            if "]" not in path or at(document, path[: path.rindex("]") + 1]) is not None:
                put(document, path, values[q.key])


def _classes(start: Start) -> Catalogue:
    whole = catalogue()
    heaters = {k: h for k, h in whole.heaters.items() if h.heater_class in start.classes}
    sets = {k: g for k, g in whole.generators.items() if g.generator_class in start.classes}
    return dataclasses.replace(whole, heaters=heaters, generators=sets)


def _take_machines(start: Start, document: dict[str, Any], values: dict[str, Any]) -> None:
    job, _ = load_as_far(document)
    taken = {"heaters": _heaters, "valve": _valve_heaters, "generators": _generators}[start.picks](start, job)
    kind = "generators" if start.picks == "generators" else "heaters"
    document.setdefault("equipment", {})[kind] = taken
    _ducts(document, taken)
    _put_answers(start, document, values)
    shown = "Generator" if kind == "generators" else "Heater"
    for supply, laid in zip(document["supplies"], start.supplies, strict=True):
        for n, machine in enumerate(taken, 1):
            supply.setdefault("parts", []).extend(
                _filled(part, str(n), f"{shown} {n}", machine["id"]) for part in laid.get("branch", ())
            )
        _connectors(supply, taken)
        _service_regulator(document, supply)
        _regulators(document, supply)
    _put_answers(start, document, values)


def _ducts(document: dict[str, Any], taken: list[dict[str, Any]]) -> None:
    """A duct into the space for each heater that stands outside and takes one."""
    usual = document.get("siting", {}).get("usual", {})
    if usual.get("position") != "outside":
        return
    for n, machine in enumerate(taken, 1):
        heater = catalogue().heaters.get(machine["model"])
        if heater is None or not heater.duct_most_m or not heater.airflow_m3_per_s:
            continue
        wide = sqrt(4 * heater.airflow_m3_per_s / DUCT_M_PER_S / pi)
        duct = {
            "id": f"duct-{n}",
            "name": f"Duct {n}",
            "machine": machine["id"],
            "build": "flexible",
            "diameter_m": round(DUCT_STEP_M * ceil(wide / DUCT_STEP_M), 2),
            "length_m": min(heater.duct_most_m, usual.get("wall_m", 0.0) + DUCT_IN_M),
            "leads_to": "space",
        }
        document["siting"].setdefault("ducts", []).append(duct)


def _filled(part: dict[str, Any], n: str, name: str, machine: str) -> dict[str, Any]:
    made = {k: v.replace("{n}", n).replace("{machine}", name) if isinstance(v, str) else v for k, v in part.items()}
    return made | ({"machine": machine} if made["kind"] == "appliance" else {})


def _connectors(supply: dict[str, Any], taken: list[dict[str, Any]]) -> None:
    """The smallest connector that carries the machine's input; the plan says where its drop is too much."""
    inputs = {h.id: max(b.input_w for b in h.burns) for h in catalogue().heaters.values() if h.burns}
    asked = max((inputs.get(m["model"], 0.0) for m in taken), default=0.0)
    fitting = [c for c in catalogue().connectors.values() if c.rated_w >= asked and not c.needs_filter]
    for part in supply["parts"]:
        if part["kind"] == "connector" and "model" not in part and fitting:
            part["model"] = min(fitting, key=lambda c: c.rated_w).id


def _regulators(document: dict[str, Any], supply: dict[str, Any]) -> None:
    """A regulator for each empty place by its stage: the least that carries what flows there at the lowest inlet of its sheet."""
    empty = {p["id"]: stage for p in supply["parts"] if (stage := p.pop("stage", None)) and not p.get("model")}
    if not empty:
        return
    flows = _flows_kg_per_h(document, supply["id"])
    engines = not document["equipment"].get("heaters")
    for part in (p for p in supply["parts"] if p["id"] in empty):
        flow = flows.get(part["id"], 0.0)
        able = [
            r
            for r in catalogue().regulators.values()
            if r.gas == supply["fuel"] and r.stage == empty[part["id"]] and r.capacity[-1][1] >= flow
        ]
        if able:
            # For what hangs on it, at the cold inlet, with its lock-up known, then the smallest.
            part["model"] = min(
                able,
                key=lambda r: (
                    r.for_engines and not engines,
                    _least_inlet(r, flow),
                    r.lockup_fraction is None,
                    r.capacity[-1][1],
                ),
            ).id


def _service_regulator(document: dict[str, Any], supply: dict[str, Any]) -> None:
    """Where the utility gives more than a machine may take, a regulator right behind the meter's valve."""
    service = document.get("site", {}).get("gas_service_pa")
    first = next((p for p in supply["parts"] if p["kind"] == "shut_off"), None)
    if supply["fuel"] != "natural_gas" or service is None or first is None:
        return
    placed = resolve(load_as_far(document)[0], catalogue())
    windows = [d.window_pa for m in placed.machines if (d := m.draw("natural_gas")) and d.window_pa]
    if not windows or service <= min(w[1] for w in windows):
        return
    flow = _flow_kg_per_h(document, "natural_gas")
    able = [
        r
        for r in catalogue().regulators.values()
        if r.gas == "natural_gas"
        and r.stage == "second"
        and r.capacity[0][0] <= service <= r.inlet_most_pa
        and capacity_kg_per_s(r, service) * 3600 >= flow
        and all(
            low <= r.set_pa * (1 - r.droop_fraction) and r.set_pa * (1 + (r.lockup_fraction or 0.0)) <= high
            for low, high in windows
        )
    ]
    if not able:
        return
    model = min(able, key=lambda r: r.capacity[-1][1]).id
    made = {
        "kind": "regulator",
        "id": "service-regulator",
        "name": "Regulator at the meter",
        "after": first["id"],
        "model": model,
        "vent": "down",
    }
    for part in supply["parts"]:
        if part.get("after") == first["id"]:
            part["after"] = made["id"]
    supply["parts"].insert(supply["parts"].index(first) + 1, made)


def _least_inlet(regulator: Regulator, flow_kg_per_h: float) -> float:
    return least_inlet_pa(regulator, flow_kg_per_h / 3600) or inf


def _flows_kg_per_h(document: dict[str, Any], supply: str) -> dict[str, float]:
    """What flows through each part of a supply with all machines on: a branch carries its own."""
    placed = resolve(load_as_far(document)[0], catalogue())
    own = next(s for s in placed.supplies if s.given.id == supply)
    drawn = {m.id: d.input_w for m in own.machines if (d := m.draw(own.fuel))}
    nodes, _ = order(own.given.parts)
    for node in reversed(nodes):
        if isinstance(node.part, AppliancePart):
            node.input_w += drawn.get(node.part.machine, 0.0)
        if node.upstream is not None:
            node.upstream.input_w += node.input_w
    return {n.part.id: n.input_w / fuel_of(own.fuel).gross_j_per_kg * 3600 for n in nodes}


def _flow_kg_per_h(document: dict[str, Any], fuel: str) -> float:
    placed = resolve(load_as_far(document)[0], catalogue())
    drawn = total(d.input_w for m in placed.machines if (d := m.draw(fuel)))
    return drawn / fuel_of(fuel).gross_j_per_kg * 3600


def _heaters(start: Start, job: Job) -> list[dict[str, Any]]:
    _, need = heat.assess(job.only("site", "need", "siting"))
    if not need.design_w:
        return []
    rows = [r for r in candidates.rank(job, need, _classes(start)).rows if len(r.units) == 1]
    ample = [r for r in rows if (r.share or 0.0) >= 1 + (job.equipment.margin_fraction or 0.0)]
    chosen = min(ample, key=lambda r: r.score) if ample else (rows[0] if rows else None)
    if chosen is None:
        return []
    unit = chosen.units[0]
    return [{"id": f"heater-{n}", "model": unit.model} for n in range(1, unit.count + 1)]


def _valve_heaters(start: Start, job: Job) -> list[dict[str, Any]]:
    _, need = heat.assess(job.only("site", "need", "siting"))
    taken: list[dict[str, Any]] = []
    for valve in job.need.valves:
        row = next((r for r in candidates.for_valves(need, job, _classes(start)) if r.valve == valve.id), None)
        count = row.count if row else 0
        taken += [{"id": f"heater-{len(taken) + n}", "model": row.model, "serves": valve.id} for n in range(1, count + 1) if row]
    return taken


def _generators(start: Start, job: Job) -> list[dict[str, Any]]:
    carried = power.assess(Assessment("need"), job, [])
    if not carried.items or job.site.altitude_m is None:
        return []
    if start.converts:
        # By a kit: what it carries is reckoned from petrol, and there must be that much more of it.
        job = dataclasses.replace(job, equipment=dataclasses.replace(job.equipment, generator_fuel="petrol"))
    rows = [r for r in generators.ranked(job, carried, _classes(start)) if r.code is None]
    if start.converts:
        share = natural_gas.SHARE_OF_PETROL["natural_gas"]
        rows = [
            r
            for r in rows
            if (r.continuous_w or 0.0) * share >= carried.running_w and (r.surge_w or 0.0) * share >= carried.surge_w
        ]
    ample = [r for r in rows if (r.surge_spare or 0.0) >= 0 and (r.spare or 0.0) >= (job.equipment.margin_fraction or 0.0)]
    chosen = next(iter(ample or rows), None)
    return [] if chosen is None else [{"id": "generator-1", "model": chosen.model, "feeds": "all"}]


def _settle(document: dict[str, Any], typed: list[str]) -> None:
    """Take the remedies the plan itself offers: regulators for empty places, sizes, the number of vessels; what was typed stays."""
    memo = Memo()
    stays = {indexed(document, path) for path in typed}
    tried: set[tuple[str, Any]] = set()
    for _ in range(MOST_ROUNDS):
        made = plan(load_as_far(document)[0], memo=memo)
        offered = {
            (path, value)
            for r in made.assessments
            if r.stage == "supply"
            for v in r.verdicts
            if v.level in ("stop", "not_checked", "caution")
            for path, value in v.fix
            if path not in stays
        }
        if offered <= tried:
            return
        for path, value in sorted(offered - tried, key=str):
            put(document, path, value)
        tried |= offered


def _assumed(start: Start, document: dict[str, Any], typed: dict[str, Any]) -> list[dict[str, Any]]:
    assumed = []
    for q in start.questions:
        if q.key not in typed:
            source = f"usual: {q.help}" if q.help else "the usual answer"
            assumed += [_entry(p, document, (q.usual_low, q.usual_high), source) for p in q.puts]
    assumed += [_entry(a["path"], document, a["range"], a["source"]) for a in start.assumed]
    for duct in document.get("siting", {}).get("ducts", ()):
        at_duct, heater = f"siting.ducts[{duct['id']}]", catalogue().heaters[_model(document, duct["machine"])]
        long = (duct["length_m"], heater.duct_most_m)
        assumed.append(
            _entry(f"{at_duct}.length_m", document, long, "through the wall and a little further; measure it (common practice)")
        )
        wide = (duct["diameter_m"], duct["diameter_m"] + 2 * DUCT_STEP_M)
        assumed.append(
            _entry(f"{at_duct}.diameter_m", document, wide, "air at about 4 m/s; the heater's own outlet decides (from memory)")
        )
    return [e for e in assumed if e["value"] is not None or e["word"]]


def _model(document: dict[str, Any], machine: str) -> str:
    return str(next(h["model"] for h in document["equipment"]["heaters"] if h["id"] == machine))


def _entry(path: str, document: dict[str, Any], usual: Any, source: str) -> dict[str, Any]:
    value = at(document, path)
    words = isinstance(value, str)
    low, high = usual
    return {
        "id": path,
        "value": None if words else value,
        "word": value if words else "",
        "low": None if words else low,
        "high": None if words else high,
        "low_word": low if words else "",
        "high_word": high if words else "",
        "source": source,
    }
