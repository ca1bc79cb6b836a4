"""What is known of the tightness of each joint: tested, leaking, or stale since opened."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..supply.tree.joints import Joint


@dataclass
class JointState:
    """What is known of one joint."""

    joint: Joint
    status: str = "not_tested"  # not_tested | too_early | tight | leaking | stale
    at: str | None = None
    method: str | None = None
    by: str = ""

    def tested(self, tight: bool, at: str, method: str | None, by: str = "") -> None:
        """Take note of a test.

        Source: common practice.
        """
        self.status, self.at, self.method, self.by = ("tight" if tight else "leaking"), at, method, by

    def too_early(self, at: str) -> None:
        """Take note of a test that was made before it could count; a leak that was seen stays one.

        Source: common practice.
        """
        if self.status != "leaking":
            self.status, self.at, self.method = "too_early", at, None

    def opened(self) -> None:
        """Take note that the joint was opened: an earlier test no longer counts.

        Source: common practice.
        """
        if self.status in ("tight", "leaking"):
            self.status = "stale"

    def to_json(self) -> dict[str, Any]:
        """Return the joint with its state as plain data.

        Source: common practice.
        """
        return {**self.joint.to_json(), "status": self.status, "at": self.at, "method": self.method, "by": self.by}
