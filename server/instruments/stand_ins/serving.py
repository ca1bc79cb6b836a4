"""Serving the stand-ins on loopback: each instrument on a port of its own, by its protocol; and a page to set the world."""

from __future__ import annotations

import asyncio
import contextlib
import struct
import time
from functools import partial

from pymodbus.server import ModbusTcpServer
from pymodbus.simulator import DataType, SimData, SimDevice

from ofen.commissioning.instruments.wire_line import LONGEST, line_of
from ofen.figures.quantities import kind_of

from . import page
from .world import OLD_VALUE_S, StandIn, World

TURN_S = 0.1


def answer(world: World, one: StandIn, now: float) -> str | None:
    """Return the line an instrument answers with, None where it does not answer."""
    if one.wrong == "gone":
        return None
    if one.wrong == "rubbish":
        return "R;P1=##;age=x*ZZ\n"
    told = {}
    for c in one.instrument.channels:
        value, unit = world.shown(one, c, now), c.unit
        if one.wrong == "other_unit":
            other = next(
                u
                for u in (*kind_of(c.quantity).units, kind_of(c.quantity).units[0])
                if u.symbol != c.unit or len(kind_of(c.quantity).units) == 1
            )
            unit = other.symbol if other.symbol != c.unit else "furlong"
        told[c.id] = (value, unit)
    return line_of(told, OLD_VALUE_S if one.wrong == "old" else 0.02)


async def _line(world: World, one: StandIn, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
    with contextlib.suppress(ConnectionError, asyncio.IncompleteReadError, ValueError):
        while await reader.readuntil(b"\n"):
            said = answer(world, one, time.monotonic())
            if said is not None:
                writer.write(said.encode())
                await writer.drain()
    writer.close()


def registers(world: World, one: StandIn, now: float) -> list[int]:
    """Return the input registers of a Modbus stand-in: each channel a 32-bit float, high word first."""
    found: list[int] = []
    for channel in one.instrument.channels:
        value = float("nan") if one.wrong == "rubbish" else world.shown(one, channel, now)
        found += struct.unpack(">HH", struct.pack(">f", value))
    return found


def _modbus(world: World, one: StandIn) -> ModbusTcpServer:
    async def act(code: int, start: int, address: int, count: int, current: list[int], set_values: object) -> None:
        if one.wrong == "gone":
            await asyncio.sleep(5)
        now = registers(world, one, time.monotonic())
        for n in range(len(current)):
            if start + n < len(now):
                current[n] = now[start + n]

    size = 2 * len(one.instrument.channels)
    device = SimDevice(
        id=one.instrument.unit_id or 1, simdata=[SimData(0, count=size, values=0, datatype=DataType.REGISTERS)], action=act
    )
    host, _, port = one.instrument.address.rpartition(":")
    return ModbusTcpServer(device, address=(host, int(port)))


async def serve(world: World, page_port: int | None, ready: asyncio.Event | None = None) -> None:
    """Serve every stand-in of a world until it is cancelled; page_port, where the page to set it is, None without."""
    begun = time.monotonic()
    servers: list[asyncio.Server | asyncio.BaseTransport] = []
    for one in world.stand_ins:
        one.on_since = begun
        host, _, port = one.instrument.address.rpartition(":")
        if one.instrument.link == "modbus_tcp":
            modbus = _modbus(world, one)
            await modbus.listen()
            if modbus.transport is not None:
                servers.append(modbus.transport)
        else:
            servers.append(await asyncio.start_server(partial(_line, world, one), host, int(port), limit=LONGEST))
    if page_port is not None:
        servers.append(await asyncio.start_server(partial(page.serve, world), "127.0.0.1", page_port, limit=page.LARGEST))
    if ready is not None:
        ready.set()
    try:
        while True:
            world.turn(time.monotonic())
            await asyncio.sleep(TURN_S)
    finally:
        for server in servers:
            server.close()
