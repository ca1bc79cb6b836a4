"""The shipped machines, vessels, regulators and connectors; names invented, ranges those of the trade."""

from __future__ import annotations

import dataclasses
import tomllib
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any, ClassVar

from ... import document
from ...document.sheets import SHEETS, Generator, Heater, Sheet, sheet_faults
from ...figures.errors import Fault, JobFaults, UnknownEntry
from ...physics.vaporizing import Vessel


@dataclass(frozen=True, kw_only=True)
class Regulator:
    """A regulator's data sheet; capacity as (inlet pressure Pa gauge, kg/h of its gas)."""

    id: str
    name: str
    stage: str  # first | second | integral (both in one) | high (for high-pressure machines) | demand (zero governor)
    set_pa: float
    capacity: tuple[tuple[float, float], ...]
    inlet_most_pa: float
    droop_fraction: float
    source: str
    lockup_fraction: float | None = None
    relief_pa: float | None = None
    gas: str = "propane"
    for_engines: bool = False


@dataclass(frozen=True, kw_only=True)
class Connector:
    """A flexible connector rated for an input at a pressure drop."""

    id: str
    name: str
    length_m: float
    rated_w: float
    rated_drop_pa: float
    source: str
    needs_filter: bool = False
    most_vessel_kg: float | None = None
    for_natural_gas: bool = True


@dataclass(frozen=True)
class RegulatorOnSale:
    """A regulator, and the names of the machines it feeds at full load and overfeeds standing."""

    MEMBERS: ClassVar = ("regulator.*", "stands_too_high_for")

    regulator: Regulator
    stands_too_high_for: tuple[str, ...]


@dataclass(frozen=True)
class OnSale:
    """Every machine and part that may be chosen."""

    heaters: tuple[Heater, ...]
    generators: tuple[Generator, ...]
    vessels: tuple[Vessel, ...]
    regulators: tuple[RegulatorOnSale, ...]
    connectors: tuple[Connector, ...]


@dataclass(frozen=True)
class Catalogue:
    """Every machine and part a job may name."""

    heaters: dict[str, Heater]
    generators: dict[str, Generator]
    vessels: dict[str, Vessel]
    regulators: dict[str, Regulator]
    connectors: dict[str, Connector]

    @property
    def on_sale(self) -> OnSale:
        """All that may be chosen; each regulator with the machines it feeds at full load and overfeeds standing."""
        regulators = tuple(RegulatorOnSale(r, tuple(self.stands_too_high_for(r))) for r in self.regulators.values())
        return OnSale(
            tuple(self.heaters.values()),
            tuple(self.generators.values()),
            tuple(self.vessels.values()),
            regulators,
            tuple(self.connectors.values()),
        )

    def stands_too_high_for(self, regulator: Regulator) -> list[str]:
        """Return the names of the machines whose window a regulator keeps at full load and leaves at lock-up.

        Arguments: regulator. One whose sheet gives no lock-up is not accused.
        Source: data sheets.
        """
        if regulator.lockup_fraction is None:
            return []
        running = regulator.set_pa * (1 - regulator.droop_fraction)
        standing = regulator.set_pa * (1 + regulator.lockup_fraction)
        lines = []
        machines: list[Heater | Generator] = [*self.heaters.values(), *self.generators.values()]
        for m in machines:
            row = m.on(regulator.gas)
            if row is None or row.inlet_least_pa is None or row.inlet_most_pa is None:
                continue
            if row.inlet_least_pa <= running <= row.inlet_most_pa < standing:
                lines.append(m.name)
        return lines

    def with_sheets(self, sheets: Iterable[Sheet]) -> Catalogue:
        """Return this catalogue with data sheets laid over it; one of a known id takes its place.

        Arguments: sheets, of which those that lack something or make no sense are left out.
        """
        whole = [s for s in sheets if not sheet_faults(s)]
        if not whole:
            return self
        heaters = self.heaters | {s.id: s for s in whole if isinstance(s, Heater)}
        generators = self.generators | {s.id: s for s in whole if isinstance(s, Generator)}
        return dataclasses.replace(self, heaters=heaters, generators=generators)


def _machines(name: str, kind: str) -> dict[str, Any]:
    """Machines of one file: each takes over what its `like` holds, each of its fuels what that says of the fuel.

    Where its `like` is also built for 230 V, a twin of it is made.
    """
    data = tomllib.loads(files(__name__).joinpath(f"{name}.toml").read_text(encoding="utf-8"))
    rows = "burns" if kind == "heater" else "runs_on"
    made: dict[str, Any] = {}
    faults: list[Fault] = []
    for id, entry in data["machine"].items():
        like = data["like"][entry.pop("like")]
        of_fuel = like.get("fuel", {})
        given = {k: v for k, v in like.items() if k not in ("fuel", "twin_230")} | entry | {"source": data["source"]}
        given[rows] = [of_fuel.get(f, {}) | row | {"id": f, "fuel": f} for f, row in entry[rows].items()]
        builds = [{"id": id}]
        if "twin_230" in like and entry.get("system") in (None, "split_120_240"):
            builds.append({"id": f"{id}-230", "name": f"{given['name'].replace(',', ' E,', 1)}"} | like["twin_230"])
        for build in builds:
            sheet = document.read(SHEETS[kind], given | build, id, faults)
            faults += [Fault(f"{build['id']}.{f.path}", f.message) for f in sheet_faults(sheet)]
            made[build["id"]] = sheet
    if faults:
        raise JobFaults(faults)
    return made


def _read(name: str, cls: Any) -> dict[str, Any]:
    data = tomllib.loads(files(__name__).joinpath(f"{name}.toml").read_text(encoding="utf-8"))
    made = {}
    for id, entry in data.items():
        values = {
            k: tuple(tuple(p) if isinstance(p, list) else p for p in v) if isinstance(v, list) else v for k, v in entry.items()
        }
        made[id] = cls(id=id, **values)
    return made


@cache
def shipped() -> Catalogue:
    """Return the shipped catalogue.

    Errors: JobFaults or TypeError at once where a shipped file is broken.
    Source: the `source` of each entry.
    """
    return Catalogue(
        _machines("heaters", "heater"),
        _machines("generators", "generator"),
        _read("vessels", Vessel),
        _read("regulators", Regulator),
        _read("connectors", Connector),
    )


def find(entries: dict[str, object], table: str, id: str) -> object:
    """Return an entry by id.

    Arguments: entries, table (its name, for the message), id.
    Errors: UnknownEntry.
    """
    try:
        return entries[id]
    except KeyError:
        raise UnknownEntry(table, id) from None
