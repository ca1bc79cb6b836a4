"""Whether what is written for some machines is written for this one: conditions over the facts of a unit."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import Any

from ..tables import fuels
from ..tables.classes import counts_as


def contains(word: str, among: Collection[str]) -> bool:
    """Return whether a word is one of some.

    Arguments: word; among.
    """
    return word in among


# What is written for one class or fuel may be written for others too.
ALIKE = {"class": counts_as, "fuel": fuels.counts_as}


def is_so(when: Mapping[str, Any], facts: Mapping[str, str]) -> bool:
    """Return whether every condition holds.

    Arguments: when, words by fact, or lists of words of which one must be so; facts.
    Source: the procedures' files.
    """
    return all(
        ALIKE.get(fact, contains)(facts.get(fact, ""), wanted if isinstance(wanted, list) else [wanted])
        for fact, wanted in when.items()
    )
