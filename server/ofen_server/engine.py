"""The one exception to the content policy: the worker that runs the rules in the browser may compile WebAssembly."""

import re
from collections.abc import Callable

from csp.decorators import csp_update
from django.http import HttpRequest
from django.http.response import HttpResponseBase

WORKER = re.compile(r"^/assets/engine\.worker-[\w-]+\.js$")


class EnginePolicyMiddleware:
    """Let the worker's own script, and nothing else, compile WebAssembly."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.get_response = get_response
        self.widened = csp_update({"script-src": ["'self'", "'wasm-unsafe-eval'"]})(get_response)

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        """Answer with the wider policy for the worker's script."""
        return (self.widened if WORKER.match(request.path) else self.get_response)(request)
