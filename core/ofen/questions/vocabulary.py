"""What a screen needs that does not change from job to job: quantities, the job's schema, the catalogue, pipe sizes, what may be logged."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import NamedTuple

from .. import __version__, document
from ..commissioning import looks, run
from ..commissioning.instruments.kinds import InstrumentKind, kinds
from ..commissioning.instruments.shelf import Instrument
from ..commissioning.looks import LookStroke
from ..commissioning.run import EventChoice
from ..document import Document, job
from ..figures import quantities
from ..figures.dialects import Term, terms
from ..figures.quantities import QuantityKind
from ..need.loads import usual_loads
from ..physics.pipes.materials import FOR_GAS, FOR_LIQUID, MATERIAL_TABLES, called, pipes
from ..plant.catalogue import OnSale, shipped
from ..running import entries
from ..running.entries import LogKind
from ..running.faults.evidence import NOTICE_LASTS_S
from ..supply import path_drawing
from ..supply.path_drawing import ScaleLine, SignStroke, StairScale
from . import starts
from .starts import Start


class PipeSize(NamedTuple):
    """A size on sale and how it is spoken of."""

    nominal: str
    reads: str


@dataclass(frozen=True, kw_only=True)
class Vocabulary:
    """Everything a screen needs that does not change from job to job."""

    core_version: str
    quantities: Sequence[QuantityKind]
    job_schema: Document
    catalogue: OnSale
    pipe_sizes: Mapping[str, Sequence[PipeSize]]
    pipe_materials: Mapping[str, Sequence[str]]
    usual_loads: Sequence[Document]
    log_kinds: Sequence[LogKind]
    event_choices: Sequence[EventChoice]
    instrument_kinds: Sequence[InstrumentKind]
    instrument_schema: Document
    signs: Mapping[str, Sequence[SignStroke]]
    look_drawings: Mapping[str, Sequence[LookStroke]]
    levels: Mapping[str, Sequence[ScaleLine]]
    stair_scale: StairScale
    notice_lasts_s: float
    starts: Sequence[Start]
    terms: Mapping[str, Term]


def vocabulary() -> Vocabulary:
    """Return the vocabulary."""
    return Vocabulary(
        core_version=__version__,
        quantities=list(quantities.KINDS.values()),
        job_schema=job.schema(),
        catalogue=shipped().on_sale,
        pipe_sizes={m: [PipeSize(p.nominal, called(p)) for p in pipes(m)] for m in MATERIAL_TABLES},
        pipe_materials={"gas": FOR_GAS, "liquid": FOR_LIQUID},
        usual_loads=usual_loads(),
        log_kinds=entries.vocabulary(),
        event_choices=run.choices(),
        instrument_kinds=list(kinds().values()),
        instrument_schema=document.schema(Instrument),
        signs=path_drawing.signs(),
        look_drawings=looks.drawings(),
        levels=path_drawing.levels(),
        stair_scale=StairScale(),
        notice_lasts_s=NOTICE_LASTS_S,
        starts=list(starts.shipped().values()),
        terms=terms(),
    )
