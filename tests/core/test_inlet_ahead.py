"""The pressure at the worst inlet through the hours ahead: the same as at the worst hour, and never a better one in the cold."""

import copy
import json
from itertools import pairwise
from typing import Any

import pytest

from ofen.document.job import load
from ofen.plan import plan
from ofen.supply.assess import SupplyPlan
from ofen.supply.gas.inlet_ahead import InletAhead
from ofen.supply.night import NightCourse
from tests.conftest import ROOT

HOUR_S = 3600.0


@pytest.fixture
def hall() -> dict[str, Any]:
    found: dict[str, Any] = json.loads((ROOT / "demo" / "canvas-hall.json").read_text(encoding="utf-8"))
    return found


def planned(document: dict[str, Any]) -> SupplyPlan:
    return plan(load(document)).supplies[0]


def ahead(supply: SupplyPlan) -> tuple[InletAhead, NightCourse]:
    (inlet,), (course,) = supply.assessment.table(InletAhead), supply.assessment.table(NightCourse)
    return inlet, course


def test_at_the_worst_hour_it_is_what_the_inlet_is_judged_by(hall: dict[str, Any]) -> None:
    hall["supplies"][0]["night"] = {"lasts_s": 6 * HOUR_S, "evening_c": 5.0}
    supply = planned(hall)
    inlet, course = ahead(supply)
    assert len(inlet.pressure_pa) == len(course.pressure_pa) == 24
    coldest = min(range(24), key=lambda n: course.pressure_pa[n])
    parts = [p.id for p in supply.supply.given.parts if getattr(p, "machine", "") == inlet.machine]
    judged = supply.assessment.value(f"supply.{parts[0]}.inlet_pa")
    assert judged is not None
    assert inlet.pressure_pa[coldest] == pytest.approx(judged, rel=1e-6)
    # Its least is nearer than that of any other.
    others = [f.value for f in supply.assessment.figures if f.key.endswith(".inlet_pa")]
    assert inlet.pressure_pa[coldest] / inlet.least_pa == pytest.approx(min(others) / inlet.least_pa)
    assert inlet.least_pa < inlet.most_pa


def test_where_the_regulators_no_longer_hold_it_falls_with_the_cylinders(hall: dict[str, Any]) -> None:
    document = copy.deepcopy(hall)
    document["supplies"][0]["storage"]["count"] = 1
    document["site"]["outside_lowest_c"] = -22.0
    document["supplies"][0]["night"] = {"lasts_s": 24 * HOUR_S, "evening_c": 4.0}
    inlet, course = ahead(planned(document))
    by_source = sorted(zip(course.pressure_pa, inlet.pressure_pa, strict=True))
    arrives = [pa for _, pa in by_source]
    assert all(a <= b + 1e-6 for a, b in pairwise(arrives))
    assert arrives[0] < arrives[-1]
    assert all(pa <= max(0.0, source) + 1e-6 for source, pa in by_source)
    # What no longer carries them lets less through than it did.
    assert arrives[0] < 0.9 * arrives[-1]


def test_what_comes_from_no_cylinders_has_none(hall: dict[str, Any]) -> None:
    hall["supplies"][0]["night"] = {}
    assert planned(hall).assessment.table(InletAhead) == []
    hall["supplies"][0]["fuel"] = "natural_gas"
    hall["site"]["gas_service_pa"] = 1743.6
    hall["supplies"][0]["night"] = {"lasts_s": 6 * HOUR_S}
    assert planned(hall).assessment.table(InletAhead) == []
