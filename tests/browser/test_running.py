"""Running: a visit by thumb, a file brought in and taken back, a safety test done, the board, a chart, a calendar read back."""

import re
import urllib.error
import urllib.request
from datetime import UTC, datetime, timedelta

import pytest
from icalendar import Calendar
from playwright.sync_api import Page, expect

from .conftest import reading_of, stage
from .made import own_copy
from .served import Served
from .walking import PHONE, walker


def visited(page: Page, served: Served, name: str) -> str:
    """A copy of the depot with a name of its own and one visit in its log; returns its id."""
    address = own_copy(page, served)
    page.locator("[data-path='name']").fill(name)
    stage(page, "Running")
    for n in range(1, 7):
        reading_of(page, f"supply-1.weight.{n}").fill("79")
    page.locator("[data-field='heater-1.air.out']").fill("61 °C")
    page.locator("[data-field='heater-1.air.in']").fill("12 °C")
    for key, look in (("heater-1.flame", "steady"), ("supply-1.frost", "none"), ("smell", "none")):
        reading_of(page.get_by_test_id("new-readings"), key).select_option(look)
    page.get_by_test_id("record-readings").click()
    expect(page.get_by_test_id("log").get_by_role("listitem")).to_have_count(1)
    expect(page.locator("[data-save]")).to_have_attribute("data-save", "saved")
    expect(page.get_by_test_id("here-only")).to_have_count(0)
    return address.rsplit("/", 1)[1]


def test_a_visit_from_the_board_takes_at_most_six_taps_beside_its_values(at_work: Page, served: Served) -> None:
    page = at_work
    job = visited(page, served, "Thumb depot")
    page.set_viewport_size(PHONE)
    taps = 0
    page.goto(f"{served.address}/board")
    line = page.get_by_role("listitem").filter(has_text="Thumb depot")
    line.get_by_test_id("log-visit").click()
    taps += 1
    for n in range(1, 7):
        box = reading_of(page, f"supply-1.weight.{n}")
        if n == 3:
            # A reload in the middle loses nothing of what was typed.
            page.reload()
            page.locator("[data-reading='supply-1.weight.3']").click()
        box.fill("78.5")
        box.press("Enter")
    page.locator("[data-reading='heater-1.air.out']").click()
    taps += 1
    out = page.locator("[data-field='heater-1.air.out']")
    out.fill("16")
    out.press("Enter")
    # What is implausible is asked once.
    expect(page.get_by_role("alert").filter(has_text=re.compile(r"61 °C on .*, 16 °C now\?"))).to_be_visible()
    page.get_by_test_id("keep-value").click()
    taps += 1
    page.locator("[data-field='heater-1.air.in']").fill("12")
    page.locator("[data-field='heater-1.air.in']").press("Enter")
    page.get_by_test_id("looks-as-last").click()
    page.get_by_test_id("save-visit").first.click()
    taps += 2
    assert taps <= 6
    log = page.get_by_test_id("log")
    expect(log.get_by_role("listitem").first).to_contain_text("78.5 · 78.5 · 78.5 · 78.5 · 78.5 · 78.5 kg")
    expect(log.get_by_role("listitem")).to_have_count(2)
    expect(page.get_by_test_id("here-only")).to_have_count(0)
    kept = served.query(
        f"select count(*), count(distinct body->>'visit') from logbook_entry where job_id = '{job}' and kind <> 'kit'"
    )
    # Six weights, two airs and three looks, twice.
    assert kept == [(22, 2)]
    page.get_by_test_id("log-kind").select_option("air")
    expect(log.get_by_role("listitem")).to_have_count(2)
    page.get_by_test_id("log-kind").select_option("flame")
    expect(log.get_by_role("listitem").first).to_contain_text("steady")


def test_a_file_is_brought_in_with_its_bad_rows_named_and_taken_back(at_work: Page, served: Served) -> None:
    page = at_work
    own_copy(page, served, "seedling-house")
    stage(page, "Running")
    good = [f"{d:02d}.01.2026 06:{n % 60:02d};{4000 + d + n / 100:.2f};-{n % 9},5" for d in range(1, 15) for n in range(40)]
    content = "Datum Zeit;Gas meter (m³);Outside (°C)\n" + "\n".join([*good, "soon;1;2", "15.01.2026 06:00;-5;1"])
    page.get_by_test_id("log-file").set_input_files(
        {"name": "winter.csv", "mimeType": "text/csv", "buffer": content.encode("cp1252")}
    )
    panel = page.get_by_test_id("import")
    expect(panel).to_contain_text("562 rows, read as cp1252")
    panel.get_by_test_id("preview").click()
    expect(panel.get_by_test_id("bad-rows")).to_contain_text("Row 562: soon · 1 · 2")
    expect(panel.get_by_test_id("bad-rows")).to_contain_text("Row 563: Gas meter (m³): -5")
    panel.get_by_test_id("bring-in").click()
    expect(panel).to_contain_text("winter.csv: 1,121 entries, 2 bad")
    expect(page.get_by_test_id("results")).to_contain_text("rate of use")
    expect(page.get_by_test_id("chart").get_by_role("status")).to_contain_text("readings")
    panel.get_by_test_id("undo-import").click()
    expect(panel).to_contain_text("undone")
    expect(page.get_by_test_id("chart")).to_have_count(0)


