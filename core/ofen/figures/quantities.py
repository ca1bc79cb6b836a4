"""Kinds of quantity, their units, reading what a person types and writing what they see; SI inside."""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import UTC, datetime
from fractions import Fraction
from math import inf, isfinite
from typing import Annotated, ClassVar, TypeAlias

from .errors import UnknownEntry, UnreadableQuantity, told
from .numerics import rounded

# A value of a text: in SI with its kind, or a word.
Quantity: TypeAlias = tuple[float, str] | str
BY_NAME = "by name"
# The values of a text by their names, as pairs that can be compared; they are rounded where they are made.
Values: TypeAlias = Annotated[tuple[tuple[str, Quantity], ...], BY_NAME]


@dataclass(frozen=True)
class QuantityUnit:
    """One unit of a kind: SI value = number × factor + offset."""

    symbol: str
    factor: float
    offset: float = 0.0
    aliases: tuple[str, ...] = ()


@dataclass(frozen=True)
class QuantityKind:
    """A kind of quantity, its units, and which of them each system shows."""

    MEMBERS: ClassVar = ("name", "metric", "us", "most_decimals", "units")

    name: str
    units: tuple[QuantityUnit, ...]
    metric: str
    us: str
    most_decimals: int = 3

    def unit(self, symbol: str) -> QuantityUnit:
        """Return the unit by symbol or alias.

        Arguments: symbol, as typed.
        Errors: UnknownEntry.
        """
        wanted = _plain(symbol)
        for unit in self.units:
            if wanted in (_plain(unit.symbol), *map(_plain, unit.aliases)):
                return unit
        raise UnknownEntry(f"units of {self.name}", symbol)


def _plain(symbol: str) -> str:
    text = symbol.strip().lower().replace("²", "2").replace("³", "3").replace("·", "").replace("°", "")
    return re.sub(r"[\s.]", "", text)


_U = QuantityUnit
_PA_PER_INWC = 249.08891
_BTU_PER_H = 0.29307107

