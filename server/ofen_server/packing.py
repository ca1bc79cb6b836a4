"""What is sent as text is sent packed; what is packed already, pictures and papers, goes as it is."""

from django.http.response import HttpResponseBase
from django.middleware.gzip import GZipMiddleware

TEXTS = ("application/json", "application/problem+json", "text/html", "text/css", "text/csv", "text/calendar", "image/svg+xml")
# Below this packing saves nothing that anybody waits for.
LEAST_BYTES = 2_000


class PackedMiddleware(GZipMiddleware):
    """Pack texts that are worth it; each by a little more at random, so that their size tells nothing (BREACH)."""

    def process_response(self, request, response):  # type: ignore[no-untyped-def]  # as the framework has it
        """Return the response, packed where it is a text."""
        kind = response.get("Content-Type", "").partition(";")[0]
        if kind not in TEXTS or (not response.streaming and len(response.content) < LEAST_BYTES):
            return response
        packed: HttpResponseBase = super().process_response(request, response)
        return packed
