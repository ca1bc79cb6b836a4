"""The log: rate, refills, outliers, corrections, hours left, input and output against the plan."""

import copy
import dataclasses
import json
import uuid
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ofen.document import specs
from ofen.document.job import load
from ofen.figures.assessment import Assessment
from ofen.plan import plan
from ofen.plant.planned import Planned
from ofen.running.entries import BEFORE_KINDS, faults_of, label, upgraded
from ofen.running.kinds import KINDS
from ofen.running.rate import Weighing, rate_of_use, since_refill
from tests.conftest import ROOT
from tests.core.logged import assess, counted, typed

BEGUN = datetime(2026, 1, 12, 6, 0, tzinfo=UTC)


def weighing(hour: float, left: float) -> Weighing:
    return Weighing(f"w{hour:g}", hour * 3600, left)


def entry(n: int, hour: float, kind: str, value: float, **more: Any) -> dict[str, Any]:
    at = (BEGUN + timedelta(hours=hour)).isoformat()
    return {"id": str(uuid.UUID(int=n)), "at": at, "kind": kind, "value": value, "as_typed": f"{value}", **more}


@pytest.fixture
def planned(depot: dict[str, Any]) -> Planned:
    return plan(load(depot)).planned


def weights(per_hour: float, hours: list[float], vessels: int = 6) -> list[dict[str, Any]]:
    """Every vessel weighed at each hour; 79 kg gross is a full 45 kg cylinder."""
    return [
        entry(1000 * k + v, hour, "weight", 79 - per_hour / vessels * hour, vessel=v)
        for k, hour in enumerate(hours, 1)
        for v in range(1, vessels + 1)
    ]  # fmt: skip


def codes(report: Assessment) -> set[str]:
    return {v.code for v in report.verdicts}


@given(st.floats(0.1, 20), st.floats(50, 500))
def test_a_straight_line_gives_its_slope(per_hour: float, start: float) -> None:
    found = rate_of_use([weighing(h, start - per_hour * h) for h in range(6)])
    assert found is not None
    assert found.kg_per_s * 3600 == pytest.approx(per_hour, rel=1e-6)
    assert found.outliers == ()


def test_a_slip_on_the_scale_is_named_and_left_out() -> None:
    points = [weighing(h, 200 - 2 * h) for h in range(8)]
    points[4] = weighing(4, 150)
    found = rate_of_use(points)
    assert found is not None
    assert found.outliers == ("w4",)
    assert found.kg_per_s * 3600 == pytest.approx(2)


def test_a_refill_begins_a_new_line() -> None:
    points = [weighing(0, 100), weighing(1, 98), weighing(2, 180), weighing(3, 177)]
    assert since_refill(points) == points[2:]
    slips = [weighing(0, 100), weighing(1, 80), weighing(2, 96), weighing(3, 130), weighing(4, 92)]
    assert since_refill(slips) == slips
    assert rate_of_use(points[2:3]) is None


def test_rate_hours_left_and_change_over(planned: Planned) -> None:
    report = assess(planned, weights(1.5, [0, 6, 12, 24]))
    assert report.value("running.supply-1.rate_kg_per_s") == pytest.approx(1.5 / 3600)
    # Hand calculation: 270 − 36 = 234 kg left, reserve 81 kg, 153 kg / 1.5 kg/h = 102 h.
    assert report.value("running.supply-1.left_s") == pytest.approx(102 * 3600)
    assert report.value("running.supply-1.input_w") == pytest.approx(1.5 / 3600 * 50.3e6)
    likely = next(r.at_s for r in report.tables["change_over"] if r.which == "likely")
    assert likely == pytest.approx((BEGUN + timedelta(hours=126)).timestamp())
    assert {"running.fuel.change_at", "running.input.within_plan"} <= codes(report)


def test_below_the_reserve_says_change_now(planned: Planned) -> None:
    assert "running.fuel.change_now" in codes(assess(planned, weights(8, [0, 12, 24])))


def test_more_than_the_burners_can_burn_is_a_caution(planned: Planned) -> None:
    assert "running.input.over_plan" in codes(assess(planned, weights(3.5, [0, 6, 12])))


def test_a_bank_not_wholly_weighed_does_not_count(planned: Planned) -> None:
    entries = [e for e in weights(1.5, [0, 6, 12]) if not (e["vessel"] == 3 and e["at"].startswith("2026-01-12T12"))]
    report = assess(planned, entries)
    assert len(report.tables["weight"]) == 2
    assert "running.fuel.partly_weighed" in codes(report)


def test_a_correction_takes_the_place_of_what_it_corrects(planned: Planned) -> None:
    entries = weights(1.5, [0, 6, 12])
    wrong = entries[6]
    wrong["value"] = 99.0
    right = entry(9, 6, "weight", 79 - 1.5, vessel=1, corrects=wrong["id"])
    left = counted([*entries, right])
    assert wrong["id"] not in {e.id for e in left}
    assert right["id"] in {e.id for e in left}
    assert assess(planned, [*entries, right]).value("running.supply-1.rate_kg_per_s") == pytest.approx(1.5 / 3600)


