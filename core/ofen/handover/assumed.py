"""What counts in a plan and nobody typed: usual answers, values a field has by itself, what a sheet does not say; and what each moves."""

from __future__ import annotations

import copy
import dataclasses
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, ClassVar

from ..document import Spec, specs
from ..document.job import Job, dump, load_as_far, spec_at
from ..document.paths import at, indexed, put
from ..figures.memo import Memo
from ..figures.numerics import rounded
from ..plan import Plan, plan
from ..plant.placed import Placed

NOTHING_MOVES = 0.001
# So many values are planned again at both ends; a job may have hundreds, and nobody waits for them.
MOST_TRIED = 24
PLAIN = ("number", "whole", "choice")


@dataclass(frozen=True)
class Usual:
    """A field whose value by itself counts: its usual range and where that is from."""

    low: float | str
    high: float | str
    source: str


# Fields that have a value by themselves, by place; entries of lists are left open.
BY_ITSELF = {
    "need.spaces[].heat_store": Usual("light", "heavy", "a fabric of medium weight, until you choose one (common practice)"),
    "need.valves[].reach_fraction": Usual(0.3, 0.8, "of a heater in its enclosure (from memory)"),
    "need.loads[].type": Usual("resistive", "compressor", "resistive, until you choose a type (common practice)"),
    "need.loads[].duty_fraction": Usual(0.3, 1.0, "always on. 100 % is the cautious figure (common practice)"),
    "need.starting": Usual("in_order", "together", "all at once, as after an outage, the cautious way (common practice)"),
    "equipment.hours_a_day_s": Usual(28_800.0, 86_400.0, "day and night, the cautious figure (common practice)"),
    "supplies[].spare_flow_fraction": Usual(0.0, 0.25, "left over for hose, valve and later changes (common practice)"),
    "supplies[].storage.reserve_fraction": Usual(0.2, 0.3, "the stricter classes' change-over (common practice)"),
    "supplies[].night.humidity_fraction": Usual(0.6, 1.0, "a damp night, for frost on the shell (common practice)"),
    "supplies[].liquid.tanks": Usual(1, 2, "one tank, until you enter it (common practice)"),
}


@dataclass(frozen=True)
class Moves:
    """How far a value moves a headline over its usual range."""

    figure: str
    name: str
    kind: str
    low: float
    high: float
    share: float


@dataclass(frozen=True, kw_only=True)
class Assumed:
    """One value that the plan uses although nobody entered it.

    `moves` says which headline it moves most over its usual range, where that was `tried`; `spans` how far it moves each of them.
    """

    MEMBERS: ClassVar = ("path", "at", "label", "value", "kind", "source", "low", "high", "reads", "moves", "tried", "spans")

    path: str
    at: str
    label: str
    value: float | str
    kind: str
    source: str
    low: float | str | None = None
    high: float | str | None = None
    options: tuple[tuple[str, str], ...] = ()
    moves: Moves | None = None
    tried: bool = True
    spans: tuple[Moves, ...] = ()

    @property
    def reads(self) -> str:
        """How its value reads where it is one of a choice."""
        return dict(self.options).get(str(self.value), "")


def assumed(job: Job, planned: Plan) -> list[Assumed]:
    """Return what counts and nobody typed, what moves the most first.

    Arguments: job; planned, its plan. Each is tried at both ends of its usual range by planning again; what moves nothing by a
    thousandth does not count and is left out, unless it came from a start. Of very many only the first are tried.
    Source: common practice; each value names its own.
    """
    document, memo = dump(job), Memo()
    keys = Counter(key for r in planned.assessments for key in r.headlines)
    asked = {a.path: a for a in _of_start(job, document)}
    told = {a.path: a for a in _by_itself(document)} | asked
    open_yet = [a for a in (*asked.values(), *(a for path, a in told.items() if path not in asked)) if a.path not in job.confirmed]
    assumptions = []
    for one in open_yet[:MOST_TRIED]:
        moved = _moved(document, planned, one, memo)
        if moved or one.path in asked:
            # Two supplies have headlines of the same key: whose range it is nobody could tell.
            spans = tuple(s for s in moved if keys[s.figure] == 1)
            assumptions.append(dataclasses.replace(one, moves=max(moved, key=lambda s: s.share, default=None), spans=spans))
    assumptions += [dataclasses.replace(one, tried=False) for one in open_yet[MOST_TRIED:]]
    assumptions += [a for a in _not_on_sheets(planned.placed) if a.path not in job.confirmed]
    return sorted(assumptions, key=lambda a: (-(a.moves.share if a.moves else 0.0), a.path))


