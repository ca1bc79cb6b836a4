"""A commissioning procedure: shipped as data, built for one machine, sealed into the run that begins by it."""

from __future__ import annotations

import json
import tomllib
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any

from .. import document
from ..catalogue.sheets import Generator
from ..document import flag, many, text, whole
from ..errors import Fault, JobFaults
from ..path import PathNode
from ..placed import Machine
from ..supply.tree.joints import Joint
from ..verdicts import Quantity
from . import steps
from .limits import limits_for
from .steps.base import Site, Step

FOLDER = "commissioning/procedures"


@dataclass(frozen=True)
class Procedure:
    """The steps and joints for one machine, which procedure that is, and a digest of it all.

    With `only_changed` it holds just what a change of the job after a sign-off made stale.
    """

    key: str = text("Key", 80)
    version: int = whole(1, 10_000, "Version", default=1, needed=True)
    title: str = text("Title", 200)
    school: str = text("School", 200)
    unit: str = text("Machine", 40)
    unit_name: str = text("Name", 200)
    steps: tuple[Step, ...] = many(steps.kinds(), "Steps", 400)
    joints: tuple[Joint, ...] = many(Joint, "Joints", 2000)
    only_changed: bool | None = flag("Only what changed")

    def step(self, id: str) -> Step | None:
        """Return a step by its id, None where there is none.

        Source: common practice.
        """
        return next((s for s in self.steps if s.id == id), None)

    @property
    def digest(self) -> str:
        """SHA-256 of its plain data, by which a copy shows that it was not changed."""
        return _digest(document.write(self))

    def to_json(self) -> dict[str, Any]:
        """Return the procedure as plain data with its digest, as a run is sealed with it.

        Source: common practice.
        """
        made: dict[str, Any] = document.write(self)
        return {**made, "digest": _digest(made)}


def _digest(data: dict[str, Any]) -> str:
    # Only a run begun or opened needs it: most plans are made without.
    from hashlib import sha256

    whole_text = json.dumps(data, ensure_ascii=False, sort_keys=True, separators=(",", ":"))
    return sha256(whole_text.encode()).hexdigest()


def unsealed(data: Any, path: str = "procedure") -> Procedure:
    """Return the procedure a run was sealed with.

    Arguments: data, as `Procedure.to_json` gives it; path, for faults. Its digest must be its own.
    Errors: JobFaults with what is wrong of it; a copy that was changed is named at its digest.
    Source: common practice.
    """
    if not isinstance(data, dict):
        raise JobFaults([Fault(path, "must be an object")])
    faults: list[Fault] = []
    given = {k: v for k, v in data.items() if k != "digest"}
    made: Procedure = document.read(Procedure, given, path, faults)
    if not faults and data.get("digest") != _digest(_as_given(document.write(made), given)):
        faults.append(Fault(f"{path}.digest", "is not that of the procedure: it was changed after the run began"))
    known = {s.id for s in made.steps}
    faults += [
        Fault(f"{path}.steps[{n}].needs", f"{need!r} is no step of this procedure")
        for n, s in enumerate(made.steps)
        for need in s.needs
        if need not in known
    ]
    if faults:
        raise JobFaults(faults)
    return made


def _as_given(written: Any, given: Any) -> Any:
    """What was written of just the fields that were given: one sealed before a field came to be has its digest without it."""
    if isinstance(written, dict):
        return {k: _as_given(v, given[k]) for k, v in written.items() if k in given}
    if isinstance(written, list):
        return [_as_given(w, g) for w, g in zip(written, given, strict=True)]
    return written


@cache
def shipped() -> dict[str, dict[str, Any]]:
    """Return the shipped procedures by key, shared groups of steps put in their places.

    Source: procedures/*.toml, procedures/groups/*.toml.
    """
    folder = files("ofen").joinpath(FOLDER)
    found = {f.name: f for f in folder.iterdir() if f.name.endswith(".toml")}
    made = {n.removesuffix(".toml"): tomllib.loads(f.read_text(encoding="utf-8")) for n, f in found.items()}
    return {key: p | {"step": [s for entry in p["step"] for s in _included(entry)]} for key, p in sorted(made.items())}


def _included(entry: dict[str, Any]) -> list[dict[str, Any]]:
    if "include" not in entry:
        return [entry]
    group = files("ofen").joinpath(f"{FOLDER}/groups/{entry['include']}.toml")
    found: list[dict[str, Any]] = tomllib.loads(group.read_text(encoding="utf-8"))["step"]
    return found


def key_for(machine: Machine) -> str | None:
    """Return the key of the procedure for a machine on the fuel it burns now, None where there is none.

    Arguments: machine.
    Source: the procedures' own heads.
    """
    sheet = machine.sheet
    if sheet is None:
        return None
    own = sheet.generator_class if isinstance(sheet, Generator) else sheet.heater_class
    return next((k for k, p in shipped().items() if own in p["classes"] and machine.fuel in p["fuels"]), None)


def build(key: str, machine: Machine, path: list[PathNode], joints: tuple[Joint, ...]) -> Procedure:
    """Return the procedure for one machine of a plan.

    Arguments: key from `key_for`; machine; path of the plan; joints on its way.
    Errors: JobFaults where a shipped file is broken.
    Source: procedures/*.toml; limits from the plan and the data sheet.
    """
    inlet = next((n for n in path if n.kind == "appliance" and n.values.get("machine") == machine.id), None)
    site = Site(limits_for(machine, inlet.running_in_pa if inlet else None, inlet.standing_in_pa if inlet else None), joints)
    file = shipped()[key]
    faults: list[Fault] = []
    made = tuple(_step(entry, site, f"{key}.{entry['id']}", faults) for entry in file["step"])
    if faults:
        raise JobFaults(faults)
    return Procedure(key, file["version"], file["title"], file.get("school", ""), machine.id, machine.name, made, joints)


_READ: dict[str, tuple[dict[str, Any], Step]] = {}


def _step(entry: dict[str, Any], site: Site, path: str, faults: list[Fault]) -> Step:
    kind = steps.kinds()[entry["kind"]]
    built = kind.built(entry, site)
    # Most steps take nothing from the plan, or the same as last time: they are read once.
    last = _READ.get(path)
    if last is not None and built == last[0]:
        return last[1]
    known = len(faults)
    made: Step = document.read(kind, built, path, faults)
    if len(faults) == known:
        _READ[path] = (built, made)
    return made


def changes(began_by: Procedure, now: Procedure | None) -> Iterator[tuple[str, str, str, Mapping[str, Quantity]]]:
    """Give what the plan asks otherwise now than when a run began, as (subject, name, words, values).

    Arguments: began_by, the procedure the run is sealed with; now, the one of the job's newest state. Steps that came or went
    with a newer shipped procedure are no change of the plan; a run of only what changed answers for no more than its own joints.
    Source: common practice.
    """
    if now is None:
        yield "plan", "Plan", "The job as it is now has no procedure for this machine.", {}
        return
    for step in began_by.steps:
        other = now.step(step.id)
        found = step.changed(other) if other is not None and type(other) is type(step) else None
        if found:
            yield step.id, step.title, found.say, found.values
    before, after = {j.id: j for j in began_by.joints}, {j.id: j for j in now.joints}
    for id, joint in (after | before).items():
        if id not in before:
            if not began_by.only_changed:
                yield id, joint.name, "This joint came to the path after the run began.", {}
        elif id not in after:
            yield id, joint.name, "This joint went from the path after the run began.", {}
        elif before[id].between and after[id].between != before[id].between:
            yield id, joint.name, "What meets at this joint was changed after the run began.", {}
