"""Walking a procedure on screen as a technician does: tap by tap, with the values it asks for."""

import io
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from typing import Any

from PIL import Image
from playwright.sync_api import Locator, Page, expect

from ofen.commissioning.procedure import Procedure, unsealed
from ofen.commissioning.steps.base import Step

from .made import ask, lasts_s, send, walked
from .served import Served

# A reading as it is typed: the unit of each quantity in which its SI value is the number.
SI_UNITS = {
    "gas_pressure": "Pa",
    "source_pressure": "Pa",
    "voltage": "V",
    "temperature": "°C",
    "hold": "s",
    "electric_power": "W",
    "share_ppm": "of 1",
    "fraction": "of 1",
    "liquid_volume": "m³",
    "mass": "kg",
}
# What stands on the screen, without the running clock and what is typed; what was recorded shows in the list of steps.
SEEN = ["main h1", *(f"main {x}" for x in ("[role=alert]", "[aria-live]", "dl")), "nav[aria-label=Steps] select"]
SCREEN = f"() => [...document.querySelectorAll({','.join(SEEN)!r})].map((e) => e.innerText).join()"
Instead = Callable[["Walker", Any], bool]


def picture() -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (320, 240), (200, 80, 30)).save(out, "JPEG")
    return out.getvalue()


class Walker:
    """Walks a run that is open in hands mode, its clock installed; counts its taps, a value typed not among them."""

    def __init__(self, page: Page, procedure: Procedure, values: dict[str, float] | None = None) -> None:
        self.page, self.procedure, self.values = page, procedure, values or {}
        self.taps: dict[str, int] = {}
        self.here = ""

    @property
    def act(self) -> Locator:
        return self.page.get_by_test_id("next-action")

    def heading(self) -> str:
        return self.page.get_by_role("heading", level=1).first.inner_text()

    def shown(self) -> Any:
        """The step that is on the screen, None where all are done."""
        at = self.page.get_by_test_id("go-to").input_value()
        return self.procedure.step(at) if at else None

    def tap(self, target: Locator, moves: bool = True) -> None:
        """Press something that is recorded, and wait until the record shows."""
        before = self.page.evaluate(SCREEN)
        target.click()
        self.taps[self.here] = self.taps.get(self.here, 0) + 1
        if moves:
            self.page.wait_for_function(f"before => ({SCREEN})() !== before", arg=before, polling=50)

    def press(self, button: str, moves: bool = True) -> None:
        self.tap(self.act.get_by_test_id(button), moves)

    def main(self) -> None:
        """The one thing to do."""
        button = self.act.get_by_role("button").last
        expect(button).to_be_enabled()
        self.tap(button)

    def later(self, seconds: float) -> None:
        self.page.clock.fast_forward(int(seconds * 1000) + 1500)

    def type(self, value: float, quantity: str, box: int = 0) -> None:
        # Written out: nobody types an exponent.
        written = f"{value:.9f}".rstrip("0").rstrip(".")
        self.page.get_by_test_id("reading").nth(box).fill(f"{written} {SI_UNITS[quantity]}")

    def walk(self, until: str = "", instead: Instead | None = None, most: int = 400) -> None:
        """Walk to the end, or up to a step; `instead` may do a step otherwise and say so."""
        for _ in range(most):
            step = self.shown()
            if step is None or step.id == until:
                return
            self.here = step.id
            if not (instead and instead(self, step)):
                self.do(step)
        raise AssertionError(f"{self.heading()} is not left")

    def ahead(self, served: Served, until: str) -> None:
        """Have all done that comes before a step, by another device over the API, and look at it here."""
        expect(self.page.locator("[data-waiting='0']")).to_be_visible()
        run = self.page.url.rsplit("/", 1)[1].split("?")[0]
        now = datetime.fromtimestamp(self.page.evaluate("Date.now()") / 1000, UTC)
        send(self.page, served, walked(self.procedure, run, until, now - timedelta(seconds=lasts_s(self.procedure))))
        # Now and then a device looks what others have done at the same run.
        self.page.clock.fast_forward(16_000)
        expect(self.page.get_by_test_id("go-to")).to_have_value(until)

    def do(self, step: Step) -> None:
        getattr(self, f"_{step.KIND}")(step)

    def _confirm(self, step: Any) -> None:
        self.main()

    def _bypass(self, step: Any) -> None:
        self.main()

    def _read(self, step: Any) -> None:
        value = self.values.get(step.id, step.limit.middle if step.limit else 1.0)
        self.type(value, step.quantity)
        self.main()

    def _hold(self, step: Any) -> None:
        self.main()
        self.later(step.floor_s)
        self.main()

    def _wait(self, step: Any) -> None:
        if step.floor_s:
            if not step.dormant:
                self.main()
            self.later(step.floor_s)
        for n, _ in enumerate(step.until):
            self.tap(self.page.get_by_test_id("until").nth(n), moves=False)
        if step.temperature_c is not None:
            self.type(step.temperature_c, "temperature")
        self.main()

    def _choose(self, step: Any) -> None:
        right = next(o for o in step.options if step.is_right(o.value))
        radio = self.page.locator(f"main input[type=radio][value='{right.value}']")
        self.tap(radio, moves=False)
        expect(radio).to_be_checked()
        self.main()

    def _tries(self, step: Any) -> None:
        self.press("begin-try", moves=False)
        self.later(1)
        self.press("end-try", moves=False)
        self.press("caught")

    def _tune(self, step: Any) -> None:
        self.press("smooth")
        self.press("falters")
        self.press("smooth")
        self.press("smooth")
        self.press("lock")

    def _photo(self, step: Any) -> None:
        self.page.get_by_test_id("picture").set_input_files({"name": "seen.jpg", "mimeType": "image/jpeg", "buffer": picture()})
        self.taps[self.here] = 1
        # A word about the picture before goes at once; only the next step says that this one is kept.
        expect(self.page.get_by_test_id("go-to")).not_to_have_value(step.id)

    def _electrical(self, step: Any) -> None:
        for meter in step.meters:
            value = self.values.get(f"{step.id}.{meter.id}", meter.limit.middle)
            self.page.locator(f"[data-meter='{meter.id}']").fill(f"{value:g}")
        self.main()

    def _pressure_test(self, step: Any) -> None:
        self.type(step.test_pa + 500.0, "gas_pressure")
        self.type(10.0, "temperature", box=1)
        self.main()
        self.later(step.lasts_s)
        self.type(step.test_pa + 500.0, "gas_pressure")
        self.type(10.0, "temperature", box=1)
        self.main()

    def _test(self, step: Any) -> None:
        while self.act.get_by_test_id("tight").count():
            self.press("tight")
        self.main()


