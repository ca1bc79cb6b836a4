"""Two weeks of a made-up log for each job of the demo: visits morning and evening, fuel that goes with the weather, changes, tests."""

import random
import uuid
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from math import cos, pi
from typing import Any

from jobs import examples
from ofen.document.job import load
from ofen.plan import Plan, plan
from ofen.plant.catalogue import shipped

DAYS = 14
EVERY_H = 12
# By job: outside in the mean, inside, and the fuel of each supply an hour: kg, of gas m³, of a tank the share of it.
LIKE: dict[str, tuple[float, float, dict[str, float]]] = {
    "tram-depot": (-1.0, 11.5, {"supply-1": 1.4}),
    "canvas-hall": (1.0, 15.0, {"supply-1": 2.1, "petrol": 0.011}),
    "seedling-house": (-3.0, 8.0, {"supply-1": 1.3}),
    "pontoon-cabin": (-2.0, 19.0, {"supply-1": 0.0055}),
    "valve-house": (-4.0, 4.0, {}),
}
FACE_C = {"slate-18-catalytic": 395.0, "slate-09-catalytic": 380.0}
REMARKS = {3: "Door of the bay stood open, closed.", 11: "Snow swept from the vents.", 20: "Quiet, dry, nothing odd."}


class Book:
    """The entries of one job, each with an id that is the same whenever the demo is made."""

    def __init__(self, job_id: uuid.UUID) -> None:
        self.job_id = job_id
        self.entries: list[dict[str, Any]] = []
        self.at = datetime(2000, 1, 1, tzinfo=UTC)

    def add(self, kind: str, subject: str = "", value: float | None = None, unit: str = "", **more: Any) -> None:
        """Add an entry at the hour of the visit."""
        n = len(self.entries)
        entry: dict[str, Any] = {
            "id": str(uuid.uuid5(self.job_id, f"log {n}")),
            "kind": kind,
            "at": self.at.isoformat(),
            "subject": subject,
        }
        entry |= {"visit": str(uuid.uuid5(self.job_id, self.at.isoformat())), "by": "Mirel Ofner", **more}
        if value is not None:
            entry |= {"value": value, "as_typed": f"{value:g} {unit}".strip()}
        self.entries.append(entry)


