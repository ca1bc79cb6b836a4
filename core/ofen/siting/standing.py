"""Machines that stand alike, and what of their place is told where."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ..document.sheets import Generator, Heater
from ..document.siting import Place
from ..plant.placed import Machine, Placed


@dataclass(frozen=True)
class Standing:
    """One machine, or several of one model that share what was told; `at` is where their place is told."""

    machines: tuple[Machine, ...]
    at: str
    sheet: Heater | Generator

    @property
    def subject(self) -> str:
        """The id of the first of them."""
        return self.machines[0].id

    @property
    def place(self) -> Place:
        """Where they stand."""
        return self.machines[0].place

    @property
    def name(self) -> str:
        """What they are called."""
        more = len(self.machines)
        return self.sheet.name if more == 1 else f"{self.sheet.name} ({more} alike)"

    @property
    def is_engine(self) -> bool:
        """Whether it is a generator."""
        return isinstance(self.sheet, Generator)


def place_at(placed: Placed, machine: str) -> str:
    """Return where the place of a machine is told: its own entry, else what holds at every machine.

    Arguments: placed; machine, its id.
    Source: the job.
    """
    own = next((n for n, p in enumerate(placed.job.siting.places) if p.id == machine), None)
    return "siting.usual" if own is None else f"siting.places[{own}]"


def alike(placed: Placed) -> Iterator[Standing]:
    """Give the machines of a job, those of one model that share a place together.

    Arguments: placed.
    Source: the job.
    """
    told = {p.id for p in placed.job.siting.places}
    groups: dict[tuple[str, str], list[Machine]] = {}
    for m in placed.machines:
        if m.sheet is not None:
            own = m.id if m.id in told else ""
            groups.setdefault((own, m.sheet.id), []).append(m)
    for machines in groups.values():
        sheet = machines[0].sheet
        assert sheet is not None
        yield Standing(tuple(machines), place_at(placed, machines[0].id), sheet)
