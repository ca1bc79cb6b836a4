"""The vessels a team owns: what is written on each, where it went, what it weighed, whether it may be filled and used."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any, NamedTuple

from .. import document
from ..document import choice, day, moment, number, text
from ..figures.errors import Fault, JobFaults
from ..figures.numerics import rounded
from .fuel_left import FULL_AT
from .kinds import seconds
from .rate import COARSE_KG

FORMAT = "ofen-vessel/1"
# What a vessel may hold of propane, by the weight of the water it would hold: 80 % full on a scale (NFPA 58, from memory).
FILLING_DENSITY = 0.42
WATER_KG_PER_M3 = 1000.0
WHERE = (("yard", "in the yard"), ("truck", "on the truck"), ("job", "at a job"), ("filler", "at the filling station"))


@dataclass(frozen=True)
class Owned:
    """A vessel as it is stamped: serial, tare, the water it holds, until when it may be filled."""

    id: str = text("Id", 40)
    serial: str = text("Serial", 60, needed=True)
    name: str = text("Kind", 80)
    tare_kg: float | None = number("mass", 0.1, 5000, "Tare", "Stamped TW", needed=True)
    water_m3: float | None = number("liquid_volume", 0.0005, 20, "Water capacity", "Stamped WC", needed=True)
    requalify_on: str | None = day("Requalify by")

    @property
    def most_kg(self) -> float:
        """The most fuel it may hold."""
        return FILLING_DENSITY * WATER_KG_PER_M3 * (self.water_m3 or 0.0)


@dataclass(frozen=True, kw_only=True)
class Move:
    """Where a vessel went, and what it weighed there, gross."""

    id: str = text("Id", 40, needed=True)
    at: str = moment("At", needed=True)
    where: str | None = choice("Where", *WHERE, needed=True)
    job: str = text("Job", 40)
    gross_kg: float | None = number("mass", 0, 6000, "Gross weight")
    remark: str = text("Remark", 200)
    by: str = text("By", 200)


class Against(NamedTuple):
    """What is said against using or filling a vessel."""

    level: str
    say: str


@dataclass(frozen=True)
class Stands:
    """How a vessel stands: where, what it held at its last weighing, and what is said against using or filling it."""

    where: str | None
    job: str
    since_s: float | None
    net_kg: float | None
    fill_fraction: float | None
    says: tuple[Against, ...]


def load(data: object) -> Owned:
    """Return a vessel out of its sheet.

    Errors: JobFaults with every fault.
    """
    faults: list[Fault] = []
    plain = {k: v for k, v in data.items() if k != "format"} if isinstance(data, dict) else data
    if isinstance(data, dict) and data.get("format", FORMAT) != FORMAT:
        faults.append(Fault("format", f"must be {FORMAT}"))
    owned: Owned = document.read(Owned, plain, "", faults)
    if faults:
        raise JobFaults(faults)
    return owned


def dump(vessel: Owned) -> dict[str, object]:
    """Return the sheet of a vessel as plain data."""
    return {"format": FORMAT, **{n: getattr(vessel, n) for n in document.specs(Owned)}}


def move_faults(move: object) -> list[Fault]:
    """Return what is wrong with a move, by path.

    Arguments: move, plain data.
    """
    faults: list[Fault] = []
    made = document.read(Move, move, "", faults)
    if not faults and made.where == "job" and not made.job:
        faults.append(Fault("job", "is missing. Say which job has this cylinder"))
    return faults


def filled(vessel: Owned, gross_kg: float) -> float:
    """Return how full a vessel is by its weight, 0.8 as full as it may be.

    Arguments: vessel; gross_kg.
    Source: net ÷ (0.42 × water capacity), of which 80 % by volume are the most (NFPA 58, from memory).
    """
    return rounded(max(0.0, gross_kg - (vessel.tare_kg or 0.0)) / vessel.most_kg * FULL_AT)


def stands(vessel: Owned, moves: Iterable[dict[str, Any]], today: str) -> Stands:
    """Return how a vessel stands today.

    Arguments: vessel; moves without faults, in any order; today, a date.
    """
    ordered = sorted(moves, key=lambda m: (seconds(m["at"]), m["id"]))
    last = ordered[-1] if ordered else None
    gross = next((m["gross_kg"] for m in reversed(ordered) if m.get("gross_kg") is not None), None)
    return Stands(
        last["where"] if last else None,
        (last.get("job") or "") if last and last["where"] == "job" else "",
        seconds(last["at"]) if last else None,
        None if gross is None else rounded(max(0.0, gross - (vessel.tare_kg or 0.0))),
        None if gross is None else filled(vessel, gross),
        tuple(_says(vessel, ordered, gross, today)),
    )


def _says(vessel: Owned, moves: Sequence[dict[str, Any]], gross: float | None, today: str) -> list[Against]:
    objections = []
    if vessel.requalify_on is None:
        objections.append(Against("not_checked", "Its requalification date is not entered."))
    elif vessel.requalify_on < today:
        objections.append(
            Against("stop", f"Requalification was due {vessel.requalify_on}. Use it up, and do not have it filled again.")
        )
    elif (date.fromisoformat(vessel.requalify_on) - date.fromisoformat(today)).days <= 60:
        objections.append(Against("caution", f"Requalify by {vessel.requalify_on}. Send it with the next filling."))
    if gross is not None and gross < (vessel.tare_kg or 0.0) - COARSE_KG:
        objections.append(
            Against("caution", "It weighs less than empty. It is a different cylinder, or the unit or the tare is wrong.")
        )
    elif gross is not None and filled(vessel, gross) > FULL_AT * 1.01:
        objections.append(
            Against(
                "stop",
                "It is overfilled. If it warms up, its relief valve opens. Do not move it. Let the supplier drain it outdoors.",
            )
        )
    if not moves:
        objections.append(Against("not_checked", "Its location is not entered."))
    return objections


def vocabulary() -> dict[str, Any]:
    """Return the fields of a vessel and of a move as plain data for screens.

    Source: the declarations above.
    """
    return {"vessel": document.schema(Owned), "move": document.schema(Move)}