def _kind(spec: Spec) -> str:
    return {"number": spec.kind, "whole": "count"}.get(spec.shape, "choice")


def _of_start(job: Job, document: dict[str, Any]) -> Iterator[Assumed]:
    for a in job.assumed:
        spec, where = spec_at(a.id), indexed(document, a.id)
        value = a.word or a.value
        if spec is None or spec.shape not in PLAIN or where is None or value is None or _typed(value, at(document, a.id)):
            continue
        low, high = (a.low_word, a.high_word) if a.word else (a.low, a.high)
        yield Assumed(
            path=a.id,
            at=where,
            label=spec.label,
            value=value,
            kind=_kind(spec),
            source=a.source,
            low=low,
            high=high,
            options=spec.options,
        )


def _typed(value: float | str, now: Any) -> bool:
    """Whether something else than the value assumed stands there by now: then somebody has typed it."""
    if isinstance(value, str):
        return bool(now != value)
    return not isinstance(now, (int, float)) or rounded(now) != rounded(value)


def _by_itself(document: dict[str, Any]) -> Iterator[Assumed]:
    for pattern, usual in BY_ITSELF.items():
        for path in _places(document, pattern):
            spec = spec_at(path)
            assert spec is not None
            value = at(document, path)
            if value is not None and value == _default(pattern):
                where = indexed(document, path)
                assert where is not None
                yield Assumed(
                    path=path,
                    at=where,
                    label=spec.label,
                    value=value,
                    kind=_kind(spec),
                    source=usual.source,
                    low=usual.low,
                    high=usual.high,
                    options=spec.options,
                )


def _default(pattern: str) -> Any:
    """The value a field has by itself."""
    cls: Any = Job
    for step in pattern.split(".")[:-1]:
        cls = specs(cls)[step.removesuffix("[]")].of
    return next((f.default for f in cls.__dataclass_fields__.values() if f.name == pattern.rsplit(".", 1)[-1]), None)


def _places(document: dict[str, Any], pattern: str) -> list[str]:
    places = [""]
    for step in pattern.split("."):
        name = step.removesuffix("[]")
        longer = []
        for path in places:
            here = f"{path}.{name}" if path else name
            rows = at(document, here)
            longer += [f"{here}[{r['id']}]" for r in rows or ()] if step.endswith("[]") else [here]
        places = longer
    return places


def _not_on_sheets(placed: Placed) -> Iterator[Assumed]:
    """What a data sheet leaves open: it cannot be tried, it must be measured."""
    for s in placed.supplies:
        for n, part in enumerate(s.given.parts):
            regulator = placed.catalogue.regulators.get(getattr(part, "model", "")) if part.KIND == "regulator" else None
            if regulator is not None and regulator.lockup_fraction is None:
                path = f"supplies[{s.given.id}].parts[{part.id}].model"
                source = "its data sheet gives no lock-up. Measure the standing pressure in commissioning"
                label = f"Lock-up of {part.name or part.id}"
                yield Assumed(
                    path=path,
                    at=f"{s.at}.parts[{n}].model",
                    label=label,
                    value="not known",
                    kind="text",
                    source=source,
                    tried=False,
                )


def _headlines(planned: Plan) -> dict[str, tuple[str, float, str]]:
    headlines = {}
    for n, r in enumerate(planned.assessments):
        for key in r.headlines:
            figure = next(f for f in r.figures if f.key == key)
            headlines[f"{n} {key}"] = (figure.name, figure.value, figure.kind)
    return headlines


def _moved(document: dict[str, Any], planned: Plan, one: Assumed, memo: Memo) -> list[Moves]:
    """Between what each headline lies that changes when the value goes from one end of its usual range to the other."""
    if one.low is None or one.high is None:
        return []
    ends = []
    for value in (one.low, one.high):
        if value == one.value:
            ends.append(_headlines(planned))
            continue
        tried = copy.deepcopy(document)
        put(tried, one.path, value)
        ends.append(_headlines(plan(load_as_far(tried)[0], memo=memo)))
    moves = []
    for key, (name, value, kind) in _headlines(planned).items():
        if any(key not in end for end in ends) or kind == "temperature":
            continue
        low, high = (end[key][1] for end in ends)
        share = abs(high - low) / max(abs(value), 1e-9)
        if share > NOTHING_MOVES:
            figure = key.split(" ", 1)[1]
            moves.append(Moves(figure, name, kind, low, high, rounded(share, 3)))
    return moves
