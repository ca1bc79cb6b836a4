"""Faults that screens report: where in the code they happened, without anything that was shown or typed."""

from typing import Annotated

import structlog
from django.http import HttpRequest
from ninja import Router, Schema, Status
from ninja.throttling import UserRateThrottle
from pydantic import Field, StringConstraints

from .schemas import REFUSALS

router = Router(tags=["faults"])
log = structlog.get_logger("ofen")
Short = Annotated[str, StringConstraints(max_length=120)]
Frame = Annotated[str, StringConstraints(max_length=200)]
MOST_FRAMES = 12


class ClientFaultIn(Schema):
    """A fault of a screen: what failed, the kind of error, the page, and the stack, innermost frame first."""

    what: Short
    name: Short
    page: Short
    frames: Annotated[list[Frame], Field(max_length=100)]


@router.post(
    "/client-faults",
    throttle=[UserRateThrottle("12/m")],
    response={204: None, **REFUSALS},
    operation_id="tell_client_fault",
)
def tell_client_fault(request: HttpRequest, given: ClientFaultIn) -> Status[None]:
    """Write a fault of a screen into the server's log."""
    log.error(
        "client fault",
        what=given.what,
        name=given.name,
        page=given.page,
        frames=given.frames[:MOST_FRAMES],
    )
    return Status(204, None)
