"""Each person reads their own English: the one that goes with their units, or the one they chose; on papers and in files too."""

import copy
from typing import Any

import pytest
from django.template.loader import render_to_string

from handover.report_page import Wanted, page
from handover.viewers import viewer_of
from jobs.models import Job
from ofen.figures.dialects import English, worded
from ofen.handover.sheets import Sheet, in_english
from teams.models import Person

from .conftest import Caller


@pytest.mark.parametrize(
    ("units", "english", "reads"),
    [
        ("metric", "", "british"),
        ("us", "", "american"),
        ("us", "british", "british"),
        ("metric", "american", "american"),
    ],
)
def test_the_english_goes_with_the_units_until_a_person_chooses_one(me: Caller, units: str, english: str, reads: English) -> None:
    person = me.call("PATCH", "/me", {"units": units, "english": english})[1]
    assert (person["units"], person["english"]) == (units, english)
    assert Person.objects.get(pk=person["id"]).reads == reads


def test_an_english_there_is_not_is_refused(me: Caller) -> None:
    status, body = me.call("PATCH", "/me", {"english": "cornish"})
    assert status == 422
    assert [f["path"].split(".")[-1] for f in body["faults"]] == ["english"]


@pytest.mark.parametrize(("english", "says", "never"), [("british", "petrol", "gasoline"), ("american", "gasoline", "petrol")])
def test_a_report_is_written_in_one_english(
    me: Caller, job: dict[str, Any], depot: dict[str, Any], english: English, says: str, never: str
) -> None:
    document = copy.deepcopy(depot)
    document["equipment"]["generators"] = [{"id": "set", "model": "linnet-8-lp", "fuel": "petrol", "feeds": "all"}]
    assert me.save(job, document, job["revision_id"])[0] == 200
    html = page(Job.objects.get(pk=job["id"]), Wanted("inspector", "A4", "metric", "UTC", "http://here/", english)).html
    assert says in html and never not in html
    assert "{term:" not in html


@pytest.mark.parametrize(("english", "says"), [("british", "24 Nov 2026, 07:30"), ("american", "Nov 24, 2026, 07:30")])
def test_a_moment_on_paper_is_written_in_the_order_of_the_readers_english(english: English, says: str) -> None:
    assert viewer_of("metric", "Europe/Vienna", english).clock(1795501800.0) == says


def test_a_table_and_a_card_name_no_term() -> None:
    sheet = Sheet("{term:Leads}", ("What",), [("{term:earth} rod", 2.0)])
    american = in_english(sheet, "american")
    assert (american.name, american.rows) == ("Cords", [("ground rod", 2.0)])
    assert (
        worded(render_to_string("handover/told.html", {"title": "{term:Petrol}", "detail": ""}), "american").count("Gasoline") >= 1
    )
