"""Ways into a job: what one is there to do, a few questions with their usual answers, and the whole document they make."""

from __future__ import annotations

import tomllib
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any, ClassVar

from ...document import MOST, Option
from ...figures.errors import Fault, JobFaults, told
from ...figures.quantities import shown

GROUPS = {
    "hall": "Heat a hall or a canvas hall",
    "site": "Dry or heat a building site",
    "small": "Heat a small place",
    "valve": "Keep a valve from freezing",
    "used_oil": "Heat a workshop on used oil",
    "loads": "Run loads off the grid",
    "outages": "Back up power in outages",
    "natural_gas": "Run a dual-fuel generator on natural gas",
}
MOST_QUESTIONS = 6


@dataclass(frozen=True, kw_only=True)
class StartInput:
    """One thing asked: its usual answer, what is possible, the usual range, and where in the job the answer goes."""

    MEMBERS: ClassVar = (
        "key",
        "label",
        "kind",
        "usual",
        ("low", "least"),
        ("high", "most"),
        "help",
        "options",
    )

    key: str
    label: str
    kind: str  # a kind of quantity, "whole" or "choice"
    usual: float | str
    low: float
    high: float
    usual_low: float | str
    usual_high: float | str
    help: str
    options: tuple[Option, ...]
    puts: tuple[str, ...]

    @property
    def least(self) -> float | None:
        """The least that is possible, None where it is a choice."""
        return self.low if self.kind != "choice" else None

    @property
    def most(self) -> float | None:
        """The most that is possible, None where it is a choice."""
        return self.high if self.kind != "choice" else None

    def fault(self, value: object) -> str:
        """Return what is wrong with an answer, "" where nothing is.

        Arguments: value, as it came in.
        """
        if self.kind == "choice":
            return (
                ""
                if isinstance(value, str) and value in dict(self.options)
                else f"{told(value)!r} is not one of {', '.join(r for _, r in self.options)}"
            )
        if isinstance(value, bool) or not isinstance(value, (int, float)) or not abs(value) < MOST:
            return "must be a number"
        if self.kind == "whole" and value != int(value):
            return "must be a whole number"
        if self.low <= value <= self.high:
            return ""
        kind = "count" if self.kind == "whole" else self.kind
        return f"{shown(float(value), kind)} is not possible here. Enter a value from {shown(self.low, kind)} to {shown(self.high, kind)}"


@dataclass(frozen=True, kw_only=True)
class Start:
    """A way into a job, as its file says: questions, the document before the answers, supplies, what else is assumed."""

    MEMBERS: ClassVar = ("key", "title", "words", "group", "group_title", "classes", "sign", "questions")

    key: str
    title: str
    words: str
    group: str
    classes: tuple[str, ...]
    picks: str  # heaters | valve | generators
    questions: tuple[StartInput, ...]
    derives: tuple[str, ...]
    job: dict[str, Any]
    supplies: tuple[dict[str, Any], ...]
    assumed: tuple[dict[str, Any], ...]
    headlines: tuple[str, ...]
    us: dict[str, Any]
    converts: bool = False

    @property
    def group_title(self) -> str:
        """What its group is called."""
        return GROUPS[self.group]

    @property
    def sign(self) -> list[str]:
        """The kinds of the parts on its fuel path, in order: its picture."""
        laid = self.supplies[0] if self.supplies else {}
        source = {"natural_gas": "meter", "propane": "vessel", "butane_mix": "vessel"}.get(laid.get("fuel", ""), "tank")
        kinds = [p["kind"] for p in (*laid.get("parts", ()), *laid.get("branch", ())) if p["kind"] not in ("drip_pot", "shut_off")]
        kinds = kinds if kinds and kinds[-1] == "appliance" else [*kinds, "appliance"]
        kinds[-1] = "generator" if self.picks == "generators" else "appliance"
        return [source, *kinds, *(("space",) if self.picks == "heaters" else ())]


def _question(entry: dict[str, Any]) -> StartInput:
    options = tuple(Option(o[0], o[1]) for o in entry.get("options", ()))
    low, high = float(entry.get("low", 0)), float(entry.get("high", 0))
    usual_low, usual_high = entry.get("range", (options[0][0], options[-1][0]) if options else (low, high))
    return StartInput(
        key=entry["key"],
        label=entry["label"],
        kind=entry["kind"],
        usual=entry["usual"],
        low=low,
        high=high,
        usual_low=usual_low,
        usual_high=usual_high,
        help=entry.get("help", ""),
        options=options,
        puts=tuple(entry.get("puts", ())),
    )


def _start(key: str, data: dict[str, Any], kinds: dict[str, Any]) -> Start:
    supplies = []
    for own in data.get("supply", ()):
        supplies.append({**kinds[own["like"]], **{k: v for k, v in own.items() if k != "like"}})
    return Start(
        key=key,
        title=data["title"],
        words=data["words"],
        group=data["group"],
        classes=tuple(data["classes"]),
        picks=data["picks"],
        questions=tuple(_question(q) for q in data["questions"]),
        derives=tuple(data.get("derives", ())),
        job=data.get("job", {}),
        supplies=tuple(supplies),
        assumed=tuple(data.get("assumed", ())),
        headlines=tuple(data["headlines"]),
        us=data.get("us", {}),
        converts=data.get("converts", False),
    )


@cache
def shipped() -> dict[str, Start]:
    """Return the shipped starts by key, in the order of their groups.

    Errors: KeyError at once where a file is broken.
    Source: common practice; each usual answer names its own.
    """
    folder = files(__name__)
    kinds = tomllib.loads(folder.joinpath("supplies.toml").read_text(encoding="utf-8"))
    starts = []
    for file in sorted(folder.iterdir(), key=lambda f: f.name):
        if file.name.endswith(".toml") and file.name != "supplies.toml":
            starts.append(_start(file.name.removesuffix(".toml"), tomllib.loads(file.read_text(encoding="utf-8")), kinds))
    order = list(GROUPS)
    return {s.key: s for s in sorted(starts, key=lambda s: (order.index(s.group), s.title))}


def start(key: str) -> Start:
    """Return a shipped start.

    Errors: JobFaults where there is none of that key.
    """
    start = shipped().get(key)
    if start is None:
        raise JobFaults([Fault("key", f"{told(key)!r} is no start that is known")])
    return start
