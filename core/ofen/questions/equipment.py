"""The question about a data sheet."""

from __future__ import annotations

from dataclasses import dataclass

from ..document import Document
from ..document.sheets import dump_sheet, load_sheet
from ..figures.memo import Memo


@dataclass(frozen=True, kw_only=True)
class SheetQuestion:
    """A data sheet."""

    sheet: Document


def sheet(asked: SheetQuestion, memo: Memo) -> Document:
    """A data sheet read and checked for sense."""
    return dump_sheet(load_sheet(asked.sheet))
