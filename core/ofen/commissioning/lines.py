"""What a run keeps beside its steps and joints: bypasses, remarks, pictures."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class BypassLine:
    """An entry of the bypass ledger."""

    bypass: str
    what: str
    why: str
    opened_at: str
    closed_at: str | None
    by: str


@dataclass(frozen=True)
class RemarkLine:
    """A remark made in a run, and when."""

    at: str
    text: str


@dataclass(frozen=True)
class PictureLine:
    """A picture taken in a run: where it was taken, and what it shows."""

    photo: str
    step: str
    at: str
    by: str
    shows: str
