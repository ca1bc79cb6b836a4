"""The kinds of steps, one module a kind: its fields, its events, how they apply, its gates, its plain data.

A module here is known by being here; what it declares as STEP is a kind of step.
"""

from __future__ import annotations

from functools import cache
from importlib import import_module
from pkgutil import iter_modules

from .base import Event, State, Step


@cache
def kinds() -> dict[str, type[Step]]:
    """Return the kinds of steps by their word.

    Source: the modules of this folder.
    """
    modules = [import_module(f"{__name__}.{m.name}") for m in iter_modules(__path__) if m.name != "base"]
    return {m.STEP.KIND: m.STEP for m in sorted(modules, key=lambda m: str(m.STEP.KIND))}


def events() -> dict[str, type[Event]]:
    """Return what the kinds of steps record, by its word.

    Source: the modules of this folder.
    """
    return {e.KIND: e for k in kinds().values() for e in k.EVENTS}


def states() -> dict[str, type[State]]:
    """Return the state each kind of step has.

    Source: the modules of this folder.
    """
    return {k: c.STATE for k, c in kinds().items()}


def gates() -> dict[str, str]:
    """Return the gates that steps can hold open, with what each says.

    Source: the modules of this folder.
    """
    return {code: say for k in kinds().values() for code, say in k.GATES.items()}
