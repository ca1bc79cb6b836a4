"""The end of a path of liquid fuel: head or suction at each heater, high points on the way, and what primes it."""

from __future__ import annotations

from ...document.job import AppliancePart, LinePart
from ...figures.numerics import total
from ...physics.pipes.liquid_line import fill_time_s, volume_m3
from ...plant.nodes import Node, above
from ...tables.classes import Draws
from .walk import LiquidWalk

LITRE_PER_HOUR = 0.001 / 3600


def assess(c: LiquidWalk, node: Node) -> None:
    """Judge one machine's inlet, its way there, and its priming.

    Arguments: c, node.
    Source: `line`; limits of the records of the classes.
    """
    at, name, draws = f".parts[{node.index}]", node.part.name or node.part.id, c.plant.draws(node)
    if draws is None:
        machine = node.part.machine if isinstance(node.part, AppliancePart) else ""
        c.assessment.judge("supply.inlet.no_heater", node.part.id, f"{at}.machine", name=name, heater=machine or "—")
        return
    if draws.drawn_times > 1 and way_of(node):
        c.assessment.judge("supply.liquid.return_line", node.part.id, at, name=name, times=(draws.drawn_times, "factor"))
    height = c.plant.heights_m[node.part.id]
    way = way_of(node)
    _high_point(c, node, way)
    arriving = c.at(node).running_out_pa
    if arriving is None or not c.plant.flows:
        c.assessment.judge("supply.liquid.inlet_not_checked", node.part.id, at, name=name)
        return
    metre = c.plant.head_pa(1.0)
    if draws.by_gravity:
        head = arriving / metre
        least, most = draws.least_head_m, draws.most_head_m
        code = (
            "supply.liquid.head_low" if head < least else "supply.liquid.head_high" if -height > most else "supply.liquid.head_good"
        )
        c.assessment.judge(
            code,
            node.part.id,
            at,
            name=name,
            found=(head, "length"),
            least=(least, "length"),
            most=(most, "length"),
            holds_to=(abs(head - least) if code != "supply.liquid.head_high" else most, "length"),
        )
    else:
        vacuum, limit = -arriving, c.plant.suction_most_pa(draws)
        code = "supply.liquid.lift_good" if vacuum <= limit else "supply.liquid.lift_too_high"
        c.assessment.judge(
            code,
            node.part.id,
            at,
            name=name,
            found=(max(0.0, vacuum), "gas_pressure"),
            limit=(limit, "gas_pressure"),
            height=(height, "length"),
            holds_to=(height + (limit - vacuum) / metre, "length"),
        )
    _prime(c, node, way, draws)


def way_of(node: Node) -> list[Node]:
    """Return the lines before a machine, from the tank on.

    Arguments: node.
    Source: the path.
    """
    return [n for n in reversed(list(above(node))) if isinstance(n.part, LinePart)]


def _high_point(c: LiquidWalk, node: Node, way: list[Node]) -> None:
    along = [0.0, *(c.plant.heights_m[n.part.id] for n in way)]
    for n in range(1, len(along) - 1):
        if along[n] > along[n - 1] and along[n] > along[n + 1]:
            part = way[n - 1].part
            c.assessment.judge(
                "supply.liquid.high_point",
                part.id,
                f".parts[{way[n - 1].index}].rise_m",
                name=part.name or part.id,
                found=(along[n] - max(along[n - 1], along[n + 1]), "length"),
            )


def _prime(c: LiquidWalk, node: Node, way: list[Node], draws: Draws) -> None:
    lines = []
    for n in way:
        assert isinstance(n.part, LinePart) and n.part.material
        size = c.plant.sizes.get(n.part.id)
        if size is None or not n.part.length_m:
            return
        lines.append((size.bore_m, n.part.length_m, -c.plant.head_pa(c.plant.heights_m[n.part.id])))
    volume = total(volume_m3(bore, length) for bore, length, _ in lines)
    if draws.by_gravity:
        time = fill_time_s(lines, c.plant.viscosity(), c.plant.density()) if lines else 0.0
    else:
        time = volume / (draws.fill_l_per_h * LITRE_PER_HOUR)
    name = node.part.name or node.part.id
    if time is None:
        c.assessment.judge("supply.liquid.no_prime", node.part.id, f".parts[{node.index}]", name=name)
    else:
        c.assessment.judge(
            "supply.liquid.prime",
            node.part.id,
            f".parts[{node.index}]",
            name=name,
            found=(volume, "liquid_volume"),
            time=(time, "hold"),
            how="by its own weight" if draws.by_gravity else "by the pump",
        )
