"""A server brought back from a backup: what was done after it comes from the device again."""

import os
from collections.abc import Iterator

import pytest
from playwright.sync_api import Page, expect

from tests.databases import query
from tests.patience import eventually

from .conftest import enter, saved
from .served import Served, Who
from .test_no_signal import nothing_waits
from .test_one_job import commission, log, plan_it


@pytest.fixture
def server() -> Iterator[Served]:
    """A server that this test may bring back to an earlier moment."""
    made = Served(f"restore_{os.environ.get('PYTEST_XDIST_WORKER', 'alone')}")
    made.start()
    yield made
    made.kill()


def test_what_was_done_after_the_backup_comes_from_the_device_again(page: Page, server: Served, who: Who) -> None:
    enter(page, server, who)
    server.kill()
    earlier = f"{server.database}_earlier"
    query(f'drop database if exists "{earlier}" with (force)')
    query(f'create database "{earlier}" template "{server.database}"')
    before = server.counts()
    server.start()

    page.goto(server.address)
    page.get_by_test_id("make-job").click()
    page.get_by_test_id("empty-job").click()
    page.locator("[data-path='name']").fill("Ferry landing")
    plan_it(page)
    saved(page)
    commission(page)
    log(page)
    nothing_waits(page)
    job = page.url.split("/jobs/")[1].split("/")[0]
    newest = f"select document from jobs_revision where job_id = '{job}' order by number desc limit 1"
    after, document = server.counts(), server.query(newest)
    assert after["signed"] > before["signed"]

    server.kill()
    server.database = server.environment["OFEN_DB_NAME"] = earlier
    server.manage("new_epoch")
    server.start()
    page.reload()
    expect(page.get_by_test_id("new-readings").locator("[data-field='heater-1.air.out']")).to_be_visible()
    eventually(lambda: server.counts()["entries"] == after["entries"], "what the device offered again", page)
    nothing_waits(page)
    found = server.counts()
    assert {k: found[k] for k in ("jobs", "runs", "events", "signed", "entries")} == {
        k: after[k] for k in ("jobs", "runs", "events", "signed", "entries")
    }
    assert server.query(newest) == document
    # The clock of this page was put forward; beyond that nothing is said to wait.
    expect(page.get_by_test_id("waiting")).not_to_contain_text("waiting")
