"""The questions to the core by their names. Each has a type of question, a type of answer and a function."""

from __future__ import annotations

import typing
from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from importlib import import_module
from typing import Any

from ..document import write
from ..figures.memo import Memo
from .parsing import read

# Where each question is declared. A module is loaded when one of its questions is asked.
ROOMS = {
    "plan": "questions.job",
    "document": "questions.job",
    "start": "questions.job",
    "assumed": "questions.job",
    "sheet": "questions.equipment",
    "vocabulary": "questions.job",
    "version": "questions.job",
    "pasted": "questions.need",
    "bring": "questions.supply",
    "moved": "questions.siting",
    "begin": "questions.commissioning",
    "commissioning": "questions.commissioning",
    "run": "questions.commissioning",
    "faults": "questions.commissioning",
    "kit": "questions.commissioning",
    "running": "questions.running",
    "due": "questions.running",
    "forecast": "questions.running",
    "visit": "questions.running",
    "stop_order": "questions.running",
    "open": "questions.handover",
    "whole_job": "questions.handover",
}
# The size of an ordinary question. The largest job document is far smaller.
MOST_BYTES = 1024**2


@dataclass(frozen=True)
class Question:
    """A question: its name, the dataclass that is asked, the type of its answer, and the function that answers.

    `most_bytes` is how large it may be as JSON.
    """

    key: str
    asks: type
    answers: Any
    function: Callable[[Any, Memo], object]
    most_bytes: int

    @property
    def says(self) -> str:
        """The question in one sentence."""
        return (self.function.__doc__ or "").strip().split("\n")[0]

    def answer(self, given: object, memo: Memo) -> Any:
        """Return the answer as plain data.

        Arguments: given, plain data as the question declares it; memo of an earlier plan.
        Errors: JobFaults with what of the question cannot be used.
        """
        return write(self.function(read(self.asks, given), memo))


@cache
def question(key: str) -> Question:
    """Return a question by its name.

    Arguments: key, one of `ROOMS`.
    """
    function = getattr(import_module(f"ofen.{ROOMS[key]}"), key)
    hints = typing.get_type_hints(function, include_extras=True)
    asks = next(v for k, v in hints.items() if k != "return")
    return Question(key, asks, hints["return"], function, getattr(asks, "MOST_BYTES", MOST_BYTES))


def all_questions() -> list[Question]:
    """Return every question, in the order in which they are listed."""
    return [question(key) for key in ROOMS]
