"""What goes wrong on a screen, as the screen sends it: where in the code, and nothing of what stood or was typed there."""

from typing import Annotated

import structlog
from django.http import HttpRequest
from ninja import Router, Schema, Status
from ninja.throttling import UserRateThrottle
from pydantic import StringConstraints

from .schemas import REFUSALS

router = Router(tags=["faults"])
log = structlog.get_logger("ofen")
Short = Annotated[str, StringConstraints(max_length=120)]
Frame = Annotated[str, StringConstraints(max_length=200)]
MOST_FRAMES = 12


class ClientFaultIn(Schema):
    """A fault of a screen: what could not be shown or done, the kind of error, and the places in the code, the innermost first. A file's name says its build."""

    what: Short
    name: Short
    page: Short
    frames: list[Frame]


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