KINDS: dict[str, QuantityKind] = {
    kind.name: kind
    for kind in (
        QuantityKind(
            "length",
            (_U("m", 1), _U("ft", 0.3048, 0, ("'", "feet")), _U("in", 0.0254, 0, ('"', "inch")), _U("cm", 0.01), _U("mm", 0.001)),
            "m",
            "ft",
        ),
        QuantityKind("bore", (_U("mm", 0.001), _U("in", 0.0254, 0, ('"', "inch")), _U("m", 1)), "mm", "in"),
        QuantityKind("dip", (_U("cm", 0.01), _U("in", 0.0254, 0, ('"', "inch")), _U("m", 1)), "cm", "in"),
        QuantityKind("altitude", (_U("m", 1), _U("ft", 0.3048, 0, ("'", "feet"))), "m", "ft", 0),
        QuantityKind("area", (_U("m²", 1), _U("ft²", 0.09290304, 0, ("sqft", "sq ft"))), "m²", "ft²"),
        QuantityKind("wire_area", (_U("mm²", 1e-6), _U("in²", 0.00064516)), "mm²", "mm²"),
        QuantityKind(
            "volume",
            (
                _U("m³", 1),
                _U("ft³", 0.028316846592, 0, ("cuft", "cu ft")),
                _U("L", 0.001, 0, ("l", "litre")),
                _U("gal", 0.003785411784),
            ),
            "m³",
            "ft³",
        ),
        QuantityKind(
            "liquid_volume",
            (_U("L", 0.001, 0, ("l", "litre", "liter")), _U("gal", 0.003785411784), _U("m³", 1), _U("mL", 1e-6, 0, ("ml",))),
            "L",
            "gal",
        ),
        QuantityKind(
            "temperature", (_U("°C", 1, 0, ("C",)), _U("°F", 5 / 9, -160 / 9, ("F",)), _U("K", 1, -273.15)), "°C", "°F", 1
        ),
        QuantityKind("temperature_difference", (_U("K", 1, 0, ("°C", "C")), _U("°F", 5 / 9, 0, ("F",))), "K", "°F", 1),
        QuantityKind(
            "u_value",
            (_U("W/m²K", 1, 0, ("W/m2K", "w/(m2k)")), _U("Btu/h·ft²·°F", 5.678263, 0, ("btu/hft2f",))),
            "W/m²K",
            "Btu/h·ft²·°F",
        ),
        QuantityKind("air_change", (_U("/h", 1, 0, ("1/h", "ach", "per h")),), "/h", "/h", 2),
        QuantityKind(
            "heat_flow",
            (_U("kW", 1000), _U("Btu/h", _BTU_PER_H, 0, ("btuh", "btu")), _U("W", 1), _U("kcal/h", 1.163)),
            "kW",
            "Btu/h",
        ),
        QuantityKind("electric_power", (_U("W", 1), _U("kW", 1000)), "W", "W"),
        QuantityKind("heat_loss_rate", (_U("W/K", 1), _U("Btu/h·°F", 0.52752793, 0, ("btu/hf",))), "W/K", "Btu/h·°F"),
        QuantityKind("heat_capacity", (_U("kJ/K", 1000), _U("Btu/°F", 1899.1005), _U("J/K", 1)), "kJ/K", "Btu/°F"),
        QuantityKind(
            "gas_pressure",
            (
                _U("mbar", 100, 0, ("hPa",)),
                _U("in w.c.", _PA_PER_INWC, 0, ("inwc", "inh2o", "wc", '"wc')),
                _U("bar", 1e5),
                _U("psi", 6894.757, 0, ("psig",)),
                _U("kPa", 1000),
                _U("Pa", 1),
                _U("oz/in²", 430.9223, 0, ("osi",)),
            ),
            "mbar",
            "in w.c.",
            2,
        ),
        QuantityKind(
            "source_pressure",
            (_U("bar", 1e5), _U("psi", 6894.757, 0, ("psig",)), _U("kPa", 1000), _U("mbar", 100), _U("Pa", 1)),
            "bar",
            "psi",
            2,
        ),
        QuantityKind(
            "gas_flow", (_U("m³/h", 1 / 3600), _U("ft³/h", 7.8657907e-6, 0, ("cfh", "cuft/h")), _U("m³/s", 1)), "m³/h", "ft³/h"
        ),
        QuantityKind(
            "airflow", (_U("m³/h", 1 / 3600), _U("ft³/min", 0.00047194745, 0, ("cfm",)), _U("m³/s", 1)), "m³/h", "ft³/min"
        ),
        QuantityKind("mass", (_U("kg", 1), _U("lb", 0.45359237, 0, ("lbs",)), _U("g", 0.001)), "kg", "lb", 2),
        QuantityKind("mass_flow", (_U("kg/h", 1 / 3600), _U("lb/h", 0.45359237 / 3600), _U("kg/s", 1)), "kg/h", "lb/h", 2),
        QuantityKind(
            "liquid_flow",
            (_U("L/h", 1e-3 / 3600), _U("gal/h", 3.785411784e-3 / 3600, 0, ("gph",)), _U("m³/s", 1)),
            "L/h",
            "gal/h",
            2,
        ),
        QuantityKind("density", (_U("kg/m³", 1), _U("lb/ft³", 16.018463)), "kg/m³", "lb/ft³"),
        QuantityKind("heating_value", (_U("MJ/kg", 1e6), _U("Btu/lb", 2326.0), _U("J/kg", 1)), "MJ/kg", "Btu/lb"),
        QuantityKind("viscosity", (_U("mm²/s", 1e-6, 0, ("cSt", "mm2/s")),), "mm²/s", "mm²/s", 1),
        QuantityKind(
            "duration", (_U("h", 3600), _U("min", 60), _U("s", 1, 0, ("sec",)), _U("d", 86400, 0, ("day", "days"))), "h", "h", 1
        ),
        QuantityKind("hold", (_U("s", 1, 0, ("sec",)), _U("min", 60)), "s", "s", 0),
        QuantityKind("clock", (_U("o'clock", 3600, 0, ("h", "oclock")),), "o'clock", "o'clock", 2),
        QuantityKind("money", (_U("", 1),), "", "", 2),
        QuantityKind("apparent_power", (_U("kVA", 1000), _U("VA", 1)), "kVA", "kVA"),
        QuantityKind("energy", (_U("kWh", 3.6e6), _U("MJ", 1e6), _U("Btu", 1055.05585)), "kWh", "kWh"),
        QuantityKind("cooling_by_pressure", (_U("K/bar", 1e-5),), "K/bar", "K/bar"),
        QuantityKind("voltage", (_U("V", 1, 0, ("volt", "volts")),), "V", "V", 1),
        QuantityKind("current", (_U("A", 1),), "A", "A", 2),
        QuantityKind("frequency", (_U("Hz", 1, 0, ("hertz", "1/s")),), "Hz", "Hz", 2),
        QuantityKind("share_ppm", (_U("ppm", 1e-6), _U("of 1", 1)), "ppm", "ppm", 1),
        QuantityKind("resistance", (_U("Ω", 1, 0, ("ohm",)),), "Ω", "Ω", 3),
        QuantityKind("fraction", (_U("%", 0.01), _U("of 1", 1)), "%", "%", 1),
        QuantityKind("angle", (_U("°", 1, 0, ("deg", "degrees")),), "°", "°", 0),
        QuantityKind(
            "speed", (_U("m/s", 1), _U("mph", 0.44704), _U("km/h", 1 / 3.6), _U("ft/min", 0.00508, 0, ("fpm",))), "m/s", "mph", 1
        ),
        QuantityKind("moment", (_U("s", 1),), "s", "s", 0),
        QuantityKind("count", (_U("", 1),), "", "", 2),
        QuantityKind("factor", (_U("", 1),), "", "", 4),
    )
}

