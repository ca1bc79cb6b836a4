"""The log for a report: a chart of each thing that was read often, one row a visit, and what was corrected."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType

from ..document import specs
from ..figures.numerics import total
from ..running.entries import E, counted, label, of_kind
from ..running.kinds import KINDS, ChangedOver, Delivered, Entry, Note, Undone, Weight
from ..running.log import Bounds
from .svg import Series
from .viewer import Viewer

FEWEST = 3
TOGETHER_S = 300.0
MOST_CHARTS = 16
# Vessels are drawn together; what is filled in or taken out is no reading of anything.
NO_SERIES = (Weight, Delivered, ChangedOver)


def value_of(entry: Entry, viewer: Viewer) -> str:
    """Return what an entry says, in the viewer's units.

    Arguments: entry of today's shape; viewer.
    Source: its declaration.
    """
    declared = specs(type(entry))
    if "look" in declared and entry.seen is not None:
        return dict(declared["look"].options).get(entry.seen, entry.seen)
    if "value" in declared and entry.reading is not None:
        return viewer.show(float(entry.reading), declared["value"].kind)
    return entry.remark if isinstance(entry, Note) else ""


def named(entry: Entry, names: dict[str, str]) -> str:
    """Return what an entry is of, with the machine or supply where the names have it.

    Arguments: entry of today's shape; names.
    """
    of = names.get(entry.subject, "")
    return f"{label(entry)}, {of}" if of else label(entry)


def charts(
    entries: Iterable[Entry],
    bands: Sequence[Bounds],
    names: dict[str, str],
    tares_kg: Mapping[str, float | None] = MappingProxyType({}),
) -> list[Series]:
    """Return a series of each thing that was read often enough, those read most first.

    Arguments: entries that count, by time; bands that they are held against, as Running tells them; names of machines and supplies;
    tares_kg, the empty weight of one vessel of each supply; where it is known the chart shows the gas and not the vessel.
    Source: the log; the plan.
    """
    entries = list(entries)
    found: dict[tuple[str, str, str], list[Entry]] = {}
    for e in entries:
        if isinstance(e, NO_SERIES):
            continue
        declared = specs(type(e))
        if "value" in declared and e.reading is not None:
            found.setdefault((e.kind, e.subject, label(e)), []).append(e)
    all_series = list(_vessels(entries, names, tares_kg))
    for (kind, subject, _), read in found.items():
        if len(read) < FEWEST:
            continue
        place = read[0].place
        band = next((b for b in bands if (b.kind, b.place) == (kind, place) and b.subject in (subject, "")), None)
        points = [(e.at_s, float(e.reading or 0.0)) for e in read]
        limits = (band.least, band.most, band.planned) if band else (None, None, None)
        all_series.append(Series(named(read[0], names), specs(KINDS[kind])["value"].kind, points, *limits))
    return sorted(all_series, key=lambda s: (-len(s.points), s.name))[:MOST_CHARTS]


def _vessels(entries: Sequence[Entry], names: dict[str, str], tares_kg: Mapping[str, float | None]) -> Iterator[Series]:
    """Of each supply all its vessels on the scale together, wherever every one of them was weighed at one visit."""
    own: dict[str, list[Weight]] = {}
    for e in of_kind(entries, Weight):
        own.setdefault(e.subject, []).append(e)
    for subject, read in own.items():
        vessels = {e.vessel for e in read}
        points = []
        for stop in _together(read):
            if {e.vessel for e in stop} == vessels:
                last = {e.vessel: e.value for e in stop}
                points.append((stop[-1].at_s, total(last.values()) - len(vessels) * (tares_kg.get(subject) or 0.0)))
        if len(points) >= FEWEST:
            of = names.get(subject, "")
            several = f"all {len(vessels)} cylinders" if len(vessels) > 1 else "the cylinder"
            what = f"Gas in {several}" if tares_kg.get(subject) else f"{several[0].upper()}{several[1:]} on the scale, gross"
            yield Series(f"{what}, {of}" if of else what, "mass", points)


def _together(entries: Iterable[E]) -> list[list[E]]:
    """Entries by time, those of one visit, or read within a few minutes, with each other."""
    stops: list[list[E]] = []
    for e in entries:
        last, own = (stops[-1][-1] if stops else None), e.visit
        if last is not None and ((own and own == last.visit) or (not own and not last.visit and e.at_s - last.at_s <= TOGETHER_S)):
            stops[-1].append(e)
        else:
            stops.append([e])
    return stops


@dataclass(frozen=True)
class VisitRow:
    """One visit: when, by whom, the cell of each column, and what else was read."""

    at: str
    by: str
    cells: tuple[str, ...]
    also: str


def stops(entries: Iterable[Entry]) -> list[list[Entry]]:
    """Return the entries of each visit together. What a file or an instrument brought in is no visit.

    Arguments: entries that count, by time.
    """
    return _together(e for e in entries if not (e.source == "import" or (e.source == "instrument" and not e.visit)))


def visits(
    entries: Sequence[Entry], names: dict[str, str], viewer: Viewer, most: int, wide: int
) -> tuple[list[str], list[VisitRow], int]:
    """Return the columns of the visits, the newest visits one row each, and how many there are in all.

    Arguments: entries that count, by time; names; viewer; most, how many rows; wide, how many things have a
    column of their own, the rest of a visit stands beside them.
    Source: the log. What a file or an instrument brought in is no visit.
    """
    stops_made = stops(entries)
    shown = stops_made[-most:]
    told = [_told(stop, names, viewer) for stop in shown]
    read = Counter(name for values in told for name, value in values.items() if value)
    columns = [name for name, _ in read.most_common(wide)]
    rows = []
    for stop, values in zip(reversed(shown), reversed(told), strict=True):
        also = [f"{n}: {v}" if v else n for n, v in values.items() if n not in columns]
        also += [e.remark for e in stop if e.remark and not isinstance(e, Note)]
        by = next((e.by for e in stop if e.by), "")
        rows.append(VisitRow(viewer.when(stop[0].at), by, tuple(values.get(c, "") for c in columns), "; ".join(also)))
    return columns, rows, len(stops_made)


def _told(stop: Sequence[Entry], names: dict[str, str], viewer: Viewer) -> dict[str, str]:
    """What was read at one visit; several vessels of one supply on the scale as their sum."""
    values = {named(e, names): value_of(e, viewer) for e in stop if not isinstance(e, Weight | Note)}
    for subject in dict.fromkeys(e.subject for e in stop if isinstance(e, Weight)):
        own = {e.vessel: e.value for e in of_kind(stop, Weight) if e.subject == subject}
        of = f", {names[subject]}" if subject in names else ""
        what = f"{len(own)} cylinders together{of}" if len(own) > 1 else f"Cylinder {next(iter(own))} on the scale{of}"
        values = {what: viewer.show(total(own.values()), "mass"), **values}
    remarks = [e.remark for e in stop if isinstance(e, Note)]
    return values | ({"Remark": "; ".join(remarks)} if remarks else {})


def summed(series: Series, viewer: Viewer) -> list[str]:
    """Return of a series how many readings it has, the least, the mean and the most.

    Arguments: series; viewer.
    Source: arithmetic.
    """
    values = [v for _, v in series.points]
    told = (min(values), total(values) / len(values), max(values))
    return [series.name, f"{len(values):,}", *(viewer.show(v, series.kind) for v in told)]


@dataclass(frozen=True)
class Corrected:
    """An entry that counts no more: when, what, what it said, what it says now, by whom and why."""

    at: str
    what: str
    was: str
    now: str
    by: str
    why: str


def corrections(entries: Iterable[Entry], names: dict[str, str], viewer: Viewer) -> list[Corrected]:
    """Return every entry that was corrected or taken back, in the order in which they were read.

    Arguments: entries, all ever made; names; viewer.
    Source: common practice (corrections never overwrite).
    """
    known = {e.id: e for e in entries}
    counts = {e.id for e in counted(known.values())}
    by_old = {e.corrects: e for e in known.values() if e.corrects}
    undone = {e.batch: e for e in of_kind(known.values(), Undone)}
    found = []
    for e in known.values():
        new = by_old.get(e.id)
        if e.id in counts or not e.LOGGED or (new is None and e.batch not in undone):
            continue
        by = new or undone[e.batch]
        now = value_of(new, viewer) if new else "undone with its import"
        was = value_of(e, viewer) + (f" (typed {e.as_typed})" if e.as_typed else "")
        row = Corrected(viewer.when(e.at), named(e, names), was, now, by.by, by.remark)
        found.append((e.at_s, row))
    return [row for _, row in sorted(found, key=lambda pair: pair[0])]
