"""The question about a pasted table."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from ..document.pasted import MOST_TEXT, Pasted
from ..figures.memo import Memo
from ..need.load_list import loads_of
from ..supply.night_hours import hours_of
from .parsing import Letters

READS = {"loads": loads_of, "hours": hours_of}


@dataclass(frozen=True, kw_only=True)
class PastedQuestion:
    """A table of loads or of hours, as it was pasted."""

    list: Literal["loads", "hours"]
    # A longer one is told of as a fault of the table.
    text: Annotated[str, Letters(10 * MOST_TEXT)]


def pasted(asked: PastedQuestion, memo: Memo) -> Pasted:
    """The entries of a pasted table, and the rows that cannot be used."""
    return READS[asked.list](asked.text)
