"""Tables to hand over: visits, readings, commissioning, joints, vessels, material; numbers as numbers, the unit in the heading."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field

from ..commissioning.leak_test import JointState
from ..document import specs
from ..figures.dialects import English, worded
from ..figures.numerics import rounded
from ..running.entries import counted, label, of_kind
from ..running.kinds import Entry, Weight, seconds
from ..supply.assess import SupplyPlan
from ..supply.tree.joints import Joint
from . import log_sheet
from .bill import Row
from .history import history, readings
from .standing import RunStands
from .viewer import Viewer


@dataclass(frozen=True)
class Moment:
    """A moment (s since 1970), which whoever writes the table writes by the viewer's clock."""

    at_s: float


Cell = str | float | int | bool | None | Moment


@dataclass(frozen=True)
class Sheet:
    """One table: its name, its headings, its rows; `chart` names the columns that are drawn over the first one, from 0."""

    name: str
    heads: tuple[str, ...]
    rows: list[tuple[Cell, ...]] = field(default_factory=list)
    chart: tuple[int, ...] = ()


def in_english(sheet: Sheet, english: English) -> Sheet:
    """Return a table with the terms of its words said in one English.

    Arguments: sheet; english.
    """
    rows = [tuple(worded(c, english) if isinstance(c, str) else c for c in row) for row in sheet.rows]
    return Sheet(worded(sheet.name, english), tuple(worded(h, english) for h in sheet.heads), rows, sheet.chart)


def number(value: float, kind: str, viewer: Viewer) -> float:
    """Return a value as a number in the viewer's unit.

    Arguments: value (SI), kind, viewer.
    Source: `quantities`.
    """
    unit = viewer.unit(kind)
    return rounded((value - unit.offset) / unit.factor, 10)


def headed(name: str, kind: str, viewer: Viewer) -> str:
    """Return a heading with the unit of its numbers.

    Source: ISO 80000-1 for a unit in brackets beside what it measures.
    """
    symbol = viewer.unit(kind).symbol
    return f"{name} ({symbol})" if symbol else name


def _value_kind(entry: Entry) -> str:
    declared = specs(type(entry))
    return declared["value"].kind if "value" in declared and entry.reading is not None else ""


def visits(entries: Iterable[Entry], names: Mapping[str, str], viewer: Viewer) -> Sheet:
    """Return one row a visit, a column each thing read, and all vessels on the scale together as a chart.

    Arguments: entries, all ever made; names of machines and supplies; viewer.
    Source: the log.
    """
    stops = log_sheet.stops(counted(entries))
    found: dict[tuple[str, str], None] = {}
    for e in (e for stop in stops for e in stop if _value_kind(e)):
        found.setdefault((log_sheet.named(e, dict(names)), _value_kind(e)))
    columns = list(found)
    rows: list[tuple[Cell, ...]] = []
    for stop in stops:
        values: dict[tuple[str, str], Cell] = {}
        words = []
        for e in stop:
            kind = _value_kind(e)
            if kind:
                values[log_sheet.named(e, dict(names)), kind] = number(float(e.reading or 0.0), kind, viewer)
            else:
                words.append(f"{label(e)}: {log_sheet.value_of(e, viewer)}".rstrip(": "))
            if e.remark:
                words.append(e.remark)
        by = next((e.by for e in stop if e.by), "")
        rows.append((Moment(stop[0].at_s), by, *(values.get(c) for c in columns), "; ".join(dict.fromkeys(words))))
    heads = ("At", "By", *(headed(n, k, viewer) for n, k in columns), "What was seen")
    drawn = tuple(n + 2 for n, (_, kind) in enumerate(columns) if kind == "mass")
    return Sheet("Visits", heads, rows, drawn or ((2,) if columns else ()))


def log(entries: Iterable[Entry], names: Mapping[str, str], viewer: Viewer) -> Sheet:
    """Return every entry ever made, a row each, its value under the heading of its quantity; what counts no more says so.

    Arguments: entries; names; viewer.
    Source: the log.
    """
    kept = sorted((e for e in entries if e.LOGGED), key=lambda e: (e.at_s, e.id))
    counts = {e.id for e in counted(kept)}
    kinds = list(dict.fromkeys(k for e in kept if (k := _value_kind(e))))
    rows: list[tuple[Cell, ...]] = []
    for e in kept:
        kind = _value_kind(e)
        values = [number(float(e.reading or 0.0), kind, viewer) if k == kind else None for k in kinds]
        said = "" if kind else log_sheet.value_of(e, viewer)
        rows.append(
            (
                Moment(e.at_s),
                label(e),
                names.get(e.subject, ""),
                *values,
                said,
                e.as_typed,
                e.by,
                e.instrument.name if e.instrument else "",
                e.source or "typed",
                "yes" if e.id in counts else "no: corrected or undone",
                e.remark,
            )
        )
    heads = ("At", "What", "Of", *(headed(k.replace("_", " ").capitalize(), k, viewer) for k in kinds))
    return Sheet("Readings", (*heads, "Seen", "As typed", "By", "Read by", "Taken", "Counts", "Remark"), rows)


