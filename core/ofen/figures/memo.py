"""What the last plan computed, step by step: a step whose inputs did not change is not computed again."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

T = TypeVar("T")


class Memo:
    """The last outcome of each step beside what it came from.

    Whoever asks hands a step nothing but the inputs named here, so an outcome cannot depend on what is not compared.
    Outcomes are shared between plans: nobody changes one. One memo serves one thread.
    """

    def __init__(self) -> None:
        self._kept: dict[str, tuple[tuple[Any, ...], Any]] = {}

    def of(self, step: str, inputs: tuple[object, ...], make: Callable[..., T]) -> T:
        """Return what a step makes of its inputs, the last outcome where they are equal to the last ones.

        Arguments: step, its name; inputs, compared and then handed to make; make.
        """
        last = self._kept.get(step)
        if last is not None and last[0] == inputs:
            outcome: T = last[1]
            return outcome
        now = make(*inputs)
        self._kept[step] = (inputs, now)
        return now
