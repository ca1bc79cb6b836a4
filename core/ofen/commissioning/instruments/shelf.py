"""The shelf of a team's instruments: what is written of each, what was tried of it, whether it is in order now."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from datetime import date, datetime
from typing import Any

from ... import document
from ...document import choice, day, flag, many, moment, number, text, whole
from ...figures.errors import Fault, JobFaults, OfenError
from ...figures.quantities import kind_of
from .kinds import CHECKS, kinds
from .used import ANY, Used

FORMAT = "ofen-instrument/1"
LINKS = (
    ("none", "not connected, readings are typed"),
    ("line_tcp", "line protocol, over the network"),
    ("line_serial", "line protocol, serial port"),
    ("modbus_tcp", "Modbus TCP"),
)
WORDS = (
    ("u16", "16 bits, whole"),
    ("s16", "16 bits, signed"),
    ("u32", "32 bits, whole"),
    ("s32", "32 bits, signed"),
    ("f32", "32 bits, floating"),
)


@dataclass(frozen=True, kw_only=True)
class Channel:
    """One value an instrument gives: what it is, in which unit, from where to where, how fine; where it stands on the wire."""

    id: str = text("Id", 20)
    name: str = text("What", 60)
    quantity: str = text("Quantity", 40)
    unit: str = text("Unit it sends", 20)
    low: float | None = number("factor", -ANY, ANY, "Range from", "In the unit it sends")
    high: float | None = number("factor", -ANY, ANY, "Range to", "In the unit it sends")
    resolution: float | None = number("factor", 0, ANY, "Smallest step", "In the unit it sends")
    register_at: int | None = whole(0, 65535, "Register", "Modbus only: input register")
    words: str | None = choice("Register holds", *WORDS, default="f32")
    scale: float | None = number("factor", -1e9, 1e9, "Register times", default=1.0)

    def si(self, shown: float) -> float:
        """Return a value in the unit it sends as SI.

        Arguments: shown.
        Source: `quantities`.
        """
        unit = kind_of(self.quantity).unit(self.unit)
        return shown * unit.factor + unit.offset

    @property
    def step_si(self) -> float:
        """The smallest step it shows, in SI."""
        return (self.resolution or 0.0) * kind_of(self.quantity).unit(self.unit).factor


@dataclass(frozen=True, kw_only=True)
class Instrument:
    """An instrument of the team."""

    id: str = text("Id", 40)
    name: str = text("Name", 80)
    kind: str = text("Kind", 40)
    serial: str = text("Serial", 60)
    calibrated_on: str | None = day("Calibrated on")
    calibration_months: int | None = whole(1, 240, "Calibration interval, months", "Blank: usual for its kind")
    error_fraction: float | None = number("fraction", 0, 0.5, "Error, of the reading", "Blank: usual for its kind")
    emissivity: float | None = number("factor", 0.05, 1, "Emissivity", "Infrared only. Shiny metal is far below 0.9")
    link: str | None = choice("Connected by", *LINKS, default="none")
    address: str = text("Address", 80, "host:port, or the serial port")
    unit_id: int | None = whole(0, 247, "Modbus unit", default=1)
    channels: tuple[Channel, ...] = many(Channel, "Values it sends", 24)

    @property
    def due_on(self) -> str | None:
        """The last day on which its calibration holds."""
        if self.calibrated_on is None:
            return None
        months = self.calibration_months or kinds()[self.kind].calibration_months
        return _months_on(date.fromisoformat(self.calibrated_on), months).isoformat()

    def error_si(self, value: float, channel: Channel | None = None) -> float:
        """Return how far a reading may be off, in SI: its share, and one step.

        Arguments: value, SI; channel it comes from, None for one typed.
        """
        share = kinds()[self.kind].error_fraction if self.error_fraction is None else self.error_fraction
        return abs(value) * share + (channel.step_si if channel else 0.0)


@dataclass(frozen=True)
class Check:
    """What was tried of an instrument."""

    id: str = text("Id", 40, needed=True)
    at: str = moment("At", needed=True)
    check: str = choice(
        "Tried", *((c, says) for c, (says, _) in CHECKS.items()), ("calibration", "calibrated"), default="zero", needed=True
    )
    passed: bool | None = flag("Passed", needed=True)
    remark: str = text("Remark", 200)
    by: str = text("By", 200)


def _months_on(day_: date, months: int) -> date:
    year, month = divmod(day_.month - 1 + months, 12)
    for last in (day_.day, 30, 29, 28):
        try:
            return date(day_.year + year, month + 1, last)
        except ValueError:
            continue
    raise AssertionError("every month has 28 days")


def load(data: object) -> Instrument:
    """Return an instrument read from plain data.

    Arguments: data, an object with `"format": "ofen-instrument/1"` and the fields of one.
    Errors: JobFaults with everything unknown, missing or without sense, each by its path.
    """
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise JobFaults([Fault("format", f"must be {FORMAT!r}: this is no instrument of Ofen")])
    faults: list[Fault] = []
    one_instrument: Instrument = document.read(Instrument, {k: v for k, v in data.items() if k != "format"}, "", faults)
    faults += [f for f in faults_of(one_instrument) if f.path not in {g.path for g in faults}]
    if faults:
        raise JobFaults(faults)
    return one_instrument


def dump(instrument: Instrument) -> dict[str, object]:
    """Return an instrument as plain data that `load` reads back."""
    written: dict[str, Any] = document.write(instrument)
    return {"format": FORMAT, **written}


def faults_of(one_instrument: Instrument) -> Iterator[Fault]:
    """Give what an instrument lacks and what in it cannot be, by path.

    Arguments: one_instrument.
    """
    kind = kinds().get(one_instrument.kind)
    for name in ("id", "name"):
        if not getattr(one_instrument, name).strip():
            yield Fault(name, "is missing")
    if kind is None:
        yield Fault("kind", f"{one_instrument.kind!r} is no kind of instrument. Known: {', '.join(kinds())}")
        return
    if one_instrument.link != "none" and not one_instrument.channels:
        yield Fault("channels", "is missing. A connected instrument needs at least one value")
    pattern = r"/dev/[A-Za-z0-9/_.-]+" if one_instrument.link == "line_serial" else r"[A-Za-z0-9.:\[\]-]+:\d{1,5}"
    if one_instrument.link != "none" and not re.fullmatch(pattern, one_instrument.address):
        example = "/dev/ttyUSB0" if one_instrument.link == "line_serial" else "127.0.0.1:5020"
        yield Fault("address", f"must be such as {example}")
    for n, channel in enumerate(one_instrument.channels):
        at = f"channels[{n}]."
        if channel.quantity not in kind.reads:
            yield Fault(
                f"{at}quantity", f"{channel.quantity!r} is not read by a {kind.name.lower()}. It reads {', '.join(kind.reads)}"
            )
            continue
        try:
            kind_of(channel.quantity).unit(channel.unit)
        except OfenError:
            units = ", ".join(u.symbol for u in kind_of(channel.quantity).units)
            yield Fault(f"{at}unit", f"{channel.unit!r} is not a unit for it. Known: {units}")
        if channel.low is None or channel.high is None or channel.low >= channel.high:
            yield Fault(f"{at}high", "must be above the lower end of its range. Both are needed")
        if one_instrument.link == "modbus_tcp" and channel.register_at is None:
            yield Fault(f"{at}register_at", "is missing")


def used(instrument: Instrument, checks: Iterable[Check], value: float | None = None, channel: Channel | None = None) -> Used:
    """Return an instrument as it goes on record with a reading, its newest trials with it.

    Arguments: instrument; checks of it; value (SI) that was read, for its error; channel, None for one typed off it.
    Source: common practice; a trial that was not passed is none.
    """
    newest: dict[str, str] = {}
    for check in checks:
        if check.passed:
            newest[check.check] = max(newest.get(check.check, ""), check.at, key=_moment)
    calibrated = max((d for d in (instrument.calibrated_on, newest.get("calibration", "")[:10] or None) if d), default=None)
    now = replace(instrument, calibrated_on=calibrated)
    return Used(
        id=instrument.id,
        name=instrument.name,
        kind=instrument.kind,
        serial=instrument.serial,
        calibrated_on=now.calibrated_on,
        due_on=now.due_on,
        zeroed_at=newest.get("zero"),
        bumped_at=newest.get("bump"),
        set_at=newest.get("emissivity"),
        error=None if value is None else now.error_si(value, channel),
        taken=channel is not None,
    )


def _moment(at: str) -> float:
    return datetime.fromisoformat(at).timestamp() if at else 0.0
