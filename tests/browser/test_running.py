"""Running: a visit by thumb, a file brought in and taken back, a safety test done, the board, a chart, a calendar read back."""

import re
import urllib.error
import urllib.request
from datetime import UTC, datetime, timedelta

import pytest
from icalendar import Calendar
from playwright.sync_api import Page, expect

from .conftest import stage
from .made import own_copy
from .served import Served
from .walking import PHONE, walker


def visited(page: Page, served: Served, name: str) -> str:
    """A copy of the depot with a name of its own and one visit in its log; returns its id."""
    address = own_copy(page, served)
    page.get_by_label("Job", exact=True).fill(name)
    stage(page, "Running")
    for n in range(1, 7):
        page.get_by_label(f"Vessel {n} on the scale").fill("79")
    page.get_by_label("Air out of the heater").fill("61 °C")
    page.get_by_label("Air into the heater").fill("12 °C")
    for label, look in (("Flame", "steady, as it should"), ("Frost", "none"), ("Smell", "none")):
        page.get_by_role("form", name="New readings").get_by_label(re.compile(f"^{label}")).select_option(label=look)
    page.get_by_role("button", name="Record readings").click()
    expect(page.get_by_role("region", name="Log", exact=True).get_by_role("listitem")).to_have_count(1)
    expect(page.locator("[data-save]")).to_have_attribute("data-save", "saved")
    expect(page.get_by_text("here only")).to_have_count(0)
    return address.rsplit("/", 1)[1]


def test_a_visit_from_the_board_takes_at_most_six_taps_beside_its_values(at_work: Page, served: Served) -> None:
    page = at_work
    job = visited(page, served, "Thumb depot")
    page.set_viewport_size(PHONE)
    taps = 0
    page.goto(f"{served.address}/board")
    line = page.get_by_role("listitem").filter(has_text="Thumb depot")
    line.get_by_role("link", name="Log a visit").click()
    taps += 1
    for n in range(1, 7):
        box = page.get_by_label(f"Vessel {n} on the scale, reading")
        if n == 3:
            # A reload in the middle loses nothing of what was typed.
            page.reload()
            page.get_by_role("button", name=re.compile("^Vessel 3")).click()
        box.fill("78.5")
        box.press("Enter")
    page.get_by_role("button", name=re.compile("^Air out of the heater")).click()
    taps += 1
    out = page.get_by_label("Air out of the heater, reading")
    out.fill("16")
    out.press("Enter")
    # What is implausible is asked once.
    expect(page.get_by_role("alert").filter(has_text=re.compile(r"61 °C on .*, 16 °C now\?"))).to_be_visible()
    page.get_by_role("button", name="It is so").click()
    taps += 1
    page.get_by_label("Air into the heater, reading").fill("12")
    page.get_by_label("Air into the heater, reading").press("Enter")
    page.get_by_role("button", name=re.compile("looks as last time")).click()
    page.get_by_role("button", name=re.compile("^Save")).first.click()
    taps += 2
    assert taps <= 6
    log = page.get_by_role("region", name="Log", exact=True)
    expect(log.get_by_role("listitem").first).to_contain_text("78.5 · 78.5 · 78.5 · 78.5 · 78.5 · 78.5 kg")
    expect(log.get_by_role("listitem")).to_have_count(2)
    expect(page.get_by_text("here only")).to_have_count(0)
    kept = served.query(
        f"select count(*), count(distinct body->>'visit') from logbook_entry where job_id = '{job}' and kind <> 'kit'"
    )
    # Six weights, two airs and three looks, twice.
    assert kept == [(22, 2)]
    page.get_by_label("Kind").select_option("air")
    expect(log.get_by_role("listitem")).to_have_count(2)
    page.get_by_label("Kind").select_option("flame")
    expect(log.get_by_role("listitem").first).to_contain_text("steady")


