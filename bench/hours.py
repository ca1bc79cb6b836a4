"""What the hours ahead take: a week for three supplies, a season, the ways to bring the fuel, and a change-over that is dragged."""

import json
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

from playwright.sync_api import Browser

from bench.timing import percentile, so_many, timed_ms
from ofen.document import write
from ofen.document.job import load
from ofen.figures.memo import Memo
from ofen.plan import plan
from ofen.questions.asking import question
from ofen.running.entries import usable
from ofen.running.log import assess
from ofen.supply import season
from ofen.supply.hours_ahead import HoursAhead
from ofen.supply.night import as_given
from tests.browser.conftest import sign_in
from tests.browser.served import DEMO, Served
from weather.stand_in import StandIn

HALL = Path(__file__).resolve().parents[1] / "demo" / "canvas-hall.json"
HOUR_S, DAY_S = 3600.0, 86_400.0


def hall() -> dict[str, Any]:
    """Return the document of the demo hall."""
    document: dict[str, Any] = json.loads(HALL.read_text(encoding="utf-8"))
    return document


def weeks(note: Callable[..., None]) -> None:
    """Time a week of quarter hours for three supplies, the plan of a hall with it, a season, and the ways to bring the fuel."""
    document = hall()
    # Twelve cylinders carry the week.
    document["supplies"][0]["storage"]["count"] = 12
    document["supplies"][0].pop("night", None)
    without = timed_ms(lambda: write(plan(load(document))), so_many(40, 2))
    document["supplies"][0]["night"] = {"lasts_s": 7 * DAY_S}
    with_it = timed_ms(lambda: write(plan(load(document))), so_many(20, 2))
    made = plan(load(document))
    own = made.supplies[0]
    assert own.feeding is not None
    feeding = own.feeding
    ahead = HoursAhead(made.placed.job.site, own.supply.given, feeding.drawn)
    carrying = as_given(ahead, feeding.first, made.placed.catalogue)
    assert carrying is not None and carrying.run().failed_s is None
    took = timed_ms(lambda: [carrying.run() for _ in range(3)], so_many(20, 2))
    note("a week of quarter hours for 3 supplies, median", percentile(took, 0.5), "ms", 40)
    note("plan of a hall with a week ahead against the one without", percentile(with_it, 0.5) / percentile(without, 0.5), "×", 1.3)
    document["supplies"][0]["season"] = {"lasts_s": 180 * DAY_S, "mean_c": 2.0}
    made = plan(load(document))
    assert any(v.code == "supply.season.fillings" for v in made.supplies[0].assessment.verdicts)
    asked = season.SeasonAsked(
        at="supplies[0]",
        lowest_c=made.placed.job.site.outside_lowest_c,
        season=made.supplies[0].supply.given.season,
        fuel="propane",
        money_per_j=None,
        drawn=feeding.drawn,
        filling_s=made.supplies[0].assessment.value("supply.hours_high_s"),
    )
    note("a season of 180 days, median", percentile(timed_ms(lambda: season.assess(asked), so_many(20, 2)), 0.5), "ms", 500)
    del document["supplies"][0]["season"]
    for words, lasts_s in (("an evening", 6 * HOUR_S), ("a week", 7 * DAY_S)):
        document["supplies"][0]["night"] = {"lasts_s": lasts_s}
        asks = {"document": document, "supply": own.id}
        took = timed_ms(lambda a=asks: question("bring").answer(a, Memo()), so_many(5, 1))
        note(f"ways to bring the fuel of {words}, median", percentile(took, 0.5), "ms")


def forecasts(note: Callable[..., None]) -> None:
    """Time what the log of a supply comes to by a forecast of ten days, beside the same without."""
    document = hall()
    issued = datetime(2026, 1, 20, 6, tzinfo=UTC)
    weather = StandIn().forecast(47.2, 13.1, issued)
    count = document["supplies"][0]["storage"]["count"]
    entries = [
        {
            "id": f"w{n}-{v}",
            "at": (issued + timedelta(hours=6 * n - 120)).isoformat(),
            "kind": "weight",
            "vessel": v + 1,
            "value": 80 - n / 2,
        }
        for n in range(20)
        for v in range(count)
    ]
    made = plan(load(document))
    log = usable(entries)
    alone = timed_ms(lambda: assess(made.planned, log), so_many(40, 2))
    by_it = made.with_weather(weather).planned
    assert any(v.code == "running.forecast.used" for v in assess(by_it, log).verdicts)
    took = timed_ms(lambda: assess(by_it, log), so_many(20, 2))
    note("a log of 20 visits by a forecast, median", percentile(took, 0.5), "ms")
    note("the same log without one, median", percentile(alone, 0.5), "ms")


DRAGGED = """async (count) => {
  const slider = document.querySelector('[data-testid=change]');
  const told = () => [...document.querySelectorAll('table')].find((t) => t.caption?.textContent === 'When to be on site').textContent;
  const took = [];
  for (let n = 0; n < count; n += 1) {
    const before = told();
    const begun = performance.now();
    slider.dispatchEvent(new KeyboardEvent('keydown', { key: n % 20 < 10 ? 'ArrowLeft' : 'ArrowRight', bubbles: true }));
    while (told() === before) {
      if (performance.now() - begun > 5000) throw new Error('no answer to move ' + n);
      await new Promise((done) => requestAnimationFrame(done));
    }
    took.push(performance.now() - begun);
    await new Promise((done) => setTimeout(done, 60));
  }
  return took;
}"""


def dragging(note: Callable[..., None], browser: Browser, served: Served) -> None:
    """Time from moving a change-over by a quarter of an hour to the answer that is drawn."""
    page = browser.new_page(viewport={"width": 1280, "height": 800}, service_workers="block")
    sign_in(page, served.address, DEMO)
    page.get_by_role("link", name="Canvas rehearsal hall").first.click()
    page.get_by_test_id("stages").get_by_role("link", name="Supply").click()
    page.locator("[data-path='supplies[0].storage.count']").fill("1")
    page.get_by_test_id("part-night").click()
    page.locator("[data-path='supplies[0].night.lasts_s']").fill("24 h")
    page.locator("[data-path='supplies[0].night.reserve_count']").fill("2")
    page.locator("[data-path='supplies[0].night.reserve_way']").select_option("by_hand")
    page.locator("[data-engine=up]").wait_for(state="attached", timeout=60_000)
    page.get_by_test_id("change").first.wait_for()
    page.wait_for_timeout(so_many(1000, 100))
    took: list[float] = page.evaluate(DRAGGED, so_many(50, 3))
    note("a change-over moved to its drawn answer, median of 50", percentile(took, 0.5), "ms")
    note("a change-over moved to its drawn answer, p95 of 50", percentile(took, 0.95), "ms", 150)
    page.close()
