"""What a screen needs that does not change from job to job: quantities, the job's schema, the catalogue, pipe sizes, what may be logged."""

from __future__ import annotations

from typing import Any

from . import __version__, document, job, path_drawing, quantities, starts
from .catalogue import shipped
from .commissioning import looks, run
from .instruments.kinds import kinds
from .instruments.shelf import Instrument
from .need.loads import usual_loads
from .running import entries
from .supply.pipes.materials import FOR_GAS, FOR_LIQUID, MATERIAL_TABLES, called, pipes


def vocabulary() -> dict[str, Any]:
    """Return the vocabulary as plain data.

    Source: common practice.
    """
    return {
        "core_version": __version__,
        "quantities": quantities.table(),
        "job_schema": job.schema(),
        "catalogue": shipped().to_json(),
        "pipe_sizes": {m: [{"nominal": p.nominal, "reads": called(p)} for p in pipes(m)] for m in MATERIAL_TABLES},
        "pipe_materials": {"gas": list(FOR_GAS), "liquid": list(FOR_LIQUID)},
        "usual_loads": usual_loads(),
        "log_kinds": entries.vocabulary(),
        "event_choices": run.choices(),
        "instrument_kinds": [k.to_json() for k in kinds().values()],
        "instrument_schema": document.schema(Instrument),
        "signs": path_drawing.signs(),
        "look_drawings": looks.drawings(),
        "levels": path_drawing.levels(),
        "stair_scale": path_drawing.SCALE,
        "starts": [s.to_json() for s in starts.shipped().values()],
    }
