"""The log: rate, refills, outliers, corrections, hours left, input and output against the plan."""

import uuid
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ofen.job import load
from ofen.plan import plan
from ofen.running.log import Planned, assess, entry_faults, standing
from ofen.running.rate import Weighing, rate_of_use, since_refill
from ofen.stage import StageReport

BEGUN = datetime(2026, 1, 12, 6, 0, tzinfo=UTC)


def weighing(hour: float, left: float) -> Weighing:
    return Weighing(f"w{hour:g}", hour * 3600, left)


def entry(n: int, hour: float, quantity: str, value: float, **more: Any) -> dict[str, Any]:
    at = (BEGUN + timedelta(hours=hour)).isoformat()
    return {"id": str(uuid.UUID(int=n)), "at": at, "quantity": quantity, "value": value, "as_typed": f"{value}", **more}


@pytest.fixture
def planned(depot: dict[str, Any]) -> Planned:
    return plan(load(depot)).planned


def weights(per_hour: float, hours: list[float], vessels: int = 6) -> list[dict[str, Any]]:
    """Every vessel weighed at each hour; 79 kg gross is a full 45 kg cylinder."""
    return [
        entry(1000 * k + v, hour, "gross_weight", 79 - per_hour / vessels * hour, vessel=v)
        for k, hour in enumerate(hours, 1)
        for v in range(1, vessels + 1)
    ]  # fmt: skip


def codes(report: StageReport) -> set[str]:
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
    assert report.value("running.rate_kg_per_s") == pytest.approx(1.5 / 3600)
    # Hand calculation: 270 − 36 = 234 kg left, reserve 81 kg, 153 kg / 1.5 kg/h = 102 h.
    assert report.value("running.left_s") == pytest.approx(102 * 3600)
    assert report.value("running.input_w") == pytest.approx(1.5 / 3600 * 50.3e6)
    likely = next(r["at_s"] for r in report.tables["change_over"] if r["which"] == "likely")
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
    right = entry(9, 6, "gross_weight", 79 - 1.5, vessel=1, corrects=wrong["id"])
    counted = standing([*entries, right])
    assert wrong["id"] not in {e["id"] for e in counted}
    assert right["id"] in {e["id"] for e in counted}
    assert assess(planned, [*entries, right]).value("running.rate_kg_per_s") == pytest.approx(1.5 / 3600)


def test_output_from_the_air_by_hand(planned: Planned) -> None:
    air = [entry(1, 1, "supply_air", 52), entry(2, 1, "return_air", 12)]
    report = assess(planned, air)
    # Air at 12 °C and 640 m: 1.147 kg/m³ · 1006 · 0.5 m³/s · 40 K = 23.1 kW.
    assert report.value("running.output_w") == pytest.approx(23_080, rel=2e-3)
    assert "running.output.as_planned" in codes(report)
    air[0]["value"] = 36
    assert "running.output.off_plan" in codes(assess(planned, air))


def test_an_empty_log_says_what_is_missing(planned: Planned) -> None:
    assert codes(assess(planned, [])) == {"running.fuel.too_few", "running.output.not_measured"}


def test_without_storage_or_plan_the_log_still_stands(depot: dict[str, Any], planned: Planned) -> None:
    depot["supplies"][0]["storage"]["vessel"] = ""
    assert "running.fuel.no_storage" in codes(assess(plan(load(depot)).planned, weights(1, [0, 1])))
    without = Planned(planned.vessel, planned.count, planned.reserve_fraction, None, None, None, None)
    assert "running.plan.missing" in codes(assess(without, weights(1, [0, 6])))


def test_outliers_are_said(planned: Planned) -> None:
    entries = weights(1.5, [0, 4, 8, 12, 16, 20])
    entries[12]["value"] -= 20
    assert "running.fuel.outliers" in codes(assess(planned, entries))


@pytest.mark.parametrize(
    ("change", "path", "words"),
    [
        ({"quantity": "mood"}, "e.quantity", "allowed are gross_weight"),
        ({"value": "79"}, "e.value", "must be a number"),
        ({"value": float("nan")}, "e.value", "must be a number"),
        ({"value": 9000}, "e.value", "allowed is 0 kg to 5,000 kg"),
        ({"vessel": 0}, "e.vessel", "by its number"),
        ({"vessel": None}, "e.vessel", "by its number"),
        ({"at": "yesterday"}, "e.at", "must be a date and time"),
        ({"remark": 5}, "e.remark", "must be text"),
        ({"weather": "grim"}, "e.weather", "is not known here"),
    ],
)
def test_bad_entries_are_named_at_their_path(change: dict[str, Any], path: str, words: str) -> None:
    found = {f.path: f.message for f in entry_faults(entry(1, 0, "gross_weight", 79, vessel=1) | change, "e")}
    assert words in found[path]
    assert entry_faults("x", "e")[0].message == "must be an object"
