"""Which stand-ins a job gets: one instrument for each thing its procedures and its log ask for."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date, timedelta
from typing import Any

from ofen.commissioning.instruments.shelf import Channel, Instrument
from ofen.document.sheets import Generator, Heater
from ofen.plan import Plan
from ofen.plant.electrical import LEGS, PAIRS

from .world import Point, StandIn

HOST = "127.0.0.1"
PRESSURE = ("gas_pressure", "mbar", -20.0, 100.0, 0.01)
VOLTS = ("voltage", "V", 0.0, 600.0, 0.1)


class Ports:
    """Addresses handed out one after the other."""

    def __init__(self, first: int) -> None:
        self._next = first

    def address(self) -> str:
        """Return the next one."""
        self._next += 1
        return f"{HOST}:{self._next - 1}"


def fleet(plan: Plan, first_port: int, today: date) -> list[StandIn]:
    """Return the stand-ins of a job, each with an address of its own from a port on."""
    ports = Ports(first_port)
    calibrated = (today - timedelta(days=60)).isoformat()
    return [
        StandIn(
            Instrument(
                id=id,
                name=name,
                kind=kind,
                serial=f"SIM-{id}",
                calibrated_on=calibrated,
                link=link,
                address=ports.address(),
                channels=channels,
            ),
            points,
        )
        for id, name, kind, link, channels, points in _all(plan)
    ]


Row = tuple[str, str, str, str, tuple[Channel, ...], dict[str, Point]]


def _all(plan: Plan) -> Iterator[Row]:
    names = plan.placed.names
    for supply in plan.supplies:
        id, of = supply.supply.given.id, supply.supply
        if supply.plant.gas:
            yield _one(
                f"nose-{id}",
                f"Gas nose, {of.name}",
                "gas_detector",
                {"G1": (("fraction", "%", 0.0, 100.0, 1.0), (id, "", "gas_in_air"))},
            )
            yield _one(
                f"flow-{id}",
                f"Flow meter, {of.name}",
                "flow_meter",
                {"F1": (("gas_flow", "m³/h", 0.0, 60.0, 0.01), (id, "", "flow"))},
            )
            if of.fuel == "natural_gas":
                yield _one(
                    f"meter-{id}",
                    f"Gas meter, {of.name}",
                    "gas_meter",
                    {"Q": (("gas_flow", "m³/h", 0.0, 60.0, 0.001), (id, "", "flow"))},
                    modbus=True,
                )
        if of.fuel == "propane" and of.given.storage.count:
            yield _one(
                f"scale-{id}", f"Scale, {of.name}", "scale", {"W1": (("mass", "kg", 0.0, 300.0, 0.1), (id, "vessel-1", "weight"))}
            )
    for machine in plan.placed.machines:
        at, name = machine.id, names[machine.id]
        inlet = next((part for _, part in machine.inlets), "")
        if any(s.plant.gas and at in s.supply.ids for s in plan.supplies):
            channels: dict[str, Any] = {"P1": (PRESSURE, (at, inlet, "inlet_pressure"))}
            if isinstance(machine.sheet, Heater):
                channels["P2"] = (PRESSURE, (at, "", "manifold"))
            yield _one(f"mano-{at}", f"Manometer, {name}", "manometer", channels)
        if isinstance(machine.sheet, Generator):
            yield from _of_set(at, name, machine.sheet.system)
        elif isinstance(machine.sheet, Heater):
            if machine.sheet.supply_v:
                yield _one(f"volts-{at}", f"Multimeter, {name}", "multimeter", {"V1": (VOLTS, (at, "", "volts_running"))})
            yield _one(
                f"air-{at}",
                f"Air thermometer, {name}",
                "thermometer",
                {"T1": (("temperature", "°C", -40.0, 400.0, 0.1), (at, "", "air_out"))},
            )
        yield _one(
            f"infrared-{at}",
            f"Infrared thermometer, {name}",
            "ir_thermometer",
            {"S1": (("temperature", "°C", -50.0, 600.0, 0.5), (at, "", "surface"))},
        )
        yield _one(
            f"co-{at}", f"CO meter by {name}", "co_detector", {"C1": (("share_ppm", "ppm", 0.0, 1000.0, 1.0), (at, "", "co"))}
        )


def _of_set(of: str, name: str, system: str) -> Iterator[Row]:
    meters: dict[str, Any] = {pair: (VOLTS, (of, pair, "volts")) for pair, _ in PAIRS[system]}
    meters["hz"] = (("frequency", "Hz", 0.0, 100.0, 0.01), (of, "hz", "hertz"))
    yield _one(f"volts-{of}", f"Multimeter, {name}", "multimeter", meters)
    legs: dict[str, Any] = {
        f"l{n}": (("current", "A", 0.0, 400.0, 0.1), (of, f"l{n}", "amperes")) for n in range(1, LEGS[system] + 1)
    }
    yield _one(f"clamp-{of}", f"Clamp meter, {name}", "clamp_meter", legs)
    yield _one(f"panel-{of}", f"Set controller, {name}", "set_controller", {**meters, **legs}, modbus=True)


def _one(id: str, name: str, kind: str, given: dict[str, Any], modbus: bool = False) -> Row:
    channels = tuple(
        Channel(
            id=c, name=c, quantity=quantity, unit=unit, low=low, high=high, resolution=step, register_at=2 * n if modbus else None
        )
        for n, (c, ((quantity, unit, low, high, step), _)) in enumerate(given.items())
    )
    return id[:40], name[:80], kind, "modbus_tcp" if modbus else "line_tcp", channels, {c: point for c, (_, point) in given.items()}