def test_output_from_the_air_by_hand(planned: Planned) -> None:
    air = [entry(1, 1, "air", 52, where="out"), entry(2, 1, "air", 12, where="in")]
    report = assess(planned, air)
    # Air at 12 °C and 640 m: 1.147 kg/m³ · 1006 · 0.5 m³/s · 40 K = 23.1 kW.
    assert report.value("running.heater-1.output_w") == pytest.approx(23_080, rel=2e-3)
    assert "running.output.as_planned" in codes(report)
    air[0]["value"] = 36
    assert "running.output.off_plan" in codes(assess(planned, air))


def test_weighings_too_close_together_give_no_rate(planned: Planned) -> None:
    entries = weights(1.5, [0, 30 / 3600])
    entries[-1]["value"] = 78
    report = assess(planned, entries)
    assert "running.fuel.too_close" in codes(report)
    assert not report.tables.get("change_over")
    assert report.value("running.supply-1.rate_kg_per_s") is None
    apart = assess(planned, weights(1.5, [0, 30 / 3600, 6]))
    assert apart.value("running.supply-1.rate_kg_per_s") == pytest.approx(1.5 / 3600)


def test_a_vessel_cannot_weigh_what_it_cannot_hold(planned: Planned) -> None:
    entries = weights(1.5, [0, 6, 12])
    entries[-1]["value"] = 4000.0
    report = assess(planned, entries)
    found = next(v for v in report.verdicts if v.code == "running.fuel.impossible")
    assert dict(found.values)["found"] == (4000.0, "mass")
    high = next(i.value for f in report.figures if f.key.endswith("rate_kg_per_s") for i in f.inputs if i.name == "highest likely")
    assert isinstance(high, float)
    assert high * 3600 < 10


@pytest.mark.parametrize("per_hour", [0.0, 1e-9, 1e-4, -0.01])
def test_a_rate_near_nothing_tells_no_change_over_in_the_year_9999(planned: Planned, per_hour: float) -> None:
    report = assess(planned, weights(per_hour, [0, 6, 12]))
    assert "running.fuel.hardly_any" in codes(report)
    assert not report.tables.get("change_over")
    slow = assess(planned, weights(0.05, [0, 6, 12, 18, 24]))
    assert all(r.at_s < BEGUN.timestamp() + 400 * 86_400 for r in slow.tables["change_over"])


def test_one_weighing_below_the_reserve_says_change_now(planned: Planned) -> None:
    assert "running.fuel.change_now" in codes(assess(planned, weights(40, [5])))


def test_a_long_series_is_drawn_together_and_gives_the_same_rate() -> None:
    points = [weighing(n / 60, 900 - n / 60 * 2 + (-1) ** n * 0.2) for n in range(5000)]
    points[3000] = weighing(50, 200)
    found = rate_of_use(points)
    assert found is not None
    assert found.kg_per_s * 3600 == pytest.approx(2, rel=1e-3)
    assert found.outliers == ("w50",)


def test_a_natural_gas_job_is_not_counted_in_propane(depot: dict[str, Any]) -> None:
    depot["supplies"][0]["fuel"] = "natural_gas"
    report = assess(plan(load(depot)).planned, weights(1.5, [0, 6, 12]))
    assert "running.fuel.too_few" in codes(report)
    assert "running.fuel.partly_weighed" not in codes(report)
    assert not [f for f in report.figures if f.key.endswith(("rate_kg_per_s", "input_w"))]


def test_an_empty_log_says_what_is_missing(planned: Planned) -> None:
    assert codes(assess(planned, [])) == {"running.fuel.too_few", "running.output.not_measured"}


def test_without_storage_or_plan_the_log_still_stands(depot: dict[str, Any], planned: Planned) -> None:
    depot["supplies"][0]["storage"]["vessel"] = ""
    assert "running.fuel.no_storage" in codes(assess(plan(load(depot)).planned, weights(1, [0, 1])))
    without = Planned(tuple(dataclasses.replace(s, input_w=None) for s in planned.supplies), (), None)
    assert "running.plan.missing" in codes(assess(without, weights(1, [0, 6])))


def test_outliers_are_said(planned: Planned) -> None:
    entries = weights(1.5, [0, 4, 8, 12, 16, 20])
    entries[12]["value"] -= 20
    assert "running.fuel.outliers" in codes(assess(planned, entries))