def with_clock(page: Page) -> None:
    """Give a page a clock that can be put forward.

    It is put in on an empty page: while that is done the clock stands at 1970 for a moment, and a living page would send that.
    """
    address = page.url
    page.goto("about:blank")
    page.clock.install(time=datetime.now(UTC))
    page.goto(address)


def begin(page: Page, key: str = "", values: dict[str, float] | None = None, clock: bool = True) -> Walker:
    """Begin a run of the first machine on the Commissioning stage, which is open, and return its walker."""
    if clock:
        with_clock(page)
    machines = page.get_by_test_id("machines")
    if key:
        machines.get_by_test_id("other-procedure").first.select_option(value=key)
        machines.get_by_test_id("begin-other").first.click()
    else:
        machines.get_by_test_id("begin").first.click()
    page.get_by_test_id("go-to").wait_for()
    return walker(page, values)


KEPT = """async (run) => {
    const all = await indexedDB.databases();
    const opened = indexedDB.open(all.find((d) => d.name.startsWith('ofen-')).name);
    const db = await new Promise((done) => { opened.onsuccess = () => done(opened.result); });
    const asked = db.transaction('runs').objectStore('runs').get(run);
    const found = await new Promise((done) => { asked.onsuccess = () => done(asked.result); });
    db.close();
    return found.procedure;
}"""


def walker(page: Page, values: dict[str, float] | None = None) -> Walker:
    """The walker of the run that is open, by the procedure it is sealed with on this device."""
    run = page.url.rsplit("/", 1)[1].split("?")[0]
    return Walker(page, unsealed(page.evaluate(KEPT, run)), values)


PHONE: Any = {"width": 390, "height": 844}


def started(page: Page, served: Served, key: str) -> str:
    """A job by the usual answers of a start, open at Commissioning on a phone, whoever answers there known."""
    document = ask(page, served, "POST", "/ask/start", {"key": key, "answers": {}, "units": "metric"})["document"]
    address = f"{served.address}/jobs/{ask(page, served, 'POST', '/jobs', {'document': document})['id']}"
    # On a phone nothing shows whoever answers there.
    page.set_viewport_size({"width": 1280, "height": 800})
    page.goto(f"{address}/commissioning")
    page.locator("[data-engine=up], [data-engine=down]").wait_for(state="attached")
    page.set_viewport_size(PHONE)
    return address
