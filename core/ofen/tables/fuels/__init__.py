"""The fuels, one record each: whoever adds one writes its file here, and its procedures and faults where those stand."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field
from functools import cache
from typing import Any, Literal, TypeAlias

from .. import folder

ComesFrom: TypeAlias = Literal["vessels", "meter", "cartridge", "tank"]
SoldBy: TypeAlias = Literal["kg", "L", "m3"]
# Air at 15 °C and 101.325 kPa, by which a gas sold by the cubic metre is weighed.
AIR_KG_PER_M3 = 1.22498


@dataclass(frozen=True, kw_only=True)
class GasRecord:
    """What makes a fuel a gas in a pipe: gravities against air, viscosity (cP), and Y of the high-pressure equation."""

    specific_gravity: float
    pipe_gravity: float
    viscosity_cp: float
    high_pressure_y: float


@dataclass(frozen=True, kw_only=True)
class Grade:
    """A grade of a liquid fuel: viscosity (mm²/s) at two temperatures (°C), cloud point (°C), density at 15 °C (kg/m³)."""

    fuel: str
    id: str
    reads: str
    cold_c: float
    cold_mm2_per_s: float
    warm_c: float
    warm_mm2_per_s: float
    cloud_c: float
    density_kg_per_m3: float


@dataclass(frozen=True, kw_only=True)
class FuelRecord:
    """All that the program knows of one fuel; each figure has its source in the fuel's file.

    `words` stand inside a sentence; `supply` names a supply of it; `price` is the label of its price, with help. Heats are per kg,
    gross and net. It burns as so much of each of some substances (`burns_as`, shares by mass), or by its `carbon` (share by mass).
    `handled_as` names fuels whose procedures, tests and faults it shares. `source_name` is where it is shut off at its source, `stop` how that is said.
    """

    key: str
    order: int
    label: str
    words: str
    comes_from: ComesFrom
    supply: str
    supply_order: int
    price: tuple[str, str]
    sold_by: SoldBy
    handled_as: tuple[str, ...] = ()
    gross_j_per_kg: float
    net_j_per_kg: float
    liquid_kg_per_l: float | None
    burns_as: Mapping[str, float] = field(default_factory=dict)
    burns_as_gross_j_per_kg: float | None
    carbon: float | None
    gas: GasRecord | None
    works_down_to_c: float
    cold: str
    keeps: str
    fill: str
    fill_kg: float | None
    source_name: str
    stop: str
    grades: tuple[Grade, ...]

    @property
    def is_piped(self) -> bool:
        """Whether it comes to the machine as a gas in a pipe."""
        return self.comes_from in ("vessels", "meter")

    @property
    def is_stored(self) -> bool:
        """Whether some of it is stored on the site."""
        return self.comes_from != "meter"


@cache
def fuels() -> dict[str, FuelRecord]:
    """Return the record of every fuel by its key, in the order in which they are offered."""
    records = [_record(key, data) for key, data in folder("fuels").items()]
    return {f.key: f for f in sorted(records, key=lambda f: (f.order, f.key))}


def source_of(fuel: str) -> ComesFrom | None:
    """Return where a fuel comes from, None for a word that is none.

    Arguments: fuel, its key.
    """
    record = fuels().get(fuel)
    return record.comes_from if record else None


def counts_as(word: str, among: Collection[str]) -> bool:
    """Return whether what is written for some fuels is written for this one too.

    Arguments: word, the fuel; among, fuels.
    """
    return word in among or (word in fuels() and any(other in among for other in fuels()[word].handled_as))


def coming_from(*sources: ComesFrom) -> tuple[str, ...]:
    """Return the keys of the fuels that come from one of some sources.

    Arguments: sources.
    """
    return tuple(f.key for f in fuels().values() if f.comes_from in sources)


def _record(key: str, data: Mapping[str, Any]) -> FuelRecord:
    heat, kept, source = data["heat"], data["kept"], data["source"]
    gas = GasRecord(**data["gas"]) if "gas" in data else None
    gross, net = heat.get("gross_j_per_kg"), heat.get("net_j_per_kg")
    if gas is not None and gross is None:
        kg_per_m3 = gas.specific_gravity * AIR_KG_PER_M3
        gross = heat["gross_j_per_m3_at_15c"] / kg_per_m3
        net = heat["net_share"] * heat["gross_j_per_m3_at_15c"] / kg_per_m3
    label, help_ = data["price"]
    return FuelRecord(
        key=key,
        order=data["order"],
        label=data["label"],
        words=data["words"],
        comes_from=data["comes_from"],
        supply=data["supply"],
        supply_order=data.get("supply_order", data["order"]),
        price=(label, help_),
        sold_by=data["sold_by"],
        handled_as=tuple(data.get("handled_as", ())),
        gross_j_per_kg=gross,
        net_j_per_kg=net,
        liquid_kg_per_l=heat.get("liquid_kg_per_l"),
        burns_as=heat.get("burns_as", {}),
        burns_as_gross_j_per_kg=heat.get("burns_as_gross_j_per_kg"),
        carbon=heat.get("carbon"),
        gas=gas,
        works_down_to_c=float(kept["works_down_to_c"]),
        cold=kept["cold"],
        keeps=kept["keeps"],
        fill=kept["fill"],
        fill_kg=float(kept["fill_kg"]) if "fill_kg" in kept else None,
        source_name=source["name"],
        stop=source["stop"],
        grades=tuple(_grade(key, g) for g in data.get("grade", ())),
    )


def _grade(fuel: str, data: Mapping[str, Any]) -> Grade:
    numbers: dict[str, Any] = {name: value if isinstance(value, str) else float(value) for name, value in data.items()}
    return Grade(fuel=fuel, **numbers)