@pytest.mark.parametrize(
    ("change", "path", "words"),
    [
        ({"quantity": "mood"}, "e.quantity", "is not known here"),
        ({"kind": "mood"}, "e.kind", "Allowed: weight"),
        ({"kind": []}, "e.kind", "Allowed: weight"),
        ({"value": "79"}, "e.value", "must be a number"),
        ({"value": float("nan")}, "e.value", "must be a number"),
        ({"value": 9000}, "e.value", "Enter a value from 0 kg to 5,000 kg"),
        ({"value": 10**400}, "e.value", "must be a number"),
        ({"vessel": 0}, "e.vessel", "Enter a value from 1 to 60"),
        ({"vessel": {}}, "e.vessel", "must be a number"),
        ({"vessel": None}, "e.vessel", "is missing"),
        ({"value": None}, "e.value", "is missing"),
        ({"corrects": []}, "e.corrects", "must be text"),
        ({"source": "guess"}, "e.source", "Allowed: typed"),
        ({"as_typed": "\ud800"}, "e.as_typed", "must be text"),
        ({"at": "0001-01-01T00:00:00+14:00"}, "e.at", "from 2000 up to 2200"),
        ({"at": "9999-12-31T23:59:59-12:00"}, "e.at", "from 2000 up to 2200"),
        ({"at": "2026-01-12T06:00:00-23:58"}, "e.at", "from 2000 up to 2200"),
        ({"at": "2026-01-12T06:30:00"}, "e.at", "with its zone"),
        ({"at": None}, "e.at", "is missing"),
        ({"at": "yesterday"}, "e.at", "must be a date and time"),
        ({"remark": 5}, "e.remark", "must be text"),
        ({"weather": "grim"}, "e.weather", "is not known here"),
    ],
)
def test_bad_entries_are_named_at_their_path(change: dict[str, Any], path: str, words: str) -> None:
    found = {f.path: f.message for f in faults_of(entry(1, 0, "weight", 79, vessel=1) | change, "e")}
    assert words in found[path]
    assert faults_of("x", "e")[0].message == "must be an object"


def good(kind: str) -> dict[str, Any]:
    """A good entry of a kind, each field at the least its declaration allows."""
    made: dict[str, Any] = {"kind": kind}
    for name, spec in specs(KINDS[kind]).items():
        if spec.needed and spec.shape in ("number", "whole"):
            made[name] = spec.low
        elif spec.needed and spec.shape == "choice":
            made[name] = spec.options[0][0]
        elif spec.needed and name in ("item", "test"):
            made[name] = "soap"
    if kind == "undone":
        made["batch"] = str(uuid.UUID(int=6))
    return made | {"id": str(uuid.UUID(int=5)), "at": BEGUN.isoformat(), "remark": "seen"}


@pytest.mark.parametrize("kind", sorted(KINDS))
def test_every_kind_is_declared_whole_and_read_by_its_declaration(kind: str) -> None:
    cls = KINDS[kind]
    assert cls.TITLE
    assert cls.OF in ("supply", "machine", "job")
    assert (cls.__doc__ or "").strip()
    entry = good(kind)
    assert faults_of(entry, "e") == []
    assert label(typed([entry])[0])
    for name, spec in specs(cls).items():
        if spec.needed:
            assert {f.path for f in faults_of({k: v for k, v in entry.items() if k != name}, "e")} == {f"e.{name}"}


def test_an_entry_from_before_the_kinds_reads_as_todays_and_stays_as_it_was() -> None:
    for name, today in BEFORE_KINDS.items():
        old = {
            "id": str(uuid.UUID(int=1)),
            "at": BEGUN.isoformat(),
            "quantity": name,
            "value": 20.0,
            "as_typed": "20",
            "vessel": None,
        }
        if name == "gross_weight":
            old["vessel"] = 2
        kept = dict(old)
        read = upgraded(old)
        assert old == kept
        assert "quantity" not in read
        assert read.items() >= today.items()
        assert faults_of(old, "e") == []


def test_the_stored_log_of_before_comes_to_the_same(depot: dict[str, Any]) -> None:
    stored = json.loads((ROOT / "tests" / "stored" / "whole-job-1-tram-depot.json").read_text(encoding="utf-8"))
    assert [f for e in stored["log"] for f in faults_of(e)] == []
    planned = plan(load(stored["job"])).planned
    report = assess(planned, stored["log"])
    # The demo's figures: 1.55 kg/h, output within a fifth of the plan.
    assert report.value("running.supply-1.rate_kg_per_s") == pytest.approx(1.55 / 3600, rel=0.05)
    assert {"running.fuel.change_at", "running.output.as_planned"} <= codes(report)


def test_supplies_and_machines_are_told_apart(depot: dict[str, Any]) -> None:
    second = copy.deepcopy(depot["supplies"][0]) | {"id": "supply-2", "name": "Other bank"}
    second["parts"][-1]["machine"] = "heater-2"
    depot["supplies"].append(second)
    depot["equipment"]["heaters"].append({"id": "heater-2", "model": depot["equipment"]["heaters"][0]["model"]})
    planned = plan(load(depot)).planned
    mine = [e | {"subject": "supply-2"} for e in weights(3.0, [0, 6, 12])]
    air = [
        entry(1, 1, "air", 52, where="out", subject="heater-2"),
        entry(2, 1, "air", 12, where="in", subject="heater-2"),
        entry(3, 1, "air", 90, where="out"),
    ]
    report = assess(planned, [*mine, *air])
    assert report.value("running.supply-2.rate_kg_per_s") == pytest.approx(3.0 / 3600)
    assert report.value("running.supply-1.rate_kg_per_s") is None
    assert report.value("running.heater-2.output_w") == pytest.approx(23_080, rel=2e-3)
    assert report.value("running.heater-1.output_w") is None
    assert {row.supply for row in report.tables["change_over"]} == {"supply-2"}