def test_a_safety_test_that_is_due_is_done_by_its_short_procedure(at_work: Page, served: Served) -> None:
    page = at_work
    job = visited(page, served, "Tested depot")
    due = page.get_by_test_id("due")
    due.get_by_test_id("all-due").click()
    alarm = due.get_by_role("listitem").filter(has_text="CO alarm")
    expect(alarm).to_contain_text("in 7 days")
    lens = due.get_by_role("listitem").filter(has_text="Flame")
    lens.get_by_test_id("failed").click()
    lens.get_by_test_id("failed-how").fill("Held for 90 s")
    lens.get_by_test_id("record-failure").click()
    expect(due.get_by_role("listitem").first).to_contain_text("out of use until it passes")
    expect(due.get_by_role("listitem").first.get_by_test_id("do-test")).to_be_visible()
    alarm.get_by_test_id("do-test").click()
    page.get_by_test_id("go-to").wait_for()
    walk = walker(page)
    walk.walk()
    expect(page.get_by_test_id("all-done")).to_be_visible()
    page.goto(f"{served.address}/jobs/{job}/running")
    expect(page.get_by_test_id("log")).to_contain_text("Safety test, CO alarm passed")
    expect(page.get_by_test_id("here-only")).to_have_count(0)
    kept = "select body->>'test', body->>'look', body->>'remark' from logbook_entry"
    assert served.query(f"{kept} where job_id = '{job}' and kind = 'safety_test' order by device_at") == [
        ("test_flame_failure", "failed", "Held for 90 s"),
        ("test_co_alarm", "passed", None),
    ]


MORE = """
    insert into logbook_entry (id, job_id, kind, subject, value, vessel, place, body, device_at, server_at, author_id, checked)
    select gen_random_uuid(), '{job}', 'air', 'heater-1', 50 + 8 * sin(n / 9000.0), null, 'out', '{{}}'::jsonb,
        '2026-01-01'::timestamptz + n * interval '1 second', now(), (select id from teams_person limit 1), true
    from generate_series(1, {count}) n
"""


def test_a_chart_is_zoomed_by_wheel_and_keys_and_read_as_a_table(at_work: Page, served: Served) -> None:
    page = at_work
    job = own_copy(page, served).rsplit("/", 1)[1]
    served.query(MORE.format(job=job, count=60_000))
    stage(page, "Running")
    chart = page.get_by_test_id("chart")
    status = chart.get_by_role("status")
    expect(status).to_contain_text("60,000 readings")
    box = chart.get_by_role("group", name=re.compile("zoom"))
    box.scroll_into_view_if_needed()
    box.hover()
    page.mouse.wheel(0, -600)
    expect(status).not_to_contain_text("60,000")
    counted = status.inner_text()
    box.press("+")
    expect(status).not_to_have_text(counted)
    box.press("Home")
    expect(status).to_contain_text("60,000 readings")
    chart.get_by_test_id("as-table").click()
    rows = chart.get_by_role("row")
    expect(rows.nth(1)).to_contain_text("°C")
    # As many points as the screen can show, not as there are readings.
    assert 100 < rows.count() < 1000


def test_a_calendar_of_the_job_is_read_back_and_shows_nothing_once_taken_back(at_work: Page, served: Served) -> None:
    page = at_work
    visited(page, served, "Calendar depot")
    panel = page.get_by_test_id("calendar")
    panel.get_by_test_id("feed-job").click()
    address = panel.get_by_test_id("feed-address").input_value()
    with urllib.request.urlopen(address) as answer:
        events = list(Calendar.from_ical(answer.read()).walk("VEVENT"))
    looks = next(e for e in events if str(e["uid"]).startswith("forced_air"))
    assert abs(looks["dtstart"].dt - datetime.now(UTC) - timedelta(hours=12)) < timedelta(minutes=10)
    assert "Calendar depot" in str(looks["summary"])
    panel.get_by_test_id("take-back").first.click()
    expect(panel.get_by_role("listitem").filter(has_text="Calendar depot")).to_have_count(0)
    with pytest.raises(urllib.error.HTTPError) as refused:
        urllib.request.urlopen(address)
    assert refused.value.code == 404
