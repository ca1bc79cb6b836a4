"""The weather ahead on the screen: got, planned by, pasted, wrong, without signal; and the board that a colder one sorts anew."""

import re
import threading
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta

import pytest
from playwright.sync_api import Page, expect

from weather.stand_in import StandIn, server

from .conftest import stage
from .made import own_copy
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
