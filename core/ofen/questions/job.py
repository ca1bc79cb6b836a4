"""Questions about a whole job: its plan, its document in today's format, a start, what it assumes; and what screens are made from."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import ClassVar, Literal

from .. import __version__
from ..document import Document, Json
from ..document.job import FORMAT, load_as_far
from ..document.upgrades import upgraded
from ..figures.errors import Fault
from ..figures.figure import Figure
from ..figures.memo import Memo
from ..handover.assumed import Assumed
from ..handover.assumed import assumed as assumed_of
from ..handover.stage_lines import StageLine, planned_lines
from ..plan import Plan
from ..plan import plan as plan_of
from . import starts
from .asked import OfJob
from .starts import fill
from .vocabulary import Vocabulary
from .vocabulary import vocabulary as vocabulary_of


@dataclass(frozen=True, kw_only=True)
class PlanQuestion(OfJob):
    """A job document."""


@dataclass(frozen=True)
class PlanAnswer:
    """Figures and verdicts by stage, each supply with its path, the machines; and what of the document cannot be used."""

    MEMBERS: ClassVar = ("plan.*", "lines", "faults")

    plan: Plan
    faults: tuple[Fault, ...] = ()

    @property
    def lines(self) -> tuple[StageLine, ...]:
        """Where each stage that is planned stands, in one line."""
        return planned_lines(self.plan)


def plan(asked: PlanQuestion, memo: Memo) -> PlanAnswer:
    """The plan of a document."""
    job, faults = asked.loaded
    return PlanAnswer(plan_of(job, memo=memo), tuple(faults))


@dataclass(frozen=True, kw_only=True)
class DocumentQuestion(OfJob):
    """A job document of any format."""


@dataclass(frozen=True)
class DocumentAnswer:
    """A document in today's format, and what of it today's rules refuse."""

    document: Document
    faults: tuple[Fault, ...]


def document(asked: DocumentQuestion, memo: Memo) -> DocumentAnswer:
    """A document in today's format; the same one where it is of that already."""
    return DocumentAnswer(upgraded(dict(asked.document), FORMAT), tuple(asked.loaded[1]))


@dataclass(frozen=True, kw_only=True)
class StartQuestion:
    """A shipped start, the answers that were typed (SI, by question), and how the person sees quantities."""

    key: str
    answers: Mapping[str, Json] = field(default_factory=dict)
    units: Literal["metric", "us"] = "metric"


@dataclass(frozen=True)
class Started:
    """The job a start makes, its headline figures and plan; what of the answers cannot be used, by question."""

    document: Document
    headlines: tuple[Figure, ...]
    plan: PlanAnswer
    faults: tuple[Fault, ...]


def start(asked: StartQuestion, memo: Memo) -> Started:
    """The job that a shipped start makes of the answers, with the headline figures it is there for."""
    shipped = starts.start(asked.key)
    filled = fill.make(shipped, dict(asked.answers), asked.units)
    planned = plan_of(load_as_far(filled.document)[0], memo=memo)
    figures = {f.key: f for r in planned.assessments for f in r.figures}
    headlines = tuple(figures[key] for key in shipped.headlines if key in figures)
    return Started(filled.document, headlines, PlanAnswer(planned), tuple(filled.faults))


@dataclass(frozen=True, kw_only=True)
class AssumedQuestion(OfJob):
    """A job document."""


def assumed(asked: AssumedQuestion, memo: Memo) -> tuple[Assumed, ...]:
    """What counts in a plan and nobody typed, what moves the most first."""
    job, _ = asked.loaded
    return tuple(assumed_of(job, plan_of(job, memo=memo)))


@dataclass(frozen=True, kw_only=True)
class VocabularyQuestion:
    """Nothing but the question."""


def vocabulary(asked: VocabularyQuestion, memo: Memo) -> Vocabulary:
    """What a screen needs that does not change from job to job."""
    return vocabulary_of()


@dataclass(frozen=True, kw_only=True)
class VersionQuestion:
    """Nothing but the question."""


def version(asked: VersionQuestion, memo: Memo) -> str:
    """The version of the core."""
    return __version__
