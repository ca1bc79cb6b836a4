"""The first choice for each of forty needs is one a technician would take, and what is ranked is not stopped once it is chosen."""

import pytest

from ofen.document import specs
from ofen.document.job import load
from ofen.document.need import Space
from ofen.equipment import uses
from ofen.equipment.candidates import Candidate, RuledOut
from ofen.plan import Plan, plan
from ofen.plant.catalogue import shipped
from tests.core.rankings import ASKED, CABIN, KIOSK, VENTS, Asked
from tests.proof import proven

HEATERS = shipped().heaters


def ranked(asked: Asked) -> Plan:
    return plan(load(asked.document()))


def first_of(made: Plan) -> dict[str, object] | None:
    return next(iter(made.stage("equipment").table(Candidate)), None)


@pytest.mark.parametrize("asked", ASKED, ids=lambda a: a.name)
def test_the_first_choice_is_one_a_technician_would_take(asked: Asked) -> None:
    made = ranked(asked)
    equipment = made.stage("equipment")
    rows = equipment.table(Candidate)
    if not asked.first:
        assert rows == []
        assert any(v.code == "equipment.heater.none_fits" for v in equipment.verdicts)
        return
    assert {HEATERS[u.model].heater_class for u in rows[0].units} <= set(asked.first)
    assert rows[0].count <= asked.most
    # Two whole sentences at least: what the class is to the place, and what this choice gives.
    assert rows[0].why.count(". ") >= 1 and rows[0].why.endswith(".")
    chosen = asked.document()
    chosen["equipment"]["heaters"] = [
        {"id": f"heater-{n}", "model": model} for n, model in enumerate(u.model for u in rows[0].units for _ in range(u.count))
    ]
    inside = {"position": "inside"} if set(asked.first) & {"radiant_cylinder", "radiant_cartridge"} else {}
    chosen["siting"] = {**chosen["siting"], "usual": inside}
    stops = [v.code for r in plan(load(chosen)).assessments for v in r.verdicts if v.level == "stop"]
    # What stands between a plan and a start, such as a missing alarm or lead, is another matter than the choice.
    assert [c for c in stops if c.startswith(("equipment.", "siting.air."))] == []


def test_classes_are_mixed_last() -> None:
    for asked in ASKED:
        mixed = [
            len({HEATERS[u.model].heater_class for u in r.units}) > 1 for r in ranked(asked).stage("equipment").table(Candidate)
        ]
        assert mixed == sorted(mixed), asked.name


def test_whoever_sleeps_there_rules_out_a_flame_without_a_vent() -> None:
    aired = {"siting": {"openings": list(VENTS)}}
    awake = Asked("Kiosk", **KIOSK, inside_c=16, outside_c=-2, fuel="propane", first=(), more=tuple(aired.items()))
    document = awake.document()
    assert any(r.key == "1 glade-53-radiant" for r in plan(load(document)).stage("equipment").table(Candidate))
    document["siting"]["air"] = {"sleeps": "yes"}
    codes = {r.model: r.code for r in plan(load(document)).stage("equipment").table(RuledOut)}
    assert codes["glade-53-radiant"] == "somebody_sleeps_there"


def test_a_small_shut_room_says_what_the_air_would_come_to() -> None:
    made = ranked(Asked("Cabin", **CABIN, inside_c=20, outside_c=-10, fuel="propane", first=()))
    reasons = {r.model: r.reason for r in made.stage("equipment").table(RuledOut)}
    # 24 m³ at 0.5 changes an hour and 2,638 W of propane, 3 mol of CO2 to 2.22 MJ gross: about 13,600 ppm (hand calculation).
    assert reasons["glade-26-radiant"] == "burns without a vent: CO2 would reach 13,600 ppm, at most 5,000 ppm"
    (said,) = [v for v in made.stage("equipment").verdicts if v.code == "equipment.heater.none_fits"]
    assert dict(said.values)["what"] == "Take another fuel: on diesel, 1 × Wren 20, 12 V air heater would do."


@pytest.mark.parametrize("load_w", [None, 0.0, 1600.0])
def test_what_would_do_on_another_fuel_leads_once_that_fuel_is_taken(load_w: float | None) -> None:
    """Without a set and with one that the loads leave nothing of: the set's watts count for the other fuel, too."""
    document = Asked("Cabin", **CABIN, inside_c=20, outside_c=0, fuel="propane", first=()).document()
    if load_w is not None:
        document["equipment"]["generators"] = [{"id": "set", "model": "linnet-2-lp-230", "fuel": "propane"}]
        document["need"]["loads"] = [{"id": "pump", "name": "Pump", "running_w": load_w}] if load_w else []
    (none,) = [v for v in plan(load(document)).stage("equipment").verdicts if v.code == "equipment.heater.none_fits"]
    what = dict(none.values)["what"]
    document["equipment"]["heater_fuel"] = "diesel"
    candidates = plan(load(document)).stage("equipment").table(Candidate)
    first = " and ".join(f"{u.count} × {u.name}" for u in candidates[0].units) if candidates else ""
    assert (first != "") == ("on diesel" in what)
    assert first in what
    assert ("Choose a larger generator" in what) == (load_w == 1600.0)


def test_every_kind_of_space_and_every_class_has_its_row() -> None:
    kinds = {key for key, _ in specs(Space)["use"].options} | {"tent"}
    classes = {h.heater_class for h in HEATERS.values()}
    for kind in kinds:
        for heater_class in classes - {"catalytic"}:
            space = Space(id="s", use="canvas_hall" if kind == "tent" else kind, length_m=3, width_m=3, mean_height_m=2)
            fit = uses.fit(heater_class, uses.kinds_of([space]))
            assert bool(fit.never) != bool(fit.say), (kind, heater_class)


def test_the_table_of_rankings_is_the_one_that_is_kept() -> None:
    rows = []
    for asked in ASKED:
        made = ranked(asked)
        need_w = made.stage("need").value("need.design_w") or made.stage("need").value("need.loss_w") or 0.0
        first = first_of(made)
        words = first.why if first else next(v for v in made.stage("equipment").verdicts if v.code == "equipment.heater.none_fits")
        why = words if isinstance(words, str) else f"Nothing suits on this fuel. {dict(words.values)['what']}"
        rows.append((asked.name, f"{need_w / 1000:.1f} kW", first.key if first else "none", why))
    proven("rankings", "The first choice for forty needs", ("Need", "Heat", "First choice", "Why"), rows)
