"""A commissioning procedure: shipped as data, built for one machine, sealed into the run that begins by it."""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, ClassVar

from .. import document
from ..document import flag, many, number, one, text, texts, whole
from ..document.sheets import PIPED, Heater
from ..figures.errors import Fault, JobFaults
from ..figures.quantities import Quantity, parse
from ..plant.placed import Machine
from ..supply.tree.joints import MOST_BEHIND, MOST_JOINTS, Joint, is_of_a_manifold
from . import steps
from .checked import NAMED, WORDED
from .facts import is_so
from .held import Stretch, with_own
from .sequence import LOOSE, leak_checks, switched
from .shipped import COMMISSION, Definition, limit_in, of_class
from .steps.base import Site, Step
from .switches import Switch, own
from .unit import Unit

# What a machine may be moved by, or its sheet be put right by, without being another one.
MOVED_M, SHEET_SHARE = 0.5, 0.02


@dataclass(frozen=True, kw_only=True)
class Identity:
    """Which machine it is and where it stands, as far as that is known: what a sign-off is a sign-off of."""

    model: str = text("Model", 80)
    serial: str = text("Serial number", 60)
    fuel: str = text("Burns", 40)
    inlet: str = text("Place on the fuel path", 60)
    sheet_w: float | None = number("heat_flow", 0, 1e9, "Fuel on high by its data sheet")
    position: str = text("Stands", 40)
    wall: str = text("Nearest wall", 40)
    wall_m: float | None = number("length", -1000, 1000, "Distance from the wall")
    along_m: float | None = number("length", -1000, 1000, "Distance along the wall")

    def apart(self, now: Identity) -> list[str]:
        """Return what of it is another now, in words; what is not known on either side is no difference.

        Arguments: now, of the same machine by the job as it is.
        """
        words = {"model": "model", "serial": "serial number", "fuel": "fuel", "inlet": "place on the fuel path"}
        differing = [w for n, w in words.items() if getattr(self, n) and getattr(now, n) and getattr(self, n) != getattr(now, n)]
        if self.sheet_w and now.sheet_w and abs(now.sheet_w / self.sheet_w - 1) > SHEET_SHARE:
            differing.append("figures of its sheet")
        stood = [n for n in ("position", "wall") if getattr(self, n) and getattr(now, n) and getattr(self, n) != getattr(now, n)]
        pairs = [(self.wall_m, now.wall_m), (self.along_m, now.along_m)]
        if stood or any(a is not None and b is not None and abs(a - b) > MOVED_M for a, b in pairs):
            differing.append("place")
        return differing


def identity_of(machine: Machine) -> Identity:
    """Return which machine it is and where it stands.

    Arguments: machine.
    Source: the job; its data sheet.
    """
    place, sheet = machine.place, machine.sheet
    taken = None
    if isinstance(sheet, Heater):
        taken = burns.input_w if (burns := sheet.on(machine.fuel)) else None
    elif sheet is not None:
        taken = row.full_load_fuel_w if (row := sheet.on(machine.fuel)) else None
    return Identity(
        model=machine.unit.model,
        serial=machine.unit.serial,
        fuel=machine.fuel,
        inlet=machine.inlets[0][1] if machine.inlets else "",
        sheet_w=taken,
        position=place.position or "",
        wall=place.wall or "",
        wall_m=place.wall_m,
        along_m=place.along_m,
    )


@dataclass(frozen=True, kw_only=True)
class Procedure:
    """The steps and joints for one machine, which procedure that is, and a digest of it all.

    With `only_changed` it holds just what a change of the job after a sign-off made stale.
    """

    key: str = text("Key", 80)
    version: int = whole(1, 10_000, "Version", default=1, needed=True)
    title: str = text("Title", 200)
    purpose: str = text("Purpose", 40, default=COMMISSION)
    school: str = text("School", 200)
    unit: str = text("Machine", 40)
    unit_name: str = text("Name", 200)
    steps: tuple[Step, ...] = many(steps.kinds(), "Steps", 400)
    joints: tuple[Joint, ...] = many(Joint, "Joints", MOST_JOINTS)
    switches: tuple[Switch, ...] = many(Switch, "What can be open, lit or on", MOST_BEHIND)
    way: tuple[Stretch, ...] = many(Stretch, "Stretches of its way", MOST_BEHIND)
    begins_on: tuple[str, ...] = texts("On at its beginning", MOST_BEHIND)
    only_changed: bool | None = flag("Only what changed")
    of: Identity = one(Identity, "Machine as it is")

    def step(self, id: str) -> Step | None:
        """Return a step by its id, None where there is none."""
        return next((s for s in self.steps if s.id == id), None)

    @property
    def digest(self) -> str:
        """SHA-256 of its plain data, by which a copy shows that it was not changed."""
        return _digest(document.write(self))

    @property
    def sealed(self) -> SealedProcedure:
        """The procedure with its digest, as a run is sealed with it."""
        return SealedProcedure(self)


