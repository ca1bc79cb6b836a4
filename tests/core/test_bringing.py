"""How many cylinders to bring for a night: what each row says is what the plan says once the row is taken."""

import copy
import json
from typing import Any, get_args

import pytest

from ofen.document.job import dump, load
from ofen.figures.memo import Memo
from ofen.handover.cards import WHAT, card
from ofen.plan import Plan, plan
from ofen.plant.catalogue import shipped as catalogue
from ofen.plant.night import Bank, Night, _wait, draw
from ofen.questions.asking import question
from ofen.supply.night import Happening
from ofen.supply.tree.joints import vessels_coupled
from tests.conftest import ROOT, example

HOUR_S = 3600.0


@pytest.fixture
def hall() -> dict[str, Any]:
    """A canvas hall on three 100 lb cylinders, for an evening of six hours at 30 °F."""
    made = example("canvas-hall")
    for word in ("use_from_s", "use_until_s"):
        made["need"]["spaces"][0].pop(word, None)
    supply = made["supplies"][0]
    made["site"]["outside_lowest_c"] = -1.0
    supply["storage"] |= {"vessel": "cyl-100lb", "count": 3}
    supply["night"] = {"begins_s": 18 * HOUR_S, "lasts_s": 6 * HOUR_S, "evening_c": -1.0, "lowest_at_s": 0.0}
    return made


def rows(document: dict[str, Any]) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = brought(document)["ways"]
    return found


def brought(document: dict[str, Any]) -> dict[str, Any]:
    asked = {"document": document, "supply": document["supplies"][0]["id"]}
    found: dict[str, Any] = question("bring").answer(asked, Memo())
    return found


def taken(document: dict[str, Any], row: dict[str, Any]) -> dict[str, Any]:
    """The document with a row taken, as the screen does it."""
    made = copy.deepcopy(document)
    made["supplies"][0]["storage"] |= {"vessel": row["vessel"], "count": row["count"]}
    made["supplies"][0]["night"]["reserve_count"] = row["reserve_count"]
    # What was planned for other cylinders goes with them.
    made["supplies"][0]["night"].pop("changes", None)
    if row["reserve_count"]:
        made["supplies"][0]["night"]["reserve_way"] = row["way"]
    return made


def codes(made: Plan) -> set[str]:
    return {v.code for v in made.stage("supply").verdicts}


def test_what_the_job_has_now_comes_first_and_an_evening_needs_no_more(hall: dict[str, Any]) -> None:
    found = rows(hall)
    assert [r["chosen"] for r in found].count(True) == 1
    now = found[0]
    assert (now["chosen"], now["count"], now["vessel"], now["fails_after_s"]) == (True, 3, "cyl-100lb", None)
    assert now["way"] == "all_on"
    # For days on end of that cold three are not enough by the steady draw, for this evening they are: each says which it speaks of.
    assert "supply.night.lasts" in codes(plan(load(hall)))


@pytest.mark.parametrize("days", [0.25, 2.0, 7.0])
def test_every_row_is_what_the_plan_says_once_it_is_taken(hall: dict[str, Any], days: float) -> None:
    hall["supplies"][0]["night"]["lasts_s"] = days * 24 * HOUR_S
    found = rows(hall)
    assert len(found) > 3
    for row in found:
        made = plan(load(taken(hall, row)))
        said = codes(made)
        failed = said & {"supply.night.starves", "supply.night.runs_empty"}
        assert bool(failed) == (row["fails_after_s"] is not None), row
        assert bool(failed) != ("supply.night.lasts" in said)
        if not row["chosen"]:
            # A row that is offered carries the night and leaves each bank its reserve while nothing stands behind it.
            assert not failed
            assert "supply.night.change_due" not in said
        (verdict,) = [v for v in made.stage("supply").verdicts if v.code in failed or v.code == "supply.night.lasts"]
        holds = dict(verdict.values).get("holds_to")
        assert (None if holds is None else holds[0]) == pytest.approx(row["holds_to_c"]), row
        calls = [
            (c.after_s, c.what) for c in made.stage("supply").tables["schedule"] if c.what in {x["what"] for x in row["calls"]}
        ]
        assert calls == [(c["after_s"], c["what"]) for c in row["calls"]]


def test_fewer_in_use_want_more_changes(hall: dict[str, Any]) -> None:
    hall["supplies"][0]["night"]["lasts_s"] = 3 * 24 * HOUR_S
    own = [r for r in rows(hall) if r["vessel"] == "cyl-100lb" and not r["chosen"]]
    ways = [(r["way"], r["count"], r["reserve_count"]) for r in own]
    assert [w for w, _, _ in ways][:3] == ["all_on", "automatic", "by_hand"]
    counts = [c for w, c, _ in ways if w != "by_hand"]
    assert counts == sorted(counts, reverse=True) and len(set(counts)) == len(counts)
    # One fewer of the first row does not carry it: planned again on that side.
    fewer = plan(load(taken(hall, own[0] | {"count": own[0]["count"] - 1})))
    assert codes(fewer) & {"supply.night.starves", "supply.night.runs_empty", "supply.night.change_due"}


