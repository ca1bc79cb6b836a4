"""What bounds every request: a host that is ours, answers that nobody keeps, refusals in one shape."""

from collections.abc import Callable

from django.core.exceptions import DisallowedHost
from django.http import HttpRequest, HttpResponse

from .errors import response

API = "/api/"
JSON_LIKE = ("application/json", "application/problem+json")

Answer = Callable[[HttpRequest], HttpResponse]


class BoundsMiddleware:
    """Refuse hosts that are not ours; let no answer of the API be kept on the way; every refusal of it is a problem."""

    def __init__(self, get_response: Answer) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer within the bounds."""
        try:
            request.get_host()
        except DisallowedHost:
            return response(400, "This host is not served here", "Whoever runs Ofen for you lists its hosts in OFEN_HOSTS.")
        # No text that is kept may hold it, and the database refuses even to be asked for it.
        if "\0" in request.path or "%00" in request.META.get("QUERY_STRING", ""):
            return response(400, *_words(400))
        answer = self.get_response(request)
        if request.path.startswith(API):
            if answer.status_code >= 400 and not answer.get("Content-Type", "").startswith(JSON_LIKE):
                allow = answer.get("Allow")
                answer = response(answer.status_code, *_words(answer.status_code))
                if allow:
                    answer["Allow"] = allow
            answer["Cache-Control"] = "no-store"
        return answer


def _words(status: int) -> tuple[str, str]:
    if status == 405:
        return "This cannot be done here", "The address is right, but the method is not."
    return "This cannot be read", "Correct it and send it again."
