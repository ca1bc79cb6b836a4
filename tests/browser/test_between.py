"""Between people and devices: links of whoever has the application installed, two people on one job, two tabs, a guest, a wrong clock."""

import re
from datetime import UTC, datetime, timedelta

import pytest
from playwright.sync_api import BrowserContext, Page, expect

from tests.patience import eventually

from .conftest import enter, saved, stage
from .made import ask, job_of, own_copy
from .served import Served, Who
from .test_manners import document_of
from .test_no_signal import Tablet, controlled, installed, tablet  # noqa: F401  a fixture

ADA = "Ada Brenn"


def in_days(days: int) -> str:
    return (datetime.now(UTC) + timedelta(days=days)).isoformat()


@pytest.mark.engine
def test_a_shared_page_and_a_calendar_open_where_the_application_is_installed(
    tablet: Tablet,  # noqa: F811  the fixture
    served: Served,
) -> None:
    page = tablet.start()
    who = served.person()
    enter(page, served, who)
    address = own_copy(page, served)
    job = job_of(address)
    share = ask(page, served, "POST", f"/jobs/{job}/shares", {"what": "read", "audience": "customer", "ends_at": in_days(2)})
    feed = ask(page, served, "POST", "/feeds", {"scope": "job", "job": job})
    controlled(page)
    # Answered by the server, not by the application that lies on the device.
    page.goto(share["address"])
    expect(page.get_by_role("heading", name="Tram depot")).to_be_visible()
    with page.expect_download() as got:
        page.evaluate("(address) => { location.href = address }", feed["address"])
    assert got.value.path().read_text(encoding="utf-8").startswith("BEGIN:VCALENDAR")
    page.goto(served.address)
    ask(page, served, "DELETE", f"/shares/{share['id']}")
    page.goto(share["address"])
    expect(page.get_by_role("heading", name="Nothing is shared here any more")).to_be_visible()
    expect(page.get_by_text("Ask whoever gave it to you for a new one.")).to_be_visible()


def test_what_two_change_apart_is_put_together_and_can_be_taken_back(
    at_work: Page, outsider: BrowserContext, served: Served, who: Who
) -> None:
    address = own_copy(at_work, served)
    other = outsider.new_page()
    enter(other, served, served.person(ADA, "technician", who.team))
    other.goto(f"{address}/need")
    other.locator("[data-path='site.outside_lowest_c']").fill("-9")
    saved(other)
    at_work.locator("[data-path='site.place']").fill("Upper depot")
    news = at_work.get_by_test_id("news")
    expect(news).to_contain_text(f"{ADA} saved this job meanwhile. Their changes and yours are merged.")
    expect(news).to_contain_text("→ −9 °C")
    expect(at_work.get_by_test_id("conflict")).to_have_count(0)
    saved(at_work)
    kept = document_of(at_work, address)
    assert (kept["site"]["place"], kept["site"]["outside_lowest_c"]) == ("Upper depot", -9)
    news.get_by_test_id("news-back").click()
    expect(news).to_have_count(0)
    saved(at_work)
    eventually(lambda: document_of(at_work, address)["site"]["outside_lowest_c"] != -9, "it is taken back", at_work)
    # Whoever set it is told that it was taken back, with a way to put it there again.
    other.goto(f"{address}/need")
    told = other.get_by_test_id("news")
    expect(told).to_contain_text("has changed values that you had entered")
    expect(told).to_contain_text("−9 °C →")
    told.get_by_test_id("news-back").click()
    saved(other)
    eventually(lambda: document_of(other, address)["site"]["outside_lowest_c"] == -9, "it is put back", other)


def test_an_unreadable_text_in_one_tab_covers_no_saved_value_in_another(at_work: Page, served: Served) -> None:
    address = own_copy(at_work, served)
    second = at_work.context.new_page()
    second.goto(f"{address}/need")
    expect(second.locator("[data-path='site.altitude_m']")).to_have_value("640 m")
    at_work.locator("[data-path='site.altitude_m']").fill("high up")
    expect(at_work.locator("[data-path='site.altitude_m']")).to_have_attribute("aria-invalid", "true")
    second.locator("[data-path='site.place']").fill("Seen there")
    saved(second)
    expect(second.locator("[data-path='site.altitude_m']")).to_have_value("640 m")
    second.locator("[data-path='site.altitude_m']").fill("700")
    saved(second)
    # What one is typing stays under one's hands; left alone, the field shows what is saved.
    at_work.locator("[data-path='site.place']").focus()
    expect(at_work.locator("[data-path='site.altitude_m']")).to_have_value("700 m")


