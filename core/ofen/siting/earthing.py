"""How a generator is earthed and how its power reaches what it feeds: earth, neutral, transfer; never backwards into the grid."""

from __future__ import annotations

from collections.abc import Iterator

from ..document.fields import labels, missing
from ..document.siting import Earthing
from ..figures.assessment import Assessment
from ..plant.placed import Placed
from ..tables.classes import that_have
from .standing import Standing, alike

FIXED = that_have("transfer")


def assess(assessment: Assessment, placed: Placed) -> None:
    """Judge the earthing of generators into the Siting assessment; what is not told is named, never passed over.

    Arguments: assessment (added to), placed.
    Source: common practice; NFPA 70 article 250 and IEC 60364-5-55 (from memory); the licensed electrician's word goes first.
    """
    for g in alike(placed):
        if not g.is_engine:
            continue
        earthing, at = g.place.earthing, f"{g.at}.earthing"
        for code, field in _found(g, earthing):
            assessment.judge(code, g.subject, f"{at}.{field}", name=g.name)
        unseen = missing(earthing, "feeds_by", "earth", "neutral")
        if earthing.feeds_by == "switch" and earthing.moves_neutral is None:
            unseen.append("moves_neutral")
        if unseen:
            assessment.judge("siting.earth.missing", g.subject, f"{at}.{unseen[0]}", name=g.name, what=labels(earthing, unseen))


def _found(g: Standing, e: Earthing) -> Iterator[tuple[str, str]]:
    fixed = getattr(g.sheet, "generator_class", "") in FIXED
    if e.feeds_by == "socket":
        yield "siting.earth.backfeed", "feeds_by"
    if e.earth == "pipe":
        yield "siting.earth.by_pipe", "earth"
    elif e.earth == "frame" and (fixed or e.feeds_by == "switch"):
        yield "siting.earth.rod_wanted", "earth"
    elif e.earth:
        yield "siting.earth.stands", "earth"
    if e.neutral == "isolated" and e.feeds_by == "plugs":
        yield "siting.earth.rcd_misleads", "neutral"
    elif e.neutral == "bonded" and e.feeds_by == "switch" and e.moves_neutral == "no":
        yield "siting.earth.bonded_twice", "neutral"
    elif e.neutral == "isolated" and e.feeds_by == "switch" and e.moves_neutral == "yes":
        yield "siting.earth.bonded_nowhere", "neutral"
    elif e.neutral and (e.feeds_by == "plugs" or (e.feeds_by == "switch" and e.moves_neutral)):
        yield "siting.earth.bonded_once", "neutral"
