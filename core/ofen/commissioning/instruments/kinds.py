"""The kinds of instruments of the trade, and for which classes of machine a reading must come from one that is in order."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any, ClassVar, NamedTuple

from ...tables.classes import counts_as

TABLE = "instruments_common_practice.toml"
# What is tried of an instrument before it is trusted, as it is asked for and as it is done.
CHECKS = {
    "zero": ("zeroed", "It shows zero with nothing applied"),
    "bump": ("bump-tested", "It alarms with test gas"),
    "emissivity": ("set for the surface", "Its emissivity suits the surface, and shiny metal is painted or taped"),
}


class Trial(NamedTuple):
    """What is tried of a kind of instrument: how it reads once done, how it is done, for how long (s) it counts."""

    check: str
    says: str
    how: str
    counts_s: float


@dataclass(frozen=True)
class InstrumentKind:
    """One kind: what it reads, for how long (s) each trial of it counts, how long its calibration holds, its usual error."""

    MEMBERS: ClassVar = ("key", "name", "reads", "checks", "calibration_months", "error_fraction")

    key: str
    name: str
    reads: tuple[str, ...]
    checks_s: Mapping[str, float]
    calibration_months: int
    error_fraction: float

    @property
    def checks(self) -> tuple[Trial, ...]:
        """What is tried of it before it is trusted."""
        return tuple(Trial(c, *CHECKS[c], lasts) for c, lasts in self.checks_s.items())


@cache
def _table() -> dict[str, Any]:
    found: dict[str, Any] = tomllib.loads(files("ofen").joinpath("tables", TABLE).read_text(encoding="utf-8"))
    return found


@cache
def kinds() -> dict[str, InstrumentKind]:
    """Return every kind of instrument by its key.

    Source: tables/instruments_common_practice.toml.
    """
    return {
        k["key"]: InstrumentKind(
            k["key"],
            k["name"],
            tuple(k["reads"]),
            {check: hours * 3600.0 for check, hours in k["checks"].items()},
            k["calibration_months"],
            k["error_fraction"],
        )
        for k in _table()["kind"]
    }


@cache
def asked_of(machine_class: str) -> frozenset[str]:
    """Return the quantities that a class wants read by an instrument in order.

    Arguments: machine_class, of a heater or a generator.
    Source: tables/instruments_common_practice.toml.
    """
    return frozenset(q for row in _table()["asked"] if counts_as(machine_class, row["classes"]) for q in row["quantities"])


def read_by(quantity: str) -> list[str]:
    """Return the kinds of instrument that read a quantity.

    Arguments: quantity, its kind.
    Source: tables/instruments_common_practice.toml.
    """
    return [k.key for k in kinds().values() if quantity in k.reads]