SYSTEMS = ("metric", "us")
# Moments up to the year 3237 are written as dates.
LAST_MOMENT_S = 4e10
# An hour later than this is one of a day that is known, and has its weekday; the first of 1970 was a Thursday.
DATED_S = 366 * 86_400.0
WEEKDAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")

_MIXED = re.compile(r"(\d+)[\s-]+(\d+)\s*/\s*(\d+)")
_SIMPLE = re.compile(r"(\d+)\s*/\s*(\d+)")
_SPACED = re.compile(r"\d{1,3}(?: \d{3})+(?:[.,]\d+)?(?![\d.,/])")
_DIGITS = re.compile(r"[\d.,]*\d[\d.,]*")
_MINUS = re.compile(r"^[−–—‐‑]")
_WIDE = re.compile("[\u00a0\u2007\u2009\u202f]")
_AND_MORE = re.compile(r"\s*([^\d\s+−-][^\d+−-]*?)\s*(\d.*)")
_MOST_TYPED = 60
_VULGAR = {"½": "1/2", "¼": "1/4", "¾": "3/4", "⅜": "3/8", "⅝": "5/8", "⅛": "1/8", "⅞": "7/8"}


def kind_of(name: str) -> QuantityKind:
    """Return the kind of quantity by name.

    Arguments: name, a key of KINDS.
    Errors: UnknownEntry.
    """
    try:
        return KINDS[name]
    except KeyError:
        raise UnknownEntry("quantities", name) from None


def _number_and_rest(text: str) -> tuple[float, str] | None:
    for sign, body in ((-1.0, text[1:]), (1.0, text[1:] if text[:1] == "+" else text)):
        if sign < 0 and text[:1] != "-":
            continue
        body = body.lstrip()
        if m := _MIXED.match(body):
            if int(m[3]) == 0:
                return None
            return sign * float(int(m[1]) + Fraction(int(m[2]), int(m[3]))), body[m.end() :]
        if m := _SIMPLE.match(body):
            if int(m[2]) == 0:
                return None
            return sign * float(Fraction(int(m[1]), int(m[2]))), body[m.end() :]
        if m := _SPACED.match(body) or _DIGITS.match(body):
            number = _decimal(m[0].replace(" ", ""))
            return None if number is None else (sign * number, body[m.end() :])
    return None


def _decimal(digits: str) -> float | None:
    if re.fullmatch(r"[1-9]\d{0,2}(,\d{3})+(\.\d*)?", digits):
        digits = digits.replace(",", "")
    elif digits.count(",") == 1 and "." not in digits:
        digits = digits.replace(",", ".")
    try:
        number = float(digits)
    except ValueError:
        return None
    return number if isfinite(number) else None


