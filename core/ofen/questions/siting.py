"""The question about the drawing of a site."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from ..figures.memo import Memo
from ..siting import drawing
from ..siting.drawing import Edit
from .asked import OfJob
from .parsing import Within

FAR_M = 10_000.0
Shift = Annotated[float, Within(-FAR_M, FAR_M, "must be a number of metres")]


@dataclass(frozen=True, kw_only=True)
class MovedQuestion(OfJob):
    """A job document, the id of what is shifted on its drawing, and how far, in metres."""

    id: str
    by: tuple[Shift, Shift]


def moved(asked: MovedQuestion, memo: Memo) -> tuple[Edit, ...]:
    """What changes in a document when something on the drawing of its site is shifted."""
    return tuple(drawing.edits(asked.planned(memo).placed, asked.id, asked.by))