def commissioning(runs: Iterable[RunStands], viewer: Viewer) -> Sheet:
    """Return the last readings of commissioning beside their limits, numbers in a column each quantity.

    Arguments: runs; viewer.
    """
    last_readings = [h for r in runs for h in readings(r.record.procedure, r.now.state, viewer)]
    kinds = list(dict.fromkeys(h.kind for h in last_readings))
    rows: list[tuple[Cell, ...]] = []
    for h in last_readings:
        ends = [None if v is None else number(v, h.kind, viewer) for v in (h.low, h.high)]
        values = [number(h.value, h.kind, viewer) if k == h.kind else None for k in kinds]
        rows.append((h.unit, h.title, *values, *ends, viewer.unit(h.kind).symbol, "no" if h.out else "yes"))
    heads = (headed(k.replace("_", " ").capitalize(), k, viewer) for k in kinds)
    return Sheet("Commissioning", ("Machine", "Reading", *heads, "At least", "At most", "Limits in", "Within"), rows)


def record(runs: Iterable[RunStands], viewer: Viewer) -> Sheet:
    """Return everything recorded in commissioning, a row each, in its order.

    Arguments: runs; viewer.
    """
    rows: list[tuple[Cell, ...]] = []
    for r in runs:
        procedure = r.record.procedure
        for d in history(procedure, r.record.events, viewer):
            rows.append((procedure.unit_name, d.at, d.by, d.came.what, d.came.came, d.came.allowed, d.came.finding))
    return Sheet("Record", ("Machine", "At", "By", "What", "Result", "Allowed", "Finding"), rows)


# The port at a machine's inlet: the register of the path knows it by its part, the machine's own procedure by this id.
PORT, OWN_PORT = "port:", "port"


def joints(supplies: Iterable[SupplyPlan], runs: Sequence[RunStands]) -> Sheet:
    """Return the joint register: every joint of the path and of the machines, how it is made, and its last test in any run.

    Arguments: supplies of the plan; runs, oldest first.
    """
    tested: dict[tuple[str, str], JointState] = {}
    units: dict[str, str] = {}
    for r in runs:
        procedure = r.record.procedure
        units[procedure.unit] = procedure.unit_name
        own = {j.id for j in procedure.joints if not j.node and not j.id.startswith("coupling-")}
        for joint in r.now.state.all_joints:
            id = joint.joint.id
            key = (procedure.unit if id in own else "", id)
            if joint.at or key not in tested:
                tested[key] = joint
    rows: list[tuple[Cell, ...]] = []
    for s in supplies:
        machines = {n.id: str(n.values.get("machine", "")) for n in s.path}
        for j in s.assessment.table(Joint):
            key = (machines.get(j.id.removeprefix(PORT), ""), OWN_PORT) if j.id.startswith(PORT) else ("", j.id)
            rows.append((s.name or s.id, j.name, j.sort, j.seal, j.tool, *_tested(tested.pop(key, None))))
    for (unit, _), joint in tested.items():
        rows.append((units.get(unit, "no longer on the path"), joint.joint.name, "", "", "", *_tested(joint)))
    heads = ("Of", "Joint", "Made as", "Sealant", "Tool", "State", "Tested with", "By", "Tested at")
    return Sheet("Joints", heads, rows)


def _tested(j: JointState | None) -> tuple[Cell, ...]:
    if j is None:
        return ("not tested", "", "", None)
    return (j.status.replace("_", " "), (j.method or "").replace("_", " "), j.by, Moment(seconds(j.at)) if j.at else None)


def vessels(entries: Iterable[Entry], names: Mapping[str, str], viewer: Viewer) -> Sheet:
    """Return each weighing of a vessel that counts, a row each.

    Arguments: entries, all ever made; names; viewer.
    Source: the log.
    """
    rows: list[tuple[Cell, ...]] = [
        (
            Moment(e.at_s),
            names.get(e.subject, ""),
            e.vessel,
            number(e.value, "mass", viewer),
            e.as_typed,
            e.by,
            e.remark,
        )
        for e in of_kind(counted(entries), Weight)
    ]
    return Sheet("Cylinders", ("At", "Supply", "Cylinder", headed("Gross", "mass", viewer), "As typed", "By", "Remark"), rows, (3,))


def material(bill: Iterable[Row], viewer: Viewer) -> Sheet:
    """Return the bill of material.

    Arguments: bill; viewer.
    Source: `commissioning.bill`.
    """
    rows: list[tuple[Cell, ...]] = []
    for r in bill:
        long = None if r.length_m is None else number(r.length_m, "length", viewer)
        rows.append((r.group, r.what, r.size, r.count, long, r.where))
    return Sheet("Material", ("Group", "What", "Size", "Count", headed("Length", "length", viewer), "Where"), rows)
