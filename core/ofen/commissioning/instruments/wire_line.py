"""The line protocol of Ofen's instruments, `ofen-line/1`: one line asked, one line answered, with a sum at its end."""

from __future__ import annotations

import re
from dataclasses import dataclass

from ...figures.errors import told

ASK = "R\n"
LONGEST = 512
_NUMBER = re.compile(r"[+-]?\d{1,12}(\.\d{1,9})?")
_VALUE = re.compile(r"([A-Za-z0-9_-]{1,20})=(\S{1,40})(?: ([^;*]{1,20}))?")


@dataclass(frozen=True)
class Said:
    """One value as it came: the number, None where it is none; the unit, "" where it told none; its age; the text itself."""

    number: float | None
    unit: str = ""
    age_s: float = 0.0
    text: str = ""


def sum_of(body: str) -> str:
    """Return the sum of a line: all its bytes exclusive-or, as two hexadecimal digits.

    Arguments: body, the line before its "*".
    Source: `docs/instruments.md`.
    """
    made = 0
    for byte in body.encode():
        made ^= byte
    return f"{made:02X}"


def line_of(values: dict[str, tuple[float, str]], age_s: float, decimals: int = 4) -> str:
    """Return the line an instrument answers with.

    Arguments: values by channel, as (number, unit); age_s of them; decimals.
    Source: `docs/instruments.md`.
    """
    told = [f"{id}={number:.{decimals}f} {unit}".strip() for id, (number, unit) in values.items()]
    body = ";".join(["R", *told, f"age={age_s:.3f} s"])
    return f"{body}*{sum_of(body)}\n"


def parsed(line: str, channels: list[str]) -> dict[str, Said]:
    """Return what a line says of each of the channels asked for; rubbish for those it says nothing readable of.

    Arguments: line as it came; channels, their ids.
    Source: `docs/instruments.md`.
    """
    body, star, given = line.strip().rpartition("*")
    rubbish = {c: Said(None, text=told(line.strip())) for c in channels}
    if not star or len(line) > LONGEST or given.upper() != sum_of(body) or not body.startswith("R;"):
        return rubbish
    by_channel: dict[str, Said] = {}
    age = 0.0
    for piece in body.split(";")[1:]:
        match = _VALUE.fullmatch(piece.strip())
        if match is None:
            continue
        id, number, unit = match.groups()
        value = float(number) if _NUMBER.fullmatch(number) else None
        if id == "age":
            age = value if value is not None else 1e6
        else:
            by_channel[id] = Said(value, told(unit or ""), 0.0, told(piece))
    return rubbish | {c: Said(s.number, s.unit, age, s.text) for c, s in by_channel.items() if c in channels}
