"""What is known of the tightness of each joint: tested, leaking, or stale since opened."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Literal

from ..supply.tree.joints import Joint


@dataclass
class JointState:
    """What is known of one joint."""

    MEMBERS: ClassVar = ("joint.*", "status", "at", "method", "by")

    joint: Joint
    status: Literal["not_tested", "too_early", "tight", "leaking", "stale"] = "not_tested"
    at: str | None = None
    method: str | None = None
    by: str = ""

    def tested(self, tight: bool, at: str, method: str | None, by: str = "") -> None:
        """Take note of a test."""
        self.status, self.at, self.method, self.by = ("tight" if tight else "leaking"), at, method, by

    def too_early(self, at: str) -> None:
        """Take note of a test that was made before it could count; a leak that was seen stays one."""
        if self.status != "leaking":
            self.status, self.at, self.method = "too_early", at, None

    def opened(self) -> None:
        """Take note that the joint was opened: an earlier test no longer counts."""
        if self.status in ("tight", "leaking"):
            self.status = "stale"