def demo_log(job_id: uuid.UUID, name: str, begun: datetime) -> list[dict[str, Any]]:
    """Return the entries of a job of the demo that came into use then; made up by a seed of its name."""
    whole_plan = plan(load(examples.document(name)))
    rng, book = random.Random(name), Book(job_id)
    outside, inside, uses = LIKE[name]
    left = {s: _full(whole_plan, s) for s in uses}
    for visit in range(DAYS * 24 // EVERY_H + 1):
        book.at = begun + timedelta(hours=visit * EVERY_H, minutes=rng.randrange(40) if visit else 0)
        # Colder at night, a cold spell in the second week.
        air = outside + 3.5 * cos(2 * pi * (book.at.hour - 14) / 24) - (4.0 if 14 < visit < 22 else 0.0) + rng.gauss(0, 0.6)
        for supply, per_h in uses.items():
            if visit:
                left[supply] -= per_h * EVERY_H * (inside - air) / (inside - outside) * rng.uniform(0.92, 1.08)
            _fuel(book, whole_plan, supply, left, rng)
        for reading in _machines(whole_plan, inside, visit, rng):
            book.add(*reading[:4], **reading[4])
        book.add("air", "", round(inside + rng.gauss(0, 0.5), 1), "°C", where="space")
        book.add("air", "", round(air, 1), "°C", where="outside")
        book.add("smell", look="none")
        if visit % 2 == 0:
            book.add("weather", look="snow" if 14 < visit < 22 else "cloudy" if visit % 3 else "clear")
        if visit in REMARKS:
            book.add("note", remark=REMARKS[visit])
        if visit in (14, 27):
            _tests(book, whole_plan, monthly=visit == 27)
    return book.entries


def _full(whole_plan: Plan, supply: str) -> float:
    planned = next(s for s in whole_plan.planned.supplies if s.id == supply)
    if planned.is_piped:
        return -4210.0
    return (planned.full_kg or 0.0) if planned.vessel else 0.95


def _fuel(book: Book, whole_plan: Plan, supply: str, left: dict[str, float], rng: random.Random) -> None:
    planned = next(s for s in whole_plan.planned.supplies if s.id == supply)
    if planned.is_piped:
        book.add("meter", supply, round(-left[supply], 1), "m³")
        return
    if not planned.vessel:
        book.add("gauge", supply, round(left[supply] * 20) / 20, "of 1", vessel=1)
        if left[supply] < 0.25:
            book.add(
                "delivered",
                supply,
                round((0.95 - left[supply]) * (planned.full_kg or 0.0), 1),
                "kg",
                remark="Filled, cold, engine and stove off.",
            )
            left[supply] = 0.95
            book.at += timedelta(minutes=10)
            book.add("gauge", supply, 0.95, "of 1", vessel=1)
        return
    count, vessel = planned.count or 1, planned.vessel
    _weigh(book, supply, left[supply] / count, count, vessel.tare_kg, rng)
    if left[supply] < ((planned.reserve_fraction or 0.0) + 0.12) * (planned.full_kg or 0.0):
        # Each change had its leak check by the procedure of the job.
        run = str(uuid.uuid5(book.job_id, f"change {book.at}"))
        gross = round(vessel.tare_kg + vessel.full_kg, 1)
        book.add("changed_over", supply, gross, "kg", out_kg=round(vessel.tare_kg + left[supply] / count, 1), bank="only", run=run)
        left[supply] = planned.full_kg or 0.0
        book.at += timedelta(minutes=25)
        _weigh(book, supply, left[supply] / count, count, vessel.tare_kg, rng)


def _weigh(book: Book, supply: str, each_kg: float, count: int, tare_kg: float, rng: random.Random) -> None:
    for n in range(1, count + 1):
        # Cylinders of a bank never empty quite alike; the scale reads to 0.1 kg.
        uneven = 0.2 * ((n * 7) % 5 - 2) if each_kg < 0.98 * shipped().vessels["cyl-100lb"].full_kg else 0.0
        book.add("weight", supply, round(tare_kg + each_kg + uneven + rng.gauss(0, 0.1), 1), "kg", vessel=n)


Reading = tuple[str, str, float | None, str, dict[str, Any]]


def _machines(whole_plan: Plan, inside: float, visit: int, rng: random.Random) -> Iterator[Reading]:
    for n, (machine, heater) in enumerate(whole_plan.placed.heaters):
        if heater.airflow_m3_per_s:
            back = inside + rng.gauss(0, 0.4)
            yield "air", machine.id, round(back, 1), "°C", {"where": "in"}
            yield "air", machine.id, round(back + 40.5 + 0.6 * n + rng.gauss(0, 0.7), 1), "°C", {"where": "out"}
        if machine.unit.model in FACE_C:
            yield "surface", machine.id, round(FACE_C[machine.unit.model] + rng.gauss(0, 4)), "°C", {"where": "face"}
        elif heater.heater_class == "pot_burner":
            yield "surface", machine.id, round(165 + rng.gauss(0, 6)), "°C", {"where": "flue"}
        if heater.heater_class != "catalytic":
            yield "flame", machine.id, None, "", {"look": "steady"}
    for machine, _ in whole_plan.placed.generators:
        ran_h = 40.0 + visit * EVERY_H * (0.3 if machine.fuel != "natural_gas" else 0.02)
        yield "hours", machine.id, round(ran_h, 1) * 3600, "s", {}
        yield "volts", machine.id, round(120.5 + rng.gauss(0, 0.8), 1), "V", {"where": "l1_n"}
        yield "amperes", machine.id, round(14 + rng.gauss(0, 0.6), 1), "A", {"where": "l1"}
        if visit % 4 == 0:
            yield "oil", machine.id, None, "", {"look": "full"}


def _tests(book: Book, whole_plan: Plan, monthly: bool) -> None:
    """The weekly tests, and at the end those of the month: but for one, which nobody has done yet."""
    for own in whole_plan.commissioned:
        for d in own.offered:
            weekly = d.every_s is not None and d.every_s <= 8 * 86_400
            if d.purpose == "safety_test" and weekly and not (monthly and d.key == "test_relief_clear"):
                book.add("safety_test", own.unit.machine.id, test=d.key, look="passed")
