"""Job documents made by chance from the schema's own declarations: half-filled, overfull, odd, but never invalid."""

import copy
import random
from datetime import UTC, datetime, timedelta, timezone
from math import isfinite
from typing import Any

from ofen.document import Spec, specs
from ofen.document import job as jobs
from ofen.document.siting import Siting, UsualPlace
from ofen.physics.pipes.materials import MATERIAL_TABLES, pipes
from ofen.plant.catalogue import shipped
from tests.conftest import example

MODELS = {
    "HeaterUnit": list(shipped().heaters),
    "GeneratorUnit": list(shipped().generators),
    "RegulatorPart": list(shipped().regulators),
    "ConnectorPart": list(shipped().connectors),
}
EXAMPLES = ["tram-depot", "canvas-hall", "seedling-house", "valve-house", "pontoon-cabin"]
SIZES = [p.nominal for m in MATERIAL_TABLES for p in pipes(m)]


def _value(chance: random.Random, spec: Spec, cls: str, name: str) -> Any:
    if spec.shape == "number":
        low, high = max(spec.low, -1e6), min(spec.high, 1e6)
        assert isfinite(low)
        return chance.choice([low, high, chance.uniform(low, high), round(chance.uniform(low, min(high, low + 100)), 2)])
    if spec.shape == "whole":
        return chance.randint(int(spec.low), int(spec.high))
    if spec.shape == "choice":
        return chance.choice(spec.options)[0]
    if spec.shape == "day":
        return f"2026-{chance.randint(1, 12):02}-{chance.randint(1, 28):02}"
    if spec.shape == "texts":
        return chance.choice([[], ["site.altitude_m", "supplies[supply-0].storage.duty_fraction"], ["nowhere[0].at_all"]])
    if name == "model":
        return chance.choice([*MODELS[cls], "not in the catalogue"])
    if name == "vessel":
        return chance.choice([*shipped().vessels, "barrel"])
    if name == "nominal":
        return chance.choice(["choose", *SIZES])
    return chance.choice(["", "Stube", "Größe ¾ — naïve", "日本", "a" * 40])


def _made(chance: random.Random, cls: Any, depth: int = 0) -> dict[str, Any]:
    made: dict[str, Any] = {"kind": cls.KIND} if hasattr(cls, "KIND") else {}
    for name, spec in specs(cls).items():
        if chance.random() < 0.12 and name not in ("id", "name"):
            continue
        if spec.shape == "one":
            made[name] = _made(chance, spec.of, depth + 1)
        elif spec.shape == "many":
            kinds = list(spec.of.values()) if isinstance(spec.of, dict) else [spec.of]
            made[name] = [
                _made(chance, chance.choice(kinds), depth + 1) | {"id": f"{name}-{n}"}
                for n in range(chance.randint(0, min(5, spec.most)))
            ]
        else:
            made[name] = _value(chance, spec, cls.__name__, name)
    return made


def document(seed: int) -> dict[str, Any]:
    """Return a document: every third made from nothing, the others an example with values changed by chance."""
    chance = random.Random(seed)
    if seed % 3 == 0:
        made = {"format": jobs.FORMAT, **_made(chance, jobs.Job), "name": f"Job {seed}"}
        made.pop("weather", None)
        for supply in made.get("supplies", []):
            ids = [p["id"] for p in supply.get("parts", [])]
            for n, part in enumerate(supply.get("parts", [])):
                part["after"] = chance.choice(["", *ids[:n], *ids[n:]])
                if part["kind"] == "appliance":
                    part["machine"] = f"{chance.choice(['heaters', 'heaters', 'generators'])}-{chance.randint(0, 2)}"
        _hang_siting(chance, made)
        return made
    made = example(chance.choice(EXAMPLES))
    if seed % 3 == 1:
        _second_supply(chance, made)
    if seed % 3 == 2:
        usual = made.get("siting", {}).get("usual", {})
        made["siting"] = _made(chance, Siting)
        made["siting"]["usual"] = _made(chance, UsualPlace) | (usual if chance.random() < 0.5 else {})
        _hang_siting(chance, made)
    _change(chance, made, jobs.Job)
    _hours_ahead(random.Random(f"hours ahead {seed}"), made)
    _forecast(random.Random(f"forecast {seed}"), made)
    return made


def _forecast(chance: random.Random, made: dict[str, Any]) -> None:
    """A forecast of some days, in one zone or over a change of the clock, and hours ahead that it may or may not tell."""
    if chance.random() < 0.5:
        return
    issued = datetime(2026, 10, 23, 5, tzinfo=UTC)
    change = issued + timedelta(hours=chance.choice([20, 44, 500]))
    hours, c = [], chance.uniform(-30, 15)
    for n in range(-20, chance.choice([1, 30, 100, 200]) - 20 + 1):
        at, c = issued + timedelta(hours=n), c + chance.uniform(-1.5, 1.4)
        zone = timezone(timedelta(hours=2 if at < change else 1))
        hours.append({"at": at.astimezone(zone).isoformat(), "outside_c": max(-60.0, min(45.0, round(c, 1)))})
    made["weather"] = {"issued_at": issued.isoformat(), "source": "made up", "hours": hours}
    made["site"] = made.get("site", {}) | {"longitude_deg": chance.choice([10.0, 160.0])}
    for supply in made.get("supplies", []):
        if "night" in supply and chance.random() < 0.8:
            supply["night"] |= {"begins_on": f"2026-10-{chance.choice([22, 23, 24, 26])}"} | (
                {} if chance.random() < 0.2 else {"hours": []}
            )