def test_the_way_a_reserve_comes_on_says_who_has_to_be_there(hall: dict[str, Any]) -> None:
    night = hall["supplies"][0]["night"]
    hall["supplies"][0]["storage"]["count"] = 1
    night |= {"lasts_s": 2 * 24 * HOUR_S, "reserve_count": 2}
    for way, code, levels in (
        ("automatic", "supply.night.changes_over", {"note"}),
        ("by_hand", "supply.night.turn_over", {"caution"}),
        ("swapped", "supply.night.swap", {"caution"}),
    ):
        night["reserve_way"] = way
        made = plan(load(hall))
        said = [v for v in made.stage("supply").verdicts if v.code.startswith("supply.night.") and v.code == code]
        assert said and {v.level for v in said} == levels
        # Two that are swapped in one after the other are two changes; two on the other side are one.
        assert len(said) == (2 if way == "swapped" else 1)


def test_every_happening_of_a_night_has_its_words_on_the_card(hall: dict[str, Any]) -> None:
    assert set(WHAT) == set(get_args(Happening))
    night, said = hall["supplies"][0]["night"], set()
    hall["supplies"][0]["storage"]["count"] = 1
    night |= {"lasts_s": 2 * 24 * HOUR_S, "reserve_count": 2}
    for way in ("by_hand", "swapped"):
        night["reserve_way"] = way
        made = plan(load(hall))
        said |= {row["what"] for row in card(made, "night", made.commissioned[0].unit.machine.id, "metric")["change_over"]}
    assert {"turn the change-over valve", "swap the cylinders and light again"} <= said


def test_cylinders_that_stand_by_unconnected_have_no_joint(hall: dict[str, Any]) -> None:
    hall["supplies"][0]["night"]["reserve_count"] = 3
    coupled = {}
    for way in ("automatic", "by_hand", "swapped"):
        hall["supplies"][0]["night"]["reserve_way"] = way
        coupled[way] = vessels_coupled(plan(load(hall)).supplies[0].supply)
    assert coupled == {"automatic": 6, "by_hand": 6, "swapped": 3}


def test_sixty_cylinders_to_swap_in_are_reckoned_as_one_state() -> None:
    bank = catalogue().vessels["cyl-20lb"]
    many, one = (Bank(bank, 1, 1.0, 5.0) for _ in range(2))
    waiting = [Bank(bank, 1, 1.0, 5.0) for _ in range(60)]
    books, alone = Night(), Night()
    draw(one, 0.0, -10.0, 900.0, alone)
    _wait([many, *waiting], -10.0, 900.0, books)
    assert {b.liquid_c for b in [many, *waiting]} == {one.liquid_c}
    assert books.from_air_j == pytest.approx(61 * alone.from_air_j)


def test_the_fuel_in_them_costs_what_a_full_one_holds(hall: dict[str, Any]) -> None:
    assert rows(hall)[0]["cost"] is None
    hall["prices"] = {"propane": 2.0}
    now = rows(hall)[0]
    full_kg = plan(load(hall)).stage("supply").value("storage.fill_most_kg")
    assert full_kg
    assert now["cost"] == pytest.approx(2.0 * 3 * full_kg)


@pytest.mark.parametrize("without", ["night", "count", "vessel", "altitude", "supply", "fuel"])
def test_without_a_night_or_its_cylinders_there_is_nothing_to_tell(hall: dict[str, Any], without: str) -> None:
    supply = hall["supplies"][0]
    if without == "night":
        del supply["night"]
    elif without == "altitude":
        del hall["site"]["altitude_m"]
    elif without == "fuel":
        supply["fuel"] = "diesel"
    elif without != "supply":
        del supply["storage"][without]
    asked = {"document": hall, "supply": "nothing" if without == "supply" else supply["id"]}
    assert question("bring").answer(asked, Memo()) == {"ways": [], "holds": None}


@pytest.mark.parametrize("name", sorted(p.stem for p in (ROOT / "demo").glob("*.json")))
def test_every_demo_job_can_be_asked(name: str) -> None:
    document = json.loads((ROOT / "demo" / f"{name}.json").read_text(encoding="utf-8"))
    for supply in dump(load(document))["supplies"]:
        for row in question("bring").answer({"document": document, "supply": supply["id"]}, Memo())["ways"]:
            assert row["mass_kg"] > 0 and row["count"] >= 1
