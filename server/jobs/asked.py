"""Questions to the core over the wire: each answered by what was sent, nothing kept. A device asks its own engine the same."""

from django.http import HttpRequest, HttpResponse
from ninja import Router

from ofen.questions.asking import ROOMS
from ofen_server import desks
from ofen_server.errors import Problem

router = Router(tags=["ask"])


@router.post("/ask/{question}", operation_id="ask", include_in_schema=False)
def ask(request: HttpRequest, question: str) -> HttpResponse:
    """Answer one of the questions of the core, whose shapes are those that the core declares."""
    if question not in ROOMS:
        raise Problem(404, "This question is not known", f"Asked may be: {', '.join(ROOMS)}.")
    # The core's answer as it is: to look through a plan once more takes three times as long as to make it.
    return HttpResponse(desks.reply(question, request.body), content_type="application/json")
