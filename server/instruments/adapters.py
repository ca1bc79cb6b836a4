"""The adapter interface, and the two protocols behind it: the line protocol over network or serial port, and Modbus TCP.

An adapter is opened for one instrument and read once a second. `read` gives, for each channel of its sheet, what came: the
number, its unit and its age where the protocol tells them (`Said`); it raises `Silent` where nothing came. It judges nothing.
"""

from abc import ABC, abstractmethod

import serial
from pymodbus import ModbusException
from pymodbus.client import ModbusTcpClient
from pymodbus.client.mixin import ModbusClientMixin

from ofen.commissioning.instruments.shelf import Channel, Instrument
from ofen.commissioning.instruments.wire_line import ASK, LONGEST, Said, parsed

ANSWERS_WITHIN_S = 0.5
BAUD = 9600


class Silent(Exception):
    """The instrument does not answer."""


class Adapter(ABC):
    """One instrument, opened; closed when nobody looks any more."""

    def __init__(self, instrument: Instrument) -> None:
        self.instrument = instrument

    @abstractmethod
    def read(self) -> dict[str, Said]:
        """Return what each channel shows now; Silent where nothing comes."""

    @abstractmethod
    def close(self) -> None:
        """Let the line go."""


class LineAdapter(Adapter):
    """`ofen-line/1`, over TCP or a serial port; see docs/instruments.md."""

    def __init__(self, instrument: Instrument) -> None:
        super().__init__(instrument)
        self._port: serial.SerialBase | None = None

    def _open(self) -> serial.SerialBase:
        if self._port is None:
            tcp = self.instrument.link == "line_tcp"
            url = f"socket://{self.instrument.address}" if tcp else self.instrument.address
            port = serial.serial_for_url(url, do_not_open=True, timeout=ANSWERS_WITHIN_S)
            if not tcp:
                port.baudrate = BAUD
                port.write_timeout = ANSWERS_WITHIN_S
            port.open()
            self._port = port
        return self._port

    def read(self) -> dict[str, Said]:
        """Ask once and read one line."""
        try:
            port = self._open()
            port.reset_input_buffer()
            port.write(ASK.encode())
            raw = port.read_until(b"\n", LONGEST)
        except (serial.SerialException, OSError) as gone:
            self.close()
            raise Silent from gone
        if not raw:
            self.close()
            raise Silent
        return parsed(raw.decode("utf-8", "replace"), [c.id for c in self.instrument.channels])

    def close(self) -> None:
        """Close the port."""
        port, self._port = self._port, None
        if port is not None:
            port.close()


class ModbusAdapter(Adapter):
    """Modbus TCP: each channel an input register, or two."""

    TYPES = {
        "u16": ModbusClientMixin.DATATYPE.UINT16,
        "s16": ModbusClientMixin.DATATYPE.INT16,
        "u32": ModbusClientMixin.DATATYPE.UINT32,
        "s32": ModbusClientMixin.DATATYPE.INT32,
        "f32": ModbusClientMixin.DATATYPE.FLOAT32,
    }

    def __init__(self, instrument: Instrument) -> None:
        super().__init__(instrument)
        host, _, port = instrument.address.rpartition(":")
        self._client = ModbusTcpClient(host.strip("[]"), port=int(port), timeout=ANSWERS_WITHIN_S, retries=0)

    def read(self) -> dict[str, Said]:
        """Read every channel of its sheet."""
        if not self._client.connected and not self._client.connect():  # type: ignore[no-untyped-call]  # ships untyped
            raise Silent
        return {c.id: self._channel(c) for c in self.instrument.channels}

    def _channel(self, channel: Channel) -> Said:
        kind = self.TYPES[channel.words or "f32"]
        try:
            answer = self._client.read_input_registers(
                channel.register_at or 0, count=kind.value[1], device_id=self.instrument.unit_id or 0
            )
        except (ModbusException, OSError) as gone:
            self.close()
            raise Silent from gone
        if answer.isError():
            return Said(None, text=str(answer)[:80])
        number = self._client.convert_from_registers(answer.registers, kind)
        return (
            Said(float(number) * (channel.scale or 1.0), text=str(answer.registers))
            if isinstance(number, int | float)
            else Said(None)
        )

    def close(self) -> None:
        """Close the connection."""
        self._client.close()  # type: ignore[no-untyped-call]  # ships untyped


ADAPTERS: dict[str, type[Adapter]] = {"line_tcp": LineAdapter, "line_serial": LineAdapter, "modbus_tcp": ModbusAdapter}


def opened(instrument: Instrument) -> Adapter:
    """Return the adapter of a connected instrument."""
    return ADAPTERS[instrument.link or ""](instrument)