def test_a_file_is_brought_in_with_its_bad_rows_named_and_taken_back(at_work: Page, served: Served) -> None:
    page = at_work
    own_copy(page, served, "seedling-house")
    stage(page, "Running")
    good = [f"{d:02d}.01.2026 06:{n % 60:02d};{4000 + d + n / 100:.2f};-{n % 9},5" for d in range(1, 15) for n in range(40)]
    content = "Datum Zeit;Gas meter (m³);Outside (°C)\n" + "\n".join([*good, "soon;1;2", "15.01.2026 06:00;-5;1"])
    page.get_by_label("Choose a CSV or XLSX file").set_input_files(
        {"name": "winter.csv", "mimeType": "text/csv", "buffer": content.encode("cp1252")}
    )
    panel = page.get_by_role("region", name="Bring readings in")
    expect(panel).to_contain_text("562 rows, read as cp1252")
    panel.get_by_role("button", name="Look it through").click()
    expect(panel.get_by_role("list", name="Bad rows")).to_contain_text("Row 562: soon · 1 · 2")
    expect(panel.get_by_role("list", name="Bad rows")).to_contain_text("Row 563: Gas meter (m³): -5")
    panel.get_by_role("button", name="Bring in 1,121 entries").click()
    expect(panel).to_contain_text("winter.csv: 1,121 entries, 2 bad")
    expect(page.get_by_role("region", name="Comes to")).to_contain_text("rate of use")
    expect(page.get_by_role("region", name="Chart").get_by_role("status")).to_contain_text("readings")
    panel.get_by_role("button", name="Take it back").click()
    expect(panel).to_contain_text("taken back")
    expect(page.get_by_role("region", name="Chart")).to_have_count(0)


def test_a_safety_test_that_is_due_is_done_by_its_short_procedure(at_work: Page, served: Served) -> None:
    page = at_work
    job = visited(page, served, "Tested depot")
    due = page.get_by_role("region", name="What is due")
    due.get_by_role("button", name=re.compile("^All ")).click()
    alarm = due.get_by_role("listitem").filter(has_text="CO alarm")
    expect(alarm).to_contain_text("in 7 days")
    lens = due.get_by_role("listitem").filter(has_text="Flame")
    lens.get_by_role("button", name="It failed").click()
    lens.get_by_label("What it did").fill("Held for 90 s")
    lens.get_by_role("button", name="record it").click()
    expect(due.get_by_role("listitem").first).to_contain_text("out of use until it passes")
    expect(due.get_by_role("listitem").first.get_by_role("button", name="Again")).to_be_visible()
    alarm.get_by_role("button", name="Do it").click()
    page.get_by_label("Go to").wait_for()
    walk = walker(page)
    walk.walk()
    expect(page.get_by_role("heading", name="Every step is done")).to_be_visible()
    page.goto(f"{served.address}/jobs/{job}/running")
    expect(page.get_by_role("region", name="Log", exact=True)).to_contain_text("Safety test, co alarm passed")
    expect(page.get_by_text("here only")).to_have_count(0)
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
    chart = page.get_by_role("region", name="Chart")
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
    chart.get_by_role("button", name="As a table").click()
    rows = chart.get_by_role("row")
    expect(rows.nth(1)).to_contain_text("°C")
    # As many points as the screen can show, not as there are readings.
    assert 100 < rows.count() < 1000


def test_a_calendar_of_the_job_is_read_back_and_shows_nothing_once_taken_back(at_work: Page, served: Served) -> None:
    page = at_work
    visited(page, served, "Calendar depot")
    panel = page.get_by_role("region", name="Calendar")
    panel.get_by_role("button", name="This job").click()
    address = panel.get_by_label(re.compile("^Its address")).input_value()
    with urllib.request.urlopen(address) as answer:
        events = list(Calendar.from_ical(answer.read()).walk("VEVENT"))
    looks = next(e for e in events if str(e["uid"]).startswith("forced_air"))
    assert abs(looks["dtstart"].dt - datetime.now(UTC) - timedelta(hours=12)) < timedelta(minutes=10)
    assert "Calendar depot" in str(looks["summary"])
    panel.get_by_role("button", name=re.compile("^Take back")).first.click()
    expect(panel.get_by_role("listitem").filter(has_text="Calendar depot")).to_have_count(0)
    with pytest.raises(urllib.error.HTTPError) as refused:
        urllib.request.urlopen(address)
    assert refused.value.code == 404
