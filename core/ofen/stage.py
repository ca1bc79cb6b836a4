"""What every stage of a plan returns: figures, verdicts, the headline ones, and tables of choices."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from .figures import Figure
from .verdicts import LEVELS, Verdict, verdict, worst


@dataclass(eq=False)
class StageReport:
    """The outcome of one stage, filled while it is computed; of a supply, `place` says where that stands in the document."""

    stage: str
    place: str = ""
    figures: list[Figure] = field(default_factory=list)
    verdicts: list[Verdict] = field(default_factory=list)
    headlines: list[str] = field(default_factory=list)
    tables: dict[str, list[dict[str, Any]]] = field(default_factory=dict)

    def add(self, figure: Figure, headline: bool = False) -> float:
        """Keep a figure and return its value.

        Arguments: figure; headline, whether it stands in large type.
        Source: common practice.
        """
        self.figures.append(figure)
        if headline:
            self.headlines.append(figure.key)
        return figure.value

    def judge(self, code: str, subject: str, at: str, **values: Any) -> None:
        """Keep a verdict; the arguments are those of `verdicts.verdict`, a path that begins with a dot lies in `place`.

        Source: common practice.
        """
        if values.get("fix"):
            values["fix"] = {self.path(p): v for p, v in values["fix"].items()}
        self.verdicts.append(verdict(code, subject, self.path(at), **values))

    def path(self, at: str) -> str:
        """Return a path of the document; one that begins with a dot lies in `place`.

        Source: common practice.
        """
        return self.place + at if at.startswith(".") else at

    def take(self, *others: StageReport) -> StageReport:
        """Add all that others say, in this order, and return this report.

        Source: common practice.
        """
        for r in others:
            self.figures += r.figures
            self.verdicts += r.verdicts
            self.headlines += r.headlines
            self.tables |= r.tables
        return self

    def value(self, key: str) -> float | None:
        """Return the value of a figure of this stage, None where it could not be computed.

        Source: common practice.
        """
        return next((f.value for f in self.figures if f.key == key), None)

    def to_json(self) -> dict[str, Any]:
        """Return the stage as plain data, most serious verdicts first.

        Source: common practice.
        """
        ordered = sorted(self.verdicts, key=lambda v: LEVELS.index(v.level))
        return {
            "stage": self.stage,
            "worst": worst([v.level for v in self.verdicts]) if self.verdicts else None,
            "headlines": self.headlines,
            "figures": [f.to_json() for f in self.figures],
            "verdicts": [v.to_json() for v in ordered],
            "tables": self.tables,
        }


def missing(entry: Any, *names: str) -> list[str]:
    """Return those of the named fields that are empty.

    Arguments: entry, a part of the job; names of its fields.
    Source: common practice.
    """
    return [n for n in names if getattr(entry, n) in (None, "")]


def labels(entry: Any, names: list[str]) -> str:
    """Return the screen labels of fields in one line.

    Source: common practice.
    """
    from .document import specs

    known = specs(type(entry))
    return ", ".join(known[n].label.lower() for n in names)