def parse(text: str, kind_name: str, system: str = "metric") -> float:
    """Return the SI value of what a person typed, "11 inwc", "5/8 in", "1 1/4", "-10C", "27,5 mbar".

    Arguments: text; kind_name; system, whose unit is meant where none is typed. "1,200" is read as a
    thousand, "27,5" as a decimal comma.
    Errors: UnreadableQuantity naming the units allowed.
    """
    kind = kind_of(kind_name)
    cleaned = _WIDE.sub(" ", _MINUS.sub("-", text.strip()))
    for glyph, fraction in _VULGAR.items():
        cleaned = re.sub(rf"(?<=\d){glyph}", f" {fraction}", cleaned).replace(glyph, fraction)
    shown = ", ".join(u.symbol for u in kind.units if u.symbol)
    allowed = f"write a number and one of {shown}" if shown else "write a plain number"
    if kind_name == "clock" and (hour := re.fullmatch(r"(\d{1,2}):([0-5]\d)", cleaned)):
        return rounded(int(hour[1]) * 3600.0 + int(hour[2]) * 60.0)
    value = _value(kind, cleaned, getattr(kind, system)) if len(cleaned) <= _MOST_TYPED else None
    if value is None:
        raise UnreadableQuantity(told(text), allowed)
    return rounded(value)


def _value(kind: QuantityKind, text: str, meant: str | None, below: float = inf) -> float | None:
    """The SI value of a number with its unit, and of smaller ones behind it ("59 ft 1 in"); None where it is no such thing."""
    found = _number_and_rest(text)
    if found is None:
        return None
    number, rest = found
    unit = _unit(kind, rest.strip() or meant)
    if unit is not None and unit.factor < below:
        return number * unit.factor + unit.offset
    if not (more := _AND_MORE.fullmatch(rest)):
        return None
    unit = _unit(kind, more[1])
    if unit is None or unit.offset or unit.factor >= below:
        return None
    smaller = _value(kind, more[2], None, unit.factor)
    return None if smaller is None else number * unit.factor + (-smaller if text.startswith("-") else smaller)


def _unit(kind: QuantityKind, symbol: str | None) -> QuantityUnit | None:
    try:
        return None if symbol is None else kind.unit(symbol)
    except UnknownEntry:
        return None


def shown(value: float, kind_name: str, system: str = "metric") -> str:
    """Return the value in the system's unit, three significant figures, unit beside it.

    Arguments: value (SI), kind_name, system.
    A moment (seconds since 1970) is written in UTC, an hour of the day as 18:30. An hour of a day that is known, in seconds since 1970
    by the clock of the place, has its weekday.
    Source: ISO 80000-1 for the space between number and unit; three figures are common practice.
    """
    kind = kind_of(kind_name)
    if kind_name == "moment" and abs(value) < LAST_MOMENT_S:
        return datetime.fromtimestamp(value, UTC).strftime("%Y-%m-%d %H:%M UTC")
    if kind_name == "clock":
        minutes = round(value / 60)
        if DATED_S < value < LAST_MOMENT_S:
            weekday = WEEKDAYS[(minutes // (24 * 60) + 3) % 7]
            return f"{weekday} {minutes // 60 % 24:02d}:{minutes % 60:02d}"
        return f"{minutes // 60:02d}:{minutes % 60:02d}"
    unit = kind.unit(getattr(kind, system))
    number = rounded((value - unit.offset) / unit.factor)
    return f"{significant(number, kind.most_decimals)} {unit.symbol}".strip()


def significant(number: float, most_decimals: int = 3) -> str:
    """Return the number at three significant figures with thousands marked.

    Arguments: number (already in the unit shown), most_decimals.
    """
    size = abs(float(f"{number:.2e}"))
    before = len(str(int(size)))
    decimals = max(0, min(most_decimals, 3 - before)) if size >= 1 else most_decimals
    short = round(float(f"{number:.2e}"), decimals)
    text = f"{short:,.{decimals}f}"
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    return (text if text not in ("-0",) else "0").replace("-", "−")
