"""Handing a job over on the screen: what stands open, a name by hand, a report with its progress, a link, files that are checked."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import BrowserContext, Page, expect

from ofen.handover.whole_job import opened

from .conftest import saved
from .made import handed_over, own_copy
from .served import Served


def at_handover(page: Page, served: Served, example: str) -> str:
    """Open the Handover stage of a job that was handed over; return its address."""
    address = handed_over(page, served, example)
    page.goto(f"{address}/handover")
    page.get_by_role("heading", name="Sign-off").wait_for()
    return address


def test_a_job_that_is_not_commissioned_is_not_signed_off_and_says_where_to_go(at_work: Page, served: Served) -> None:
    page = at_work
    address = own_copy(page, served)
    page.goto(f"{address}/handover")
    section = page.get_by_test_id("sign-off")
    expect(section).to_contain_text("1 item blocks the sign-off")
    expect(section.get_by_test_id("sign")).to_have_count(0)
    section.locator("a[href*='/commissioning#']").click()
    page.wait_for_url("**/commissioning#heater-1")


def test_a_job_is_signed_by_hand_reported_shared_and_checked(
    at_work: Page, served: Served, outsider: BrowserContext, tmp_path: Path
) -> None:
    page = at_work
    at_handover(page, served, "pontoon-cabin")
    section = page.get_by_test_id("sign-off")
    expect(section).to_contain_text("Signed off by Mirel Ofner")
    page.locator("[data-path='handover.prepared_for']").fill("Ferry company, upper landing")
    page.locator("[data-path='handover.prepared_for']").blur()
    saved(page)
    expect(section).to_contain_text("The job has changed since: what the job says")
    sign = section.get_by_test_id("sign-job")
    expect(sign).to_be_disabled()
    for box in section.get_by_role("checkbox").all():
        box.click()
    section.get_by_test_id("signer").fill("Tova Ried")
    pad = section.get_by_role("img", name="Field for a handwritten name").bounding_box()
    assert pad
    page.mouse.move(pad["x"] + 20, pad["y"] + 60)
    page.mouse.down()
    for n in range(1, 8):
        page.mouse.move(pad["x"] + 20 + 30 * n, pad["y"] + 60 + (25 if n % 2 else -25))
    page.mouse.up()
    section.get_by_role("img", name="Handwritten name").wait_for()
    sign.click()
    expect(section).to_contain_text("Signed off by Tova Ried")
    expect(section).to_contain_text("signed in as Mirel Ofner")
    # A report: it waits, is made by the press, and is fetched.
    reports = page.get_by_test_id("reports")
    reports.get_by_test_id("paper").select_option("Letter")
    reports.get_by_test_id("make-report").click()
    expect(reports).to_contain_text("Waiting for the press")
    served.make_reports()
    with page.expect_download() as report:
        reports.get_by_test_id("report-customer-Letter").click()
    report.value.save_as(tmp_path / "report.pdf")
    with page.expect_download() as whole:
        page.get_by_test_id("file-whole.zip").click()
    whole.value.save_as(tmp_path / "job.zip")
    # A link that a stranger reads, until it is taken back.
    sharing = page.get_by_test_id("sharing")
    sharing.get_by_test_id("given-to").fill("Harbour office")
    sharing.get_by_test_id("make-link").click()
    link = sharing.get_by_test_id("share-link").input_value()
    other = outsider.new_page()
    problems: list[str] = []
    other.on("console", lambda m: problems.append(m.text) if m.type == "error" else None)
    other.goto(link)
    expect(other.get_by_role("heading", level=1)).to_have_text("Ferry pontoon cabin")
    expect(other.get_by_text("Signed off by Tova Ried")).to_be_visible()
    assert problems == []
    sharing.get_by_test_id("take-back").filter(has_text="Harbour office").click()
    expect(sharing.get_by_text("Harbour office")).to_have_count(0)
    answer = other.goto(link)
    assert answer is not None
    assert answer.status == 404
    # Who did it, readable.
    page.get_by_test_id("audit").get_by_test_id("show-audit").click()
    did = page.get_by_test_id("audit")
    for words in (
        "Signed the job off as Tova Ried",
        "Shared the report for the customer to Harbour office",
        "Took the whole job out",
        "Prepared for",
    ):
        expect(did.get_by_text(re.compile(words)).first).to_be_visible()


@pytest.mark.engine
def test_files_are_checked_by_anyone_on_their_own_device(
    at_work: Page, served: Served, outsider: BrowserContext, tmp_path: Path
) -> None:
    page = at_work
    own_copy(page, served, "valve-house", at="handover")
    page.get_by_test_id("reports").get_by_test_id("make-report").click()
    expect(page.get_by_test_id("reports")).to_contain_text("Waiting for the press")
    served.make_reports()
    for name, link in (("report.pdf", "report-customer-A4"), ("job.zip", "file-whole.zip")):
        with page.expect_download() as got:
            page.get_by_test_id(link).click()
        got.value.save_as(tmp_path / name)
    other = outsider.new_page()
    other.goto(f"{served.address}/verify")
    files = other.locator("input[type=file]")
    files.set_input_files([tmp_path / "report.pdf", tmp_path / "job.zip"])
    expect(other.get_by_test_id("verified")).to_have_attribute("data-level", "good")
    expect(other.get_by_text("belongs to job.zip")).to_be_visible()
    expect(other.get_by_text("was made by this server")).to_be_visible()
    changed = bytearray((tmp_path / "report.pdf").read_bytes())
    changed[len(changed) // 2] ^= 1
    (tmp_path / "changed.pdf").write_bytes(changed)
    files.set_input_files([tmp_path / "changed.pdf"])
    expect(other.get_by_text("was changed since it was made")).to_be_visible()
    expect(other.get_by_text("is not known to this server")).to_be_visible()


@pytest.mark.engine
def test_a_job_is_taken_away_whole_and_brought_in_without_signal(at_work: Page, served: Served, tmp_path: Path) -> None:
    page = at_work
    address = own_copy(page, served)
    page.goto(f"{address}/handover")
    page.get_by_role("heading", name="Sign-off").wait_for()
    # The engine answers before the signal goes.
    page.locator("[data-engine=up]").wait_for(state="attached")
    page.context.set_offline(True)
    with page.expect_download() as whole:
        page.get_by_test_id("save-whole").click()
    whole.value.save_as(tmp_path / "here.zip")
    found = opened((tmp_path / "here.zip").read_bytes())
    assert found.said("job.json")["name"] == "Tram depot, bay 2"
    assert set(found.texts) == {"job.json", "plan.json", "runs.json", "log.json", "log.csv"}
    # And in again, still without: first a file that is none, then the job with its log, on which work goes on.
    (tmp_path / "broken.zip").write_bytes((tmp_path / "here.zip").read_bytes()[:400])
    page.get_by_test_id("to-jobs").click()
    page.get_by_test_id("job-file").set_input_files(tmp_path / "broken.zip")
    expect(page.get_by_text("no zip that can be read")).to_be_visible()
    page.get_by_test_id("job-file").set_input_files(tmp_path / "here.zip")
    page.wait_for_url("**/need")
    assert page.url != f"{address}/need"
    expect(page.get_by_test_id("waiting")).to_contain_text("1 job file is on this device only")
    page.locator("[data-path='site.altitude_m']").fill("512")
    page.locator("[data-path='site.altitude_m']").blur()
    expect(page.get_by_test_id("waiting")).to_contain_text("1 job file and 1 change")
    page.context.set_offline(False)
    saved(page)
    expect(page.get_by_test_id("waiting")).to_have_count(0)
    there = page.evaluate("async (id) => (await fetch(`/api/jobs/${id}/copy`)).json()", page.url.split("/")[-2])
    assert there["job"]["document"]["site"]["altitude_m"] == 512
    assert there["job"]["revision"] == 2


def test_jobs_are_found_and_filed_ones_among_them(at_work: Page, served: Served) -> None:
    page = at_work
    handed_over(page, served, "pontoon-cabin")
    own_copy(page, served, "valve-house")
    own_copy(page, served, "valve-house", name="Lamp store")
    page.goto(served.address)
    find = page.get_by_test_id("find")
    find.fill("lamp STORE")
    found = page.get_by_role("status")
    line = page.get_by_role("listitem").filter(has_text="Lamp store")
    expect(found.filter(has_text="1 job")).to_be_visible()
    line.get_by_test_id("file").filter(has_text="Lamp store").click()
    expect(line).to_contain_text("Archived jobs")
    expect(found.filter(has_text="1 job")).to_be_visible()
    find.fill("nothing like this")
    expect(page.get_by_text("No job matches")).to_be_visible()
    page.get_by_test_id("all-jobs").click()
    expect(page.get_by_role("link", name=re.compile("Ferry pontoon")).first).to_be_visible()
    expect(line).to_have_count(0)
    page.get_by_test_id("find-state").select_option("signed")
    expect(page.get_by_role("link", name=re.compile("Valve house"))).to_have_count(0)
    expect(page.get_by_role("link", name=re.compile("Ferry pontoon")).first).to_be_visible()
