"""Can this generator burn natural gas? Decided from how it is built, with what it takes and what it would cost."""

from __future__ import annotations

from dataclasses import dataclass

from ..document.job import GeneratorUnit, Job
from ..document.sheets import Generator
from ..figures.assessment import Assessment
from ..figures.figure import figure

# Petrol is one; natural gas gives about 20 % less, propane about 10 % (common practice).
SHARE_OF_PETROL = {"petrol": 1.0, "propane": 0.9, "natural_gas": 0.8}

WAYS = {
    "runs": "equipment.natural_gas.runs",
    "factory_switch": "equipment.natural_gas.switch",
    "factory_fitting": "equipment.natural_gas.fitting",
    "kit": "equipment.natural_gas.kit",
    "refused": "equipment.natural_gas.refused",
    "no_gas": "equipment.natural_gas.no_gas",
    "unknown": "equipment.natural_gas.unknown",
}


@dataclass(frozen=True)
class Decision:
    """Which way it is, and from what it was seen."""

    way: str
    seen: str

    @property
    def possible(self) -> bool:
        """Whether it burns natural gas, now or after a conversion."""
        return self.way in ("runs", "factory_switch", "factory_fitting", "kit")


def decide(generator: Generator, hose: str | None = None, inside: str | None = None) -> Decision:
    """Return whether a generator can burn natural gas.

    Arguments: generator; hose, what was found in it, "plain" or "demand"; inside, "straight" or "fixed"; what was found on
    the set goes before its data sheet.
    Source: common practice: a demand regulator in the hose, or a line straight to the carburettor, very likely with a
    kit; a demand regulator fixed inside, no; sets made for both gases, by a switch or by moving a fitting.
    """
    if inside == "fixed":
        return Decision("refused", "a demand regulator fixed inside, as found")
    if generator.gas_entry in ("factory_switch", "factory_fitting"):
        return Decision(
            "runs" if generator.gas_entry == "factory_switch" and generator.generator_class == "tri_fuel" else generator.gas_entry,
            "its data sheet",
        )
    if generator.on("natural_gas"):
        return Decision("runs", "its data sheet")
    if hose == "demand":
        return Decision("kit", "a demand regulator in the hose, as found")
    if inside == "straight":
        return Decision("kit", "a line straight to the carburettor, as found")
    if generator.gas_entry == "no_gas":
        return Decision("no_gas", "its data sheet")
    if generator.gas_entry == "fixed_inside":
        return Decision("refused", "a demand regulator fixed inside, by the data sheet")
    if generator.gas_entry == "hose_regulator":
        return Decision("kit", "a demand regulator in the hose, by the data sheet")
    if generator.gas_entry == "straight":
        return Decision("kit", "a line straight to the carburettor, by the data sheet")
    return Decision("unknown", "nothing seen yet")


def estimated_share(generator: Generator) -> tuple[str, float] | None:
    """Return the fuel its natural gas rating is estimated from and the share of that rating, None without one.

    Source: common practice: natural gas about 20 % below petrol, propane about 10 %.
    """
    rated = {r.fuel for r in generator.runs_on}
    base = next((f for f in ("petrol", "propane") if f in rated), None)
    return None if base is None else (base, SHARE_OF_PETROL["natural_gas"] / SHARE_OF_PETROL[base])


def assess(assessment: Assessment, job: Job, unit: GeneratorUnit, generator: Generator, at: str) -> Decision:
    """Judge into the Equipment assessment whether a chosen generator can burn natural gas, and what a kit costs against a tri-fuel set.

    Arguments: assessment (added to), job, unit, generator, at (its path).
    Source: `decide`.
    """
    decision = decide(generator, unit.hose, unit.inside)
    wanted = (unit.fuel or job.equipment.generator_fuel) == "natural_gas"
    code = "equipment.natural_gas.not_this_one" if wanted and decision.way in ("refused", "no_gas") else WAYS[decision.way]
    assessment.judge(code, unit.id, f"{at}.inside", name=generator.name, seen=decision.seen)
    equipment = job.equipment
    if decision.way == "kit" and equipment.kit_cost is not None and equipment.tri_fuel_cost is not None:
        saved = equipment.tri_fuel_cost - equipment.kit_cost
        assessment.add(
            figure(
                key=f"generator.{unit.id}.kit_saves",
                name=f"{generator.name}: saved by a kit, against a tri-fuel generator",
                value=saved,
                kind="money",
                formula="tri-fuel set − kit",
                inputs=[("tri-fuel set", equipment.tri_fuel_cost, "money"), ("kit, fittings, hose", equipment.kit_cost, "money")],
                source="prices as typed",
            )
        )
        assessment.judge(
            "equipment.natural_gas.kit_pays" if saved > 0 else "equipment.natural_gas.tri_fuel_pays",
            unit.id,
            "equipment.kit_cost",
            name=generator.name,
            found=(equipment.kit_cost, "money"),
            limit=(equipment.tri_fuel_cost, "money"),
        )
    return decision