def test_signing_out_says_what_waits_and_other_tabs_close_at_once(at_work: Page, served: Served, who: Who) -> None:
    address = own_copy(at_work, served)
    second = at_work.context.new_page()
    second.goto(f"{address}/need")
    expect(second.locator("[data-path='site.place']")).to_be_visible()
    at_work.context.set_offline(True)
    at_work.locator("[data-path='site.place']").fill("Only here")
    expect(at_work.locator("[data-save=waiting]")).to_be_visible()
    at_work.get_by_role("link", name="Jobs", exact=True).click()
    at_work.get_by_test_id("sign-out").click()
    asked = at_work.get_by_test_id("sign-out-waits")
    expect(asked).to_contain_text(f"Not sent yet: 1 change. It stays on this device, and it is sent when {who.full_name} signs in")
    asked.get_by_test_id("sign-out-all-the-same").click()
    expect(at_work.get_by_test_id("left-behind")).to_contain_text(
        f"Waiting on this device for {who.full_name} to sign in: 1 change."
    )
    expect(second.get_by_text(f"{who.full_name} has signed out on another tab.")).to_be_visible()
    expect(second.locator("[data-path='site.place']")).to_have_count(0)
    at_work.context.set_offline(False)


def test_a_guest_finds_buttons_off_with_the_reason(at_work: Page, outsider: BrowserContext, served: Served, who: Who) -> None:
    address = own_copy(at_work, served)
    guest = outsider.new_page()
    enter(guest, served, served.person(ADA, "guest", who.team))
    guest.goto(f"{address}/need")
    for where, button in (("Need", "let-lead"), ("Equipment", "take")):
        stage(guest, where)
        first = guest.get_by_test_id(button).first
        expect(first).to_be_disabled()
        expect(first).to_have_attribute("title", re.compile("^You are a guest in this team"))
    stage(guest, "Supply")
    add = guest.get_by_role("button", name="Add supply")
    expect(add).to_be_disabled()
    expect(guest.get_by_text("You are a guest in this team, so you cannot change the job.")).to_be_visible()


def test_a_job_that_is_filed_says_so_before_it_is_changed(at_work: Page, served: Served) -> None:
    address = own_copy(at_work, served)
    assert at_work.get_by_test_id("closed-job").count() == 0
    ask(at_work, served, "PUT", f"/jobs/{job_of(address)}/filed", {"filed": True})
    at_work.reload()
    expect(at_work.get_by_test_id("closed-job")).to_contain_text("This job is archived.")


def test_what_a_device_holds_of_a_job_given_away_is_taken_out_or_let_go(
    at_work: Page, outsider: BrowserContext, served: Served
) -> None:
    address = own_copy(at_work, served)
    job = job_of(address)
    at_work.context.set_offline(True)
    at_work.locator("[data-path='site.place']").fill("Made without signal")
    expect(at_work.locator("[data-save=waiting]")).to_be_visible()
    team = served.person("Jaro Lind", team="Lower valley crew").team
    served.query(f"update jobs_job set team_id = (select id from teams_team where name = '{team}') where id = '{job}'")
    at_work.context.set_offline(False)
    at_work.reload()
    gone = at_work.get_by_test_id("gone-job")
    expect(gone).to_contain_text("1 change from this device cannot be sent.")
    with at_work.expect_download():
        gone.get_by_test_id("save-gone").click()
    gone.get_by_test_id("ask-let-go").click()
    gone.get_by_test_id("let-go").click()
    expect(at_work.get_by_test_id("jobs")).to_be_visible()
    expect(at_work.get_by_test_id("waiting")).to_have_count(0)


def test_a_clock_that_is_a_day_ahead_files_a_reading_under_today_and_keeps_both(at_work: Page, served: Served) -> None:
    address = own_copy(at_work, served)
    at_work.clock.install(time=datetime.now(UTC) + timedelta(days=1))
    at_work.goto(f"{address}/running")
    expect(at_work.get_by_test_id("waiting")).to_contain_text("ahead")
    form = at_work.get_by_test_id("new-readings")
    form.locator("[data-field='air.outside']").fill("-2")
    at_work.get_by_test_id("record-readings").click()
    kept = f"select body->>'at', body->>'clock_at' from logbook_entry where job_id = '{job_of(address)}'"
    eventually(lambda: served.query(kept), "the reading arrives", at_work)
    ((at, clock_at),) = served.query(kept)
    assert abs((datetime.fromisoformat(at) - datetime.now(UTC)).total_seconds()) < 600
    assert timedelta(hours=23) < datetime.fromisoformat(clock_at) - datetime.fromisoformat(at) < timedelta(hours=25)


def test_somebody_asked_into_a_team_joins_it_by_their_own_yes(at_work: Page, outsider: BrowserContext, served: Served) -> None:
    other, ada = outsider.new_page(), served.person(ADA)
    at_work.goto(f"{served.address}/people")
    at_work.get_by_label("Sign-in name").fill(ada.name)
    at_work.get_by_role("button", name="Invite as technician").click()
    expect(at_work.get_by_text("invited, has not answered yet")).to_be_visible()
    enter(other, served, ada)
    notice = other.get_by_test_id("team-notices")
    expect(notice).to_contain_text("asks you to join")
    notice.get_by_test_id("join-team").click()
    expect(notice).to_have_count(0)
    at_work.reload()
    expect(at_work.get_by_text("invited, has not answered yet")).to_have_count(0)
    expect(at_work.get_by_text(ADA)).to_be_visible()
