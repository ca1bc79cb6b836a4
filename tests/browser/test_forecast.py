"""The weather ahead on the screen: got, planned by, pasted, wrong, without signal; and the board that a colder one sorts anew."""

import re
import threading
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta

import pytest
from playwright.sync_api import Page, expect

from weather.stand_in import StandIn, server

from .conftest import stage
from .made import ask, fresh, job_of, own_copy, send
from .served import Served


@pytest.fixture
def stand_in(served: Served) -> Iterator[StandIn]:
    weather = StandIn(seed=5)
    with server(weather, served.weather_port) as serving:
        threading.Thread(target=serving.serve_forever, daemon=True).start()
        yield weather
        serving.shutdown()


def night(page: Page) -> None:
    stage(page, "Supply")
    page.get_by_test_id("part-night").click()
    page.get_by_test_id("forecast").wait_for()


def test_a_forecast_is_got_and_planned_by_and_taken_out_again(at_work: Page, served: Served, stand_in: StandIn) -> None:
    own_copy(at_work, served, "canvas-hall")
    night(at_work)
    here = at_work.get_by_test_id("forecast")
    expect(here).to_contain_text("None in use")
    here.get_by_test_id("forecast-get").click()
    newer = here.get_by_test_id("forecast-newer")
    expect(newer).to_contain_text(re.compile(r"Forecast of .*old"))
    newer.get_by_test_id("forecast-use").click()
    expect(here).not_to_contain_text("None in use")
    # The hours ahead have a day now, and say by which forecast they go.
    expect(at_work.locator("[data-path='supplies[0].night.begins_on']")).not_to_have_value("")
    expect(at_work.get_by_text(re.compile(r"Forecast of .*: down to")).first).to_be_visible()
    at_work.reload()
    night(at_work)
    expect(at_work.get_by_text(re.compile(r"Forecast of .*: down to")).first).to_be_visible()
    # Without signal what is here stays, and that is said.
    at_work.context.set_offline(True)
    here.get_by_test_id("forecast-get").click()
    expect(here.get_by_role("alert")).to_contain_text("The forecast that is here stays")
    at_work.context.set_offline(False)
    stand_in.silent = True
    here.get_by_test_id("forecast-get").click()
    expect(here.get_by_role("alert")).to_contain_text("No forecast came")
    here.get_by_test_id("forecast-remove").click()
    expect(here).to_contain_text("None in use")
    # The log is held against it all the same.
    stage(at_work, "Running")
    expect(at_work.get_by_test_id("forecast")).to_contain_text(re.compile(r"Forecast of .*stand-in weather"))


def test_a_pasted_forecast_names_its_bad_rows_and_one_that_is_over_is_not_taken(at_work: Page, served: Served) -> None:
    own_copy(at_work, served, "canvas-hall")
    night(at_work)
    here = at_work.get_by_test_id("forecast")
    here.get_by_test_id("paste").click()
    begins = datetime.now(UTC).replace(minute=0, second=0, microsecond=0)

    def rows(first_h: int, last_h: int) -> str:
        made = [f"{(begins + timedelta(hours=n)).isoformat()}\t{-2 - n % 24 / 4}" for n in range(first_h, last_h)]
        return "\n".join(["Time\tOutside °C", *made])

    text = here.get_by_test_id("rows")
    text.fill(rows(-40, -20))
    expect(here.get_by_test_id("bad-rows")).to_contain_text("All of its hours are over")
    expect(here.get_by_test_id("forecast-paste")).to_have_count(0)
    text.fill(rows(-2, 60) + "\ntomorrow\t-3\n2026-12-24 06:00\t-90")
    expect(here.get_by_test_id("bad-rows")).to_contain_text("is not a known date and time")
    expect(here.get_by_test_id("bad-rows")).to_contain_text("is not possible here")
    here.get_by_test_id("forecast-paste").click()
    expect(here).to_contain_text(re.compile(r"Forecast of .*pasted by"))
    expect(at_work.get_by_text(re.compile(r"Forecast of .*: down to")).first).to_be_visible()


def weighed(page: Page, served: Served, job: str, kg_per_12h: float, outside_c: float) -> None:
    """Two days of weighings of every cylinder up to now, with the air outside beside them."""
    count = ask(page, served, "GET", f"/jobs/{job}/copy")["job"]["document"]["supplies"][0]["storage"]["count"]
    entries = []
    for n in range(5):
        at = (datetime.now(UTC) - timedelta(hours=48 - 12 * n)).isoformat()
        entries += [{"at": at, "kind": "weight", "value": 79 - kg_per_12h * n, "vessel": v + 1} for v in range(count)]
        entries.append({"at": at, "kind": "air", "where": "outside", "value": outside_c})
    bodies = [{"id": fresh(), "as_typed": "", **e} for e in entries]
    send(page, served, [{"kind": "entry", "id": b["id"], "job": job, "body": b} for b in bodies])


def test_what_the_log_says_of_the_plan_is_taken_over_by_a_button(at_work: Page, served: Served) -> None:
    address = own_copy(at_work, served)
    weighed(at_work, served, job_of(address), 1.2, 4.0)
    at_work.reload()
    stage(at_work, "Running")
    folded = at_work.get_by_test_id("results").get_by_role("button", name=re.compile(r"\d+ notes?")).first
    if folded.get_attribute("aria-expanded") == "false":
        folded.click()
    said = at_work.locator("[id='verdict-running.corrected.loss']").first
    expect(said).to_contain_text(re.compile(r"heat loss is [\d.]+ × plan, likely [\d.]+ to [\d.]+"))
    factor = re.search(r"is ([\d.]+) × plan", said.inner_text())
    assert factor
    said.get_by_test_id("fix").click()
    # The log and the plan now tell one time, and the note has become a Good.
    expect(at_work.locator("[id='verdict-running.corrected.fits']").first).to_be_visible()
    expect(at_work.locator("[id='verdict-running.corrected.loss']")).to_have_count(0)
    stage(at_work, "Supply")
    at_work.get_by_test_id("part-night").click()
    field = at_work.locator("[data-path='supplies[0].corrections.loss_factor']")
    expect(field).to_have_value(re.compile(r"^[\d.]+$"))
    assert float(field.input_value()) == pytest.approx(float(factor[1]), abs=0.01)
    field.fill("9")
    expect(at_work.get_by_text(re.compile("Enter a value from 0.25 to 4"))).to_be_visible()


def test_a_colder_forecast_sorts_the_board_anew(at_work: Page, served: Served, stand_in: StandIn) -> None:
    jobs = []
    for name in ("Hall by the weir", "Hall by the mill"):
        address = own_copy(at_work, served, "canvas-hall", name)
        jobs.append(job_of(address))
        weighed(at_work, served, jobs[-1], 1.5, 2.0)
        ask(at_work, served, "POST", f"/jobs/{jobs[-1]}/weather", {"zone": "Europe/Vienna"})
    at_work.goto(f"{served.address}/board")

    def order() -> list[str]:
        lines = at_work.get_by_role("listitem").filter(has_text=re.compile("Hall by the"))
        lines.nth(1).wait_for()
        return [found[0] for text in lines.all_inner_texts() if (found := re.findall("Hall by the (?:weir|mill)", text))]

    before = order()
    assert sorted(before) == ["Hall by the mill", "Hall by the weir"]
    # A cold front comes to the one that has longer.
    stand_in.colder_k = 12.0
    later = jobs[0] if "weir" in before[1] else jobs[1]
    ask(at_work, served, "POST", f"/jobs/{later}/weather", {"zone": "Europe/Vienna"})
    at_work.reload()
    assert order() == before[::-1]
