"""The shipped machines, vessels, regulators and connectors; names invented, ranges those of the trade."""

from __future__ import annotations

import dataclasses
import tomllib
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any

from ..errors import UnknownEntry


@dataclass(frozen=True)
class Heater:
    """A forced-air heater's data sheet."""

    id: str
    name: str
    firing: str  # direct | indirect
    fuels: tuple[str, ...]
    input_w: float
    efficiency: float
    airflow_m3_per_s: float
    inlet_least_pa: float
    inlet_most_pa: float
    manifold_pa: float
    manifold_tolerance_pa: float
    fan_running_w: float
    fan_starting_w: float
    supply_v: float
    supply_least_v: float
    power_factor: float
    clear_top_m: float
    clear_front_m: float
    clear_sides_m: float
    clear_rear_m: float
    altitude_most_m: float
    least_vessel_kg: float
    cool_down_s: float
    source: str
    derate_per_1000_ft: float | None = None
    built_in_regulator: bool = False


@dataclass(frozen=True)
class Vessel:
    """A cylinder or tank for LP."""

    id: str
    name: str
    shape: str  # upright | lying
    diameter_m: float
    shell_m: float
    full_kg: float
    tare_kg: float
    source: str


@dataclass(frozen=True)
class Regulator:
    """A regulator's data sheet; capacity as (inlet pressure Pa gauge, kg/h of propane)."""

    id: str
    name: str
    stage: str  # first | second
    set_pa: float
    capacity: tuple[tuple[float, float], ...]
    inlet_most_pa: float
    droop_fraction: float
    source: str
    lockup_fraction: float | None = None


@dataclass(frozen=True)
class Connector:
    """A flexible connector rated for an input at a pressure drop."""

    id: str
    name: str
    length_m: float
    rated_w: float
    rated_drop_pa: float
    source: str


@dataclass(frozen=True)
class Catalogue:
    """Every machine and part a job may name."""

    heaters: dict[str, Heater]
    vessels: dict[str, Vessel]
    regulators: dict[str, Regulator]
    connectors: dict[str, Connector]

    def to_json(self) -> dict[str, list[dict[str, Any]]]:
        """Return the catalogue as plain data.

        Source: common practice.
        """
        return {f.name: [dataclasses.asdict(e) for e in getattr(self, f.name).values()] for f in dataclasses.fields(self)}


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

    Errors: UnknownEntry never; a broken file raises TypeError at once.
    Source: the `source` of each entry.
    """
    return Catalogue(
        _read("heaters", Heater), _read("vessels", Vessel), _read("regulators", Regulator), _read("connectors", Connector)
    )


def find(entries: dict[str, Any], table: str, id: str) -> Any:
    """Return an entry by id.

    Arguments: entries, table (its name, for the message), id.
    Errors: UnknownEntry.
    Source: common practice.
    """
    try:
        return entries[id]
    except KeyError:
        raise UnknownEntry(table, id) from None
