"""Where the fuel to one machine is shut, as a drawing for a card: each part under the other, a valve and a number where it is shut."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from xml.sax.saxutils import escape

WIDE, ROW, LINE_X = 260.0, 21.0, 16.0
EMBER, INK, GAS, MUTED = "#c8451b", "#1e1b18", "#2f6b6f", "#6b645a"


@dataclass(frozen=True)
class Stop:
    """One part of the way: its name, its kind, whether it can be shut there, what stands in it, as told."""

    name: str
    kind: str
    shuts: bool
    stands: str


def svg(way: Sequence[Stop]) -> str:
    """Return the way as SVG, empty where there is none.

    Arguments: way, the source first.
    Source: the path of the plan; readable in black and white: a valve is a bow tie with its number.
    """
    if not way:
        return ""
    high = ROW * len(way) + 6
    drawn = [f'<path d="M{LINE_X} 12 V{high - ROW + 4:.0f}" stroke="{GAS}" stroke-width="2.5"/>']
    number = 0
    for n, stop in enumerate(way):
        y = 12 + n * ROW
        number += stop.shuts
        drawn.append(_row(stop, y, number))
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDE:.0f} {high:.0f}" font-family="DejaVu Sans" font-size="9.5">'
        + "".join(drawn)
        + "</svg>"
    )


def _row(stop: Stop, y: float, number: int) -> str:
    stands = (
        f'<text x="{WIDE - 4:.0f}" y="{y + 3.5:.1f}" text-anchor="end" fill="{MUTED}">{escape(stop.stands)}</text>'
        if stop.stands
        else ""
    )
    if stop.shuts:
        tie = f'<path d="M{LINE_X - 7} {y - 6} L{LINE_X + 7} {y + 6} H{LINE_X - 7} L{LINE_X + 7} {y - 6} Z" fill="{EMBER}" stroke="{INK}"/>'
        return f'{tie}<text x="{LINE_X + 14}" y="{y + 3.5:.1f}" font-weight="bold" fill="{INK}">{number} · {escape(stop.name)}: shut here</text>{stands}'
    sign = {
        "regulator": f'<circle cx="{LINE_X}" cy="{y}" r="6" fill="#fff" stroke="{INK}"/><path d="M{LINE_X - 3} {y} h6" stroke="{INK}"/>',
        "appliance": f'<rect x="{LINE_X - 8}" y="{y - 7}" width="16" height="14" fill="{INK}"/>',
    }.get(stop.kind, f'<circle cx="{LINE_X}" cy="{y}" r="3" fill="{GAS}"/>')
    return f'{sign}<text x="{LINE_X + 14}" y="{y + 3.5:.1f}" fill="{INK}">{escape(stop.name)}</text>{stands}'
