"""What the screens are made from: quantities, the job's schema, the shipped machines, pipe sizes."""

from typing import Any

from django.http import HttpRequest
from ninja import Router, Schema

from ofen.vocabulary import vocabulary as everything

router = Router(tags=["catalogue"])


class QuantityUnit(Schema):
    """One unit of a kind: SI = number × factor + offset."""

    symbol: str
    factor: float
    offset: float
    aliases: list[str]


class QuantityKind(Schema):
    """A kind of quantity, its units and what each system shows."""

    name: str
    metric: str
    us: str
    most_decimals: int
    units: list[QuantityUnit]


class LogQuantity(Schema):
    """Something that can be logged."""

    name: str
    kind: str
    low: float
    high: float
    label: str


class VocabularyOut(Schema):
    """Everything a screen needs that does not change from job to job."""

    core_version: str
    quantities: list[QuantityKind]
    job_schema: dict[str, Any]
    catalogue: dict[str, list[dict[str, Any]]]
    pipe_sizes: dict[str, list[str]]
    log_quantities: list[LogQuantity]


@router.get("/vocabulary", response=VocabularyOut, operation_id="vocabulary")
def vocabulary(request: HttpRequest) -> dict[str, Any]:
    """Quantities, schema, catalogue."""
    return everything()