def _hours_ahead(chance: random.Random, made: dict[str, Any]) -> None:
    """Hours of some length with reserves and planned change-overs, a season, heaters set for good, a battery with its charger."""
    for supply in made.get("supplies", []):
        if chance.random() < 0.7:
            supply["night"] = supply.get("night", {}) | {
                "lasts_s": 3600.0 * chance.choice([6, 12, 24, 72, 168]),
                "reserve_count": chance.randint(0, 4),
                "reserve_way": chance.choice(["automatic", "by_hand", "by_hand", "swapped"]),
                "inside_at_start": chance.choice(["warm", "cold"]),
                "changes": [{"id": f"change-{n}", "after_s": 3600.0 * chance.randint(1, 60)} for n in range(chance.randint(0, 3))],
            }
        if chance.random() < 0.6:
            season = {"lasts_s": 86_400.0 * chance.randint(7, 366), "mean_c": chance.choice([None, -39.0, 0.0, 4.0])}
            supply["season"] = {k: v for k, v in season.items() if v is not None}
    for heater in made.get("equipment", {}).get("heaters", []):
        heater["set_to"] = chance.choice(["thermostat", "thermostat", "low", "high"])
    cord = made.get("siting", {}).get("usual", {}).get("cord")
    if cord is not None and chance.random() < 0.7:
        battery = {"battery_j": 3.6e6 * chance.uniform(0.2, 20), "battery_kind": chance.choice(["lead", "lithium", None])}
        charger = {"charger_w": chance.choice([10.0, 400.0]), "charged_s": 3600.0 * chance.randint(1, 20)}
        cord |= {k: v for k, v in battery.items() if v is not None} | (charger if chance.random() < 0.6 else {})


def _hang_siting(chance: random.Random, made: dict[str, Any]) -> None:
    """Places of machines that are there, ducts at heaters, leads in one another, mostly of sizes that might be."""
    siting, equipment = made.get("siting", {}), made.get("equipment", {})
    heaters = [u["id"] for u in equipment.get("heaters", [])] or ["heater-9"]
    sets = [u["id"] for u in equipment.get("generators", [])] or ["generator-9"]
    for n, place in enumerate(siting.get("places", [])):
        place["id"] = [*heaters, *sets, "nobody"][n % (len(heaters) + len(sets) + 1)]
    siting["places"] = list({p["id"]: p for p in siting.get("places", [])}.values())
    supplies = [s["id"] for s in made.get("supplies", [])]
    for n, vessels in enumerate(siting.get("vessels", [])):
        vessels["id"] = supplies[n] if n < len(supplies) else f"none-{n}"
    leads = [lead["id"] for lead in siting.get("leads", [])]
    for place in [siting.get("usual", {}), *siting.get("places", [])]:
        for where in ("wall_m", "along_m"):
            if place.get(where) is not None:
                place[where] = round(chance.uniform(-1, 12), 2)
        if "cord" in place:
            place["cord"] |= {"after": chance.choice(["", *leads]), "feeder": chance.choice(["", *sets])}
    for lead in siting.get("leads", []):
        lead |= {"after": chance.choice(["", "", *leads]), "feeder": chance.choice(["", *sets])}
    ducts = [d["id"] for d in siting.get("ducts", [])]
    for d in siting.get("ducts", []):
        d |= {
            "machine": chance.choice(heaters),
            "after": chance.choice(["", "", *ducts]),
            "length_m": round(chance.uniform(1, 12), 1),
        }
        d |= {"diameter_m": round(chance.uniform(0.1, 0.6), 2)}
    for o in siting.get("openings", []):
        o |= {"along_m": round(chance.uniform(0, 6), 1), "width_m": round(chance.uniform(0.1, 3), 1)}
        o |= {"height_m": round(chance.uniform(0.1, 2.5), 1)}


def _second_supply(chance: random.Random, made: dict[str, Any]) -> None:
    """Give an example the supply of another, one of its own machines hanging on it too."""
    other = copy.deepcopy(example(chance.choice([n for n in EXAMPLES if n != "valve-house"]))["supplies"][0])
    machines = [u["id"] for kind in ("heaters", "generators") for u in made["equipment"].get(kind, [])]
    for part in other["parts"]:
        if part["kind"] == "appliance" and machines:
            part["machine"] = chance.choice(machines)
    made["supplies"] = [*made["supplies"], other | {"id": "supply-2", "name": "Second"}]


def _change(chance: random.Random, made: dict[str, Any], cls: Any) -> None:
    for name, spec in specs(cls).items():
        if name not in made or name in ("id", "after", "machine"):
            continue
        if spec.shape == "one":
            _change(chance, made[name], spec.of)
        elif spec.shape == "many":
            for entry in made[name]:
                _change(chance, entry, spec.of[entry["kind"]] if isinstance(spec.of, dict) else spec.of)
        elif spec.shape in ("number", "whole") and made[name] is not None and chance.random() < 0.35:
            changed = made[name] * chance.uniform(0.5, 1.8)
            held = min(spec.high, max(spec.low, changed))
            made[name] = int(held) if spec.shape == "whole" else held
        elif spec.shape != "number" and name != "name" and chance.random() < 0.1:
            made[name] = _value(chance, spec, cls.__name__, name)