@dataclass(frozen=True)
class SealedProcedure:
    """A procedure for one machine, with the digest that seals it."""

    MEMBERS: ClassVar = ("procedure.*", ("digest", "procedure.digest"))

    procedure: Procedure

    @classmethod
    def from_json(cls, data: object, path: str) -> SealedProcedure:
        """Return what was sealed; JobFaults as at `unsealed`."""
        return cls(unsealed(data, path))


def _digest(data: dict[str, Any]) -> str:
    # Only a run begun or opened needs it: most plans are made without.
    from hashlib import sha256

    whole_text = json.dumps(data, ensure_ascii=False, sort_keys=True, separators=(",", ":"))
    return sha256(whole_text.encode()).hexdigest()


def unsealed(data: object, path: str = "procedure") -> Procedure:
    """Return the procedure a run was sealed with.

    Arguments: data, as `Procedure.sealed` is written; path, for faults. Its digest must be its own.
    Errors: JobFaults with what is wrong of it; a copy that was changed is named at its digest.
    """
    if not isinstance(data, dict):
        raise JobFaults([Fault(path, "must be an object")])
    faults: list[Fault] = []
    given = {k: v for k, v in data.items() if k != "digest"}
    procedure: Procedure = document.read(Procedure, given, path, faults)
    if not faults and data.get("digest") != _digest(_as_given(document.write(procedure), given)):
        faults.append(Fault(f"{path}.digest", "is not that of the procedure: it was changed after the run began"))
    known = {s.id for s in procedure.steps}
    faults += [
        Fault(f"{path}.steps[{n}].needs", f"{need!r} is no step of this procedure")
        for n, s in enumerate(procedure.steps)
        for need in s.needs
        if need not in known
    ]
    if faults:
        raise JobFaults(faults)
    return procedure


def _as_given(written: Any, given: Any) -> Any:
    """What was written of just the fields that were given: one sealed before a field came to be has its digest without it."""
    if isinstance(written, dict):
        return {k: _as_given(v, given[k]) for k, v in written.items() if k in given}
    if isinstance(written, list) and isinstance(given, list):
        return [_as_given(w, g) for w, g in zip(written, given, strict=True)]
    return written


def offered(unit: Unit) -> list[Definition]:
    """Return the procedures that there are for a unit as it is: the one to commission it first, the cautious school first.

    Arguments: unit.
    Source: the procedures' own heads.
    """
    return [d for d in of_class(unit.facts["class"]) if d.fits(unit.facts)]


def build(definition: Definition, unit: Unit) -> Procedure:
    """Return a procedure for one unit.

    Arguments: definition, one of `offered`; unit.
    Errors: JobFaults where a shipped file is broken.
    Source: the procedure's file; limits and figures from the plan and the data sheet.
    """
    faults: list[Fault] = []
    has = [s.id for s in unit.switches]
    brought = tuple(document.read(Joint, with_own(j, has), f"{definition.key}.joint", faults) for j in definition.joints)
    joints = (*unit.site.joints, *brought)
    entries = [s for s in definition.steps if is_so(s.get("when", {}), unit.facts)]
    used = _instruments(entries, unit.machine.fuel)
    figures = {**unit.site.figures, **({"instruments": used} if used else {})}
    entries = [s for s in entries if s.get("where_named", "name") in figures]
    bounds = definition.bounds
    tests = leak_checks(entries, joints, has, bounds)
    site = replace(unit.site, joints=joints, figures=figures, tests=tests)
    entries = [s | turns if (turns := switched(s, has)) else s for s in entries]
    here = {s["id"] for s in entries}
    made = tuple(_step(entry, site, here, f"{definition.key}.{entry['id']}", faults) for entry in entries)
    if faults:
        raise JobFaults(faults)
    tested = {j for s in made for j in getattr(s, "joints", ())}
    return Procedure(
        key=definition.key,
        version=definition.version,
        title=definition.title,
        purpose=definition.purpose,
        school=definition.school,
        unit=unit.machine.id,
        unit_name=unit.machine.name,
        steps=made,
        joints=tuple(j for j in joints if j.id in tested),
        switches=unit.switches,
        way=unit.way,
        begins_on=own(bounds.begins_on, has),
        of=identity_of(unit.machine),
    )


# What is done with an instrument before the work, by what it reads.
MANOMETER, DETECTOR, MULTIMETER = "manometer zeroed", "gas detector bump-tested", "multimeter checked on a known source"
READIES = {
    "temperature": "thermometer's emissivity set (bright metal reads low)",
    "share_ppm": "CO meter zeroed in fresh air",
    "voltage": MULTIMETER,
    "mass": "scale at nought",
}


