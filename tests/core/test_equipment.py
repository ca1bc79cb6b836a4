"""Heaters at a site: altitude, useful output, candidates, and the judgement on those chosen."""

from typing import Any

import pytest

from ofen.document.job import load
from ofen.document.sheets import sheet_faults
from ofen.equipment.heaters import useful_output_w
from ofen.figures.errors import UnknownEntry
from ofen.need import heat
from ofen.plan import Plan, plan
from ofen.plant.catalogue import find, shipped
from ofen.plant.derating import burner_factor
from ofen.questions import starts
from ofen.questions.starts import fill


def planned(document: dict[str, Any]) -> Plan:
    return plan(load(document))


def codes(document: dict[str, Any]) -> set[str]:
    return {v.code for v in planned(document).stage("equipment").verdicts}


def test_burners_are_set_down_from_sea_level_above_2000_feet() -> None:
    # NFPA 54 (from memory): 4 % per 1,000 ft from sea level, so 5,000 ft loses 20 %, 2,000 ft nothing.
    assert burner_factor(5000 * 0.3048) == pytest.approx(0.80)
    assert burner_factor(2000 * 0.3048) == 1
    assert burner_factor(0) == 1
    assert burner_factor(2001 * 0.3048) == pytest.approx(1 - 0.04 * 2.001)


def test_a_data_sheet_goes_before_the_rule() -> None:
    assert burner_factor(5000 * 0.3048, 0.03) == pytest.approx(0.85)


def test_an_indirect_heater_gives_input_times_efficiency(depot: dict[str, Any]) -> None:
    report = planned(depot).stage("equipment")
    taken = report.value("equipment.heater-1.input_w")
    assert taken == pytest.approx(35_000 * (1 - 0.04 * 640 / 304.8))
    assert report.value("equipment.output_w") == pytest.approx(taken * 0.80)


def test_a_direct_heater_pays_for_its_flue_gas_and_its_fresh_air(hall: dict[str, Any]) -> None:
    heater = shipped().heaters["sill-50-direct"]
    burns = heater.on("propane")
    assert burns
    _, need = heat.assess(load(hall))
    # Hand calculation: 49.82 kW · 46.3/50.3 = 45.86 kW, less 1.236 kg/m³ · 1006 · (0.45 − 0.16) m³/s · 17 K = 6.13 kW.
    assert useful_output_w(heater, burns, burns.input_w, need, -1, 410) == pytest.approx(39_734, rel=2e-3)


def test_enough_says_down_to_which_temperature(depot: dict[str, Any]) -> None:
    verdict = next(v for v in planned(depot).stage("equipment").verdicts if v.code == "equipment.heater.enough")
    holds_c, kind = dict(verdict.values)["holds_to"]
    assert kind == "temperature"
    # Just above it the margin wanted is there, just below it is thin; where that ends the same heater is not enough any more.
    depot["site"]["outside_lowest_c"] = float(holds_c) + 0.3
    assert "equipment.heater.enough" in codes(depot)
    depot["site"]["outside_lowest_c"] = float(holds_c) - 0.3
    assert "equipment.heater.thin" in codes(depot)
    thin = next(v for v in planned(depot).stage("equipment").verdicts if v.code == "equipment.heater.thin")
    ends_c = float(dict(thin.values)["holds_to"][0])
    depot["site"]["outside_lowest_c"] = ends_c + 0.3
    assert "equipment.heater.thin" in codes(depot)
    depot["site"]["outside_lowest_c"] = ends_c - 0.3
    assert "equipment.heater.too_small" in codes(depot)


def test_too_small_is_a_stop(depot: dict[str, Any]) -> None:
    depot["need"]["spaces"][0]["air_changes_per_h"] = 6
    made = planned(depot)
    assert made.has_stop
    assert "equipment.heater.too_small" in codes(depot)


def test_a_direct_heater_says_that_its_nameplate_is_input(depot: dict[str, Any]) -> None:
    depot["equipment"]["heaters"][0]["model"] = "sill-50-direct"
    assert "equipment.heater.direct_fired" in codes(depot)


@pytest.mark.parametrize(
    ("heaters", "code"),
    [
        ([], "equipment.heater.none_chosen"),
        ([{"id": "heater-1", "model": "nothing"}], "equipment.heater.unknown"),
        ([{"id": "heater-1", "model": ""}], "equipment.heater.unknown"),
    ],
)
def test_what_is_not_chosen_is_not_checked(depot: dict[str, Any], heaters: list[Any], code: str) -> None:
    depot["equipment"]["heaters"] = heaters
    assert code in codes(depot)


def test_without_a_site_the_output_is_not_checked(depot: dict[str, Any]) -> None:
    depot["site"]["altitude_m"] = None
    assert "equipment.heater.site_missing" in codes(depot)


def test_without_a_need_the_output_still_stands(depot: dict[str, Any]) -> None:
    depot["need"]["spaces"] = []
    made = planned(depot)
    assert "equipment.heater.need_missing" in codes(depot)
    assert made.stage("equipment").value("equipment.output_w") is not None


def test_above_the_altitude_limit_is_a_stop(depot: dict[str, Any]) -> None:
    depot["site"]["altitude_m"] = 3200
    assert "equipment.altitude.above_limit" in codes(depot)


def test_the_catalogue_makes_sense() -> None:
    entries = shipped()
    for m in (*entries.heaters.values(), *entries.generators.values()):
        assert sheet_faults(m) == []
    for r in entries.regulators.values():
        inlets = [p for p, _ in r.capacity]
        assert inlets == sorted(inlets)
        assert all(carried > 0 for _, carried in r.capacity)
        assert r.set_pa < r.inlet_most_pa
    for v in entries.vessels.values():
        assert v.full_kg > 0
        assert v.tare_kg > 0
    with pytest.raises(UnknownEntry, match="vessels has no entry 'bucket'"):
        find(entries.vessels, "vessels", "bucket")


def test_heaters_far_too_large_are_a_caution_and_the_need_from_which_they_are_right_is_where_it_falls() -> None:
    # A van heater of 2.0 kW that has no fire below 0.9 kW, in a van that loses a third of that. Its thermostat may turn it off and on,
    # but not where even its lowest fire gives more than twice the need.
    van = fill.make(starts.start("van_air_heater")).document
    van["need"]["spaces"][0] |= {"shell": "insulated_panel"}
    said = next(v for v in planned(van).stage("equipment").verdicts if v.code == "equipment.heater.far_too_large")
    values = dict(said.values)
    (found, _), (limit, _), (least, _), (right_from, _) = (values[k] for k in ("found", "limit", "least", "holds_to"))
    assert said.level == "caution" and least > limit and found > 2 * limit
    assert right_from == min(found / 2, least / 2)
    for times, there in ((0.99, True), (1.01, False)):
        # The shell alone is made worse until the need stands just below and just above.
        van["need"]["spaces"][0]["air_changes_per_h"] = 1.0
        low, high = 1.0, 30.0
        for _ in range(40):
            van["need"]["spaces"][0]["air_changes_per_h"] = (low + high) / 2
            short = (heat.assess(load(van))[1].design_w or 0.0) < times * right_from
            low, high = ((low + high) / 2, high) if short else (low, (low + high) / 2)
        assert ("equipment.heater.far_too_large" in codes(van)) is there
        assert ("equipment.heater.enough" in codes(van)) is not there
