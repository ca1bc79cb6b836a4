"""The pages of the docs that show every procedure, made from the files themselves."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from ..figures.dialects import worded
from . import steps
from .clock import spoken
from .sequence import LOOSE
from .shipped import PURPOSES, Definition, filled, shipped


def all_pages() -> dict[str, str]:
    """Return every page by its file name, the index first.

    Source: the procedures' files.
    """
    found = {f"{d.key}.md": page(d) for d in shipped().values()}
    return {name: worded(text, "british") for name, text in {"README.md": index(), **found}.items()}


def index() -> str:
    """Return the page that lists the others.

    Source: the procedures' files.
    """
    lines = ["# Procedures", "", "Made by `python -m ofen procedures --pages docs/procedures` from the files of the core.", ""]
    for purpose, words in PURPOSES.items():
        lines += [f"## To {words}", ""]
        lines += [
            f"- [{d.title}]({d.key}.md)" + (f": {d.school}" if d.school else "") for d in shipped().values() if d.purpose == purpose
        ]
        lines.append("")
    return "\n".join(lines).rstrip() + "\n"


def page(definition: Definition) -> str:
    """Return the page of one procedure.

    Arguments: definition.
    Source: the procedures' files.
    """
    classes, fuels = (", ".join(w.replace("_", " ") for w in words) for words in (definition.classes, definition.fuels))
    lines = [f"# {definition.title}", "", f"To {PURPOSES[definition.purpose]}. Classes: {classes}. Fuels: {fuels}."]
    lines += [f"School: {definition.school}."] if definition.school else []
    lines += [f"Only where {_when(definition.when)}."] if definition.when else []
    lines += [
        "",
        "The maker's instructions, local code and licensed practice go first. `{…}` is taken from the unit and the plan.",
        "",
    ]
    for n, step in enumerate(definition.steps, 1):
        lines += [*_step(n, step), ""]
    return "\n".join(lines).rstrip() + "\n"


def _step(number: int, step: dict[str, Any]) -> Iterator[str]:
    yield f"## {number}. {filled(step['title'], step)}"
    yield ""
    asks = " · ".join([steps.kinds()[step["kind"]].WORD, *_times(step)])
    yield f"*{asks}*" + (f" Only where {_when(step['when'])}." if step.get("when") else "")
    yield ""
    yield filled(step["say"], step)
    if step.get("caution"):
        yield ""
        yield f"> **Caution.** {filled(step['caution'], step)}"
    needs = [*step.get("needs", ()), *step.get(LOOSE, ())]
    if needs:
        yield ""
        yield f"After: {', '.join(f'`{n}`' for n in needs)}."


def _times(step: dict[str, Any]) -> Iterator[str]:
    if step.get("floor_s"):
        yield f"at least {spoken(step['floor_s'])}"
    ceiling = step.get("ceiling_s", step.get("try_ceiling_s"))
    if ceiling:
        yield f"at most {spoken(ceiling)}"
    if step["kind"] == "tries":
        yield f"{step['tries']} tries, then {spoken(step['rest_s'])} rest"
    if isinstance(step.get("limit"), dict):
        yield " to ".join(str(step["limit"][n]) for n in ("low", "high") if n in step["limit"])
    elif step.get("limit"):
        yield f"limits `{step['limit']}` of the plan"
    if step.get("dormant"):
        yield "only where called for"
    if step.get("lockout"):
        yield "lock-out"
    if step.get("may_skip"):
        yield "may be skipped with a reason"


def _when(when: Any) -> str:
    def words(value: Any) -> str:
        return " or ".join(value if isinstance(value, list) else [value]).replace("_", " ")

    return ", ".join(f"{fact.replace('_', ' ')} is {words(value)}" for fact, value in when.items())
