"""How long a supply lasts: on high, on low and by the thermostat, side by side, and when it is changed in the hours ahead."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..figures.assessment import Assessment, Row
from ..figures.figure import figure
from ..figures.numerics import rounded, total
from ..physics.fuel.properties import fuel as fuel_of
from ..physics.fuel.properties import told_amount, told_flow
from ..plant.draw import DAY_S, STEP_S, Draw, Setting, lasts_s
from ..tables.fuels import source_of
from .hours_ahead import HoursAhead

WORDS: dict[Setting, str] = {"high": "on high", "low": "on low", "thermostat": "by thermostat"}
SETTINGS: tuple[Setting, ...] = ("low", "thermostat", "high")
# A heater without a thermostat is set to what is needed, as far down as it goes.
BY_HAND = "as needed"
ALL_LOADS, THESE_LOADS = "with all loads on", "with these loads"


@dataclass(frozen=True, kw_only=True)
class Held:
    """What a supply holds that may be used (J gross), what its hours are called, and how that comes about."""

    usable_j: float
    until: str
    formula: str
    inputs: Sequence[tuple[str, float | str, str]]
    headline: bool = True


@dataclass(frozen=True, kw_only=True)
class Lasting(Row, table="lasting"):
    """How long a supply lasts at one setting, None where it comes from a meter; fuel an hour, and what that costs a second."""

    setting: Setting
    words: str
    lasts_s: float | None
    flow: float
    flow_kind: str
    cost_per_s: float | None


@dataclass(frozen=True, kw_only=True)
class AheadUse(Row, table="ahead"):
    """What a supply needs for the hours ahead, and what that costs."""

    lasts_s: float
    amount: float
    amount_kind: str
    cost: float | None


def words_of(drawn: Draw, setting: Setting) -> str:
    """Return how a setting is called: heaters have one, generators have loads.

    Arguments: drawn; setting.
    """
    if setting == "thermostat" and drawn.burners and not any(b.cycles for b in drawn.burners):
        return BY_HAND
    if drawn.burners:
        return WORDS[setting]
    return ALL_LOADS if setting == "high" else THESE_LOADS


def assess(
    *,
    assessment: Assessment,
    ahead: HoursAhead,
    fuel: str,
    held: Held | None,
    money_per_j: float | None,
) -> dict[Setting, float]:
    """Set how long a supply lasts at each setting into the Supply assessment, and return it (s); with what it uses in the hours ahead.

    Arguments: assessment (added to); ahead, its hours with what draws on it; fuel; held, None where it comes from a meter; money_per_j,
    None without a price.
    Source: `plant.draw`; by thermostat at the temperatures of the hours ahead, else at the lowest outside.
    """
    gross, drawn = fuel_of(fuel).gross_j_per_kg, ahead.drawn
    found: dict[Setting, float] = {}
    _ahead(assessment, ahead, fuel, money_per_j)
    for setting in SETTINGS:
        if (setting == "low" and not drawn.has_low) or (setting == "thermostat" and _is_alike(drawn)):
            continue
        lasts, mean_w = None, drawn.high_w
        if held is None:
            # On high nothing changes with the hour.
            mean_w = drawn.high_w if setting == "high" else _mean_w(ahead, setting)
        else:
            lasts = held.usable_j / drawn.high_w if setting == "high" else _lasts_s(ahead, setting, held.usable_j)
            if lasts is None:
                continue
            found[setting] = lasts
            mean_w = held.usable_j / lasts
            assessment.add(
                figure(
                    key=f"supply.hours_{setting}_s",
                    name=f"{held.until} {words_of(drawn, setting)}",
                    value=lasts,
                    kind="duration",
                    formula=f"{held.formula} ÷ input",
                    inputs=[*held.inputs, ("mean input", mean_w, "heat_flow"), ("gross heating value", gross, "heating_value")],
                    source="one draw, quarter hour by quarter hour; efficiency on low as on high (common practice)",
                ),
                headline=held.headline and setting == ("high" if drawn.burners else _headline(drawn)),
            )
        flow, kind = _flow(fuel, mean_w / gross)
        assessment.put(
            Lasting(
                setting=setting,
                words=words_of(drawn, setting),
                lasts_s=None if lasts is None else rounded(lasts),
                flow=rounded(flow),
                flow_kind=kind,
                cost_per_s=None if money_per_j is None else rounded(mean_w * money_per_j),
            )
        )
    return found


def _ahead(assessment: Assessment, ahead: HoursAhead, fuel: str, money_per_j: float | None) -> None:
    """What the hours ahead need, and what it costs."""
    lasts_s, drawn = ahead.given.night.lasts_s, ahead.drawn
    if lasts_s is None or ahead.site.outside_lowest_c is None or not drawn.high_w:
        return
    used = put_used(
        assessment,
        key="supply.ahead",
        called="Fuel needed for the hours ahead",
        fuel=fuel,
        used_j=ahead.mean_w(lasts_s) * lasts_s,
        over=("hours ahead", lasts_s),
        source="one draw, quarter hour by quarter hour",
        money_per_j=money_per_j,
    )
    assessment.put(AheadUse(lasts_s=lasts_s, amount=rounded(used.amount), amount_kind=used.kind, cost=used.cost))
    if drawn.holds:
        assessment.judge("supply.ahead.heat_off", "storage", "need.spaces[0].use_from_s")


@dataclass(frozen=True)
class Used:
    """An amount of fuel as it is bought, with its kind, and what it costs, None without a price."""

    amount: float
    kind: str
    cost: float | None


def put_used(
    assessment: Assessment,
    *,
    key: str,
    called: str,
    fuel: str,
    used_j: float,
    over: tuple[str, float],
    source: str,
    money_per_j: float | None,
    more: Sequence[tuple[str, float | str, str]] = (),
) -> Used:
    """Set how much fuel a time takes and what it costs into the assessment, as KEY_used and KEY_cost, and return it.

    Arguments: assessment (added to); key; called, the name of the figure; fuel; used_j, gross; over, the time's name and length (s);
    source; money_per_j, None without a price; more inputs.
    Source: `amount_of`; prices as typed.
    """
    amount, kind = amount_of(fuel, used_j / fuel_of(fuel).gross_j_per_kg)
    inputs: list[tuple[str, float | str, str]] = [
        (*over, "duration"),
        *more,
        ("mean input", used_j / over[1], "heat_flow"),
        ("gross heating value", fuel_of(fuel).gross_j_per_kg, "heating_value"),
    ]
    assessment.add(
        figure(
            key=f"{key}_used",
            name=called,
            value=amount,
            kind=kind,
            formula="Σ input × time ÷ gross heating value",
            inputs=inputs,
            source=source,
        )
    )
    if money_per_j is None:
        return Used(amount, kind, None)
    cost = assessment.add(
        figure(
            key=f"{key}_cost",
            name=f"{called}: cost",
            value=used_j * money_per_j,
            kind="money",
            formula="Σ input × time × price",
            inputs=[*inputs, ("fuel", amount, kind)],
            source=f"{source}; prices as typed",
        )
    )
    return Used(amount, kind, cost)


def _lasts_s(ahead: HoursAhead, setting: Setting, left_j: float) -> float | None:
    if setting == "thermostat":
        return ahead.lasts_s(left_j)
    drawn, begins_s = ahead.drawn, ahead.begins_s
    return lasts_s(left_j, lambda s: drawn.at_w(setting, begins_s + s, 0.0), ahead.given.night.lasts_s or DAY_S)


def _mean_w(ahead: HoursAhead, setting: Setting) -> float:
    """The mean gross input (W) over a day of the hours ahead."""
    if setting == "thermostat":
        return ahead.mean_w()
    steps = int(DAY_S // STEP_S)
    return total(ahead.drawn.at_w(setting, ahead.begins_s + (n + 0.5) * STEP_S, 0.0) for n in range(steps)) / steps


def _is_alike(drawn: Draw) -> bool:
    """Whether nothing tells what is drawn on the way from all on: no need, no duty and no loads."""
    unknown = drawn.share(0.0) is None and drawn.duty_fraction is None and not any(b.fixed for b in drawn.burners)
    return unknown and not any(e.has_loads for e in drawn.engines)


def _headline(drawn: Draw) -> Setting:
    return "thermostat" if any(e.has_loads for e in drawn.engines) else "high"


def _flow(fuel: str, kg_per_s: float) -> tuple[float, str]:
    """A flow of fuel as it is spoken of: liquids by the litre."""
    litres = _litres_per_kg(fuel)
    return told_flow(fuel, kg_per_s) if litres is None else (kg_per_s * litres / 1000, "liquid_flow")


def amount_of(fuel: str, kg: float) -> tuple[float, str]:
    """Return an amount of fuel as it is bought, with its kind: liquids by the litre.

    Arguments: fuel; kg.
    Source: common practice.
    """
    litres = _litres_per_kg(fuel)
    return told_amount(fuel, kg) if litres is None else (kg * litres / 1000, "liquid_volume")


def _litres_per_kg(fuel: str) -> float | None:
    density = fuel_of(fuel).liquid_kg_per_l
    return 1 / density if source_of(fuel) == "tank" and density else None


def change_at(assessment: Assessment, after_s: float, inputs: Sequence[tuple[str, float | str, str]]) -> None:
    """Set when a supply is changed, after the start of the hours ahead, into the assessment.

    Arguments: assessment (added to); after_s; inputs of the figure.
    Source: `plant.night` for cylinders, else the energy balance.
    """
    assessment.add(
        figure(
            key="supply.change_at_s",
            name="Change-over, after the start of the night",
            value=after_s,
            kind="duration",
            formula="when what may be used is used, by thermostat and loads, or when the gas fails before",
            inputs=list(inputs),
            source="one draw, quarter hour by quarter hour",
        )
    )