def _instruments(entries: Sequence[Mapping[str, Any]], fuel: str) -> str:
    """The instruments that the steps of a run take their readings with, each made ready; none where none is used."""
    asked = []
    for s in entries:
        quantity, piped = str(s.get("quantity", "")), fuel in PIPED
        asked += [READIES[quantity]] if quantity in READIES else []
        asked += [MULTIMETER] if s["kind"] == "electrical" else []
        asked += [MANOMETER] if piped and (quantity == "gas_pressure" or s["kind"] == "pressure_test") else []
        asked += [DETECTOR] if piped and s["kind"] == "test" and "detector" in s.get("say", "") else []
    sentence = "; ".join(dict.fromkeys(asked))
    return sentence[:1].upper() + sentence[1:]


_READ: dict[str, tuple[dict[str, Any], Step]] = {}
ON_ITS_SHEET = "what its data sheet says"
NOT_OF_THE_STEP = ("when", "where_named", "figures", LOOSE)


def _step(entry: dict[str, Any], site: Site, here: set[str], path: str, faults: list[Fault]) -> Step:
    kind = steps.kinds()[entry["kind"]]
    plain = {k: v for k, v in entry.items() if k not in NOT_OF_THE_STEP}
    plain["needs"] = [n for n in (*entry.get("needs", ()), *entry.get(LOOSE, ())) if n in here]
    if "limit" in plain and "quantity" in plain:
        plain["limit"] = limit_in(plain["limit"], plain["quantity"])
    built = kind.built(plain, site)
    built["says"] = _says(entry, site)
    # Most steps take nothing from the plan, or the same as last time: they are read once.
    last = _READ.get(path)
    if last is not None and built == last[0]:
        return last[1]
    known = len(faults)
    made: Step = document.read(kind, built, path, faults)
    if len(faults) == known:
        _READ[path] = (built, made)
    return made


def _says(entry: dict[str, Any], site: Site) -> list[dict[str, Any]]:
    """The values that the words of a step name: its own figures, else those of the unit, else that its sheet says."""
    own = entry.get("figures", {})
    says = []
    for name in dict.fromkeys(n for w in WORDED for n in NAMED.findall(entry.get(w, ""))):
        if name in own:
            text_, kind = own[name]
            says.append({"name": name, "value": parse(text_, kind), "kind": kind})
        elif name in site.figures:
            value = site.figures[name]
            says.append(
                {"name": name, "word": value} if isinstance(value, str) else {"name": name, "value": value[0], "kind": value[1]}
            )
        else:
            says.append({"name": name, "word": ON_ITS_SHEET})
    return says


MACHINE = "machine"


def _another(began_by: Procedure, now: Procedure) -> list[str]:
    """What of the machine is another; one sealed before that was kept has only its name to go by."""
    if not began_by.of.model:
        return ["model"] if began_by.unit_name and began_by.unit_name != now.unit_name else []
    return began_by.of.apart(now.of)


def changes(began_by: Procedure, now: Procedure | None) -> Iterator[tuple[str, str, str, Mapping[str, Quantity]]]:
    """Give what the plan asks otherwise now than when a run began, as (subject, name, words, values).

    Arguments: began_by, the procedure the run is sealed with; now, the one of the job's newest state. Steps and plugs that
    came or went with a newer shipped procedure are no change of the plan; a run of only what changed answers for no more than its own joints.
    """
    if now is None:
        yield "plan", "Plan", "The job now has no procedure for this machine.", {}
        return
    if apart := _another(began_by, now):
        yield (
            MACHINE,
            now.unit_name,
            "This is not the machine that was tested: its {what} differs. Commission it.",
            {"what": ", ".join(apart)},
        )
    for step in began_by.steps:
        other = now.step(step.id)
        change = step.changed(other) if other is not None and type(other) is type(step) else None
        if change:
            yield step.id, step.title, change.say, change.values
    before, after = ({j.id: j for j in p.joints if j.is_of_the_path} for p in (began_by, now))
    for id, joint in (after | before).items():
        if id not in before:
            if not began_by.only_changed:
                yield id, joint.name, "This joint was added after the run started.", {}
        elif id not in after:
            # Runs of before name a manifold where one vessel has none: there was never more to test than its coupling.
            if is_of_a_manifold(id) and len([j for j in (*before, *after) if j.startswith("coupling-")]) == 2:
                continue
            yield id, joint.name, "This joint was removed after the run started.", {}
        elif before[id].between and after[id].between != before[id].between:
            yield id, joint.name, "The parts at this joint were changed after the run started.", {}
