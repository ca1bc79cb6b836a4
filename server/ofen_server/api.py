"""The API, put together from the apps."""

from typing import Any

from django.conf import settings
from django.contrib.auth.models import AnonymousUser
from django.http import HttpRequest
from ninja import NinjaAPI
from ninja.openapi.schema import OpenAPISchema
from ninja.parser import Parser
from ninja.security import SessionAuth

from ofen import __version__
from ofen.document.wire import parsed
from ofen.figures.errors import Fault, JobFaults

from . import contract, errors

# The fullest batch of records that a device sends has far fewer.
MOST_ELEMENTS = 500_000


# Of a batch one record is refused, and the others behind it are kept.
OUTBOX = "/api/outbox"


class StrictJson(Parser):
    """Reads bodies by the core's own strict reading of JSON."""

    def parse_body(self, request: HttpRequest) -> Any:
        """Return what the body says; JobFaults where it is no JSON that can be kept."""
        try:
            return parsed(request.body.decode("utf-8"), MOST_ELEMENTS, with_nul=request.path == OUTBOX)
        except UnicodeDecodeError:
            raise JobFaults([Fault("", "is no text")]) from None


class SignedIn(SessionAuth):
    """A person with a session; unsafe requests need the CSRF token too."""

    def authenticate(self, request: HttpRequest, key: str | None) -> object | None:
        """Return the person signed in, None for a stranger."""
        return None if isinstance(request.user, AnonymousUser) or not request.user.is_active else request.user


class Api(NinjaAPI):
    """The API; its description says of refusals what is really sent."""

    def get_openapi_schema(self, **given: Any) -> OpenAPISchema:
        """Return the description, every refusal as application/problem+json."""
        schema = super().get_openapi_schema(**given)
        some = schema["paths"]["/api/jobs"]["get"]["responses"]
        contract.add_to(schema, {status: response for status, response in some.items() if int(status) >= 400})
        for path in schema["paths"].values():
            for operation in path.values():
                for status, response in operation["responses"].items():
                    if int(status) >= 400 and "content" in response:
                        (content,) = response["content"].values()
                        response["content"] = {"application/problem+json": content}
        return schema


def build() -> NinjaAPI:
    """Return the API with every router."""
    from catalogue.api import router as catalogue
    from handover.api import router as handover
    from handover.handing_api import router as handing
    from instruments.api import router as instruments
    from jobs.api import router as jobs
    from jobs.asked import router as asked
    from logbook.api import router as logbook
    from outbox.api import router as outbox
    from teams.api import router as teams
    from weather.api import router as weather

    from .client_faults import router as client_faults

    api = Api(
        title="Ofen",
        version=__version__,
        auth=SignedIn(csrf=True),
        parser=StrictJson(),
        docs_url=settings.API_PAGES,
        urls_namespace="api",
    )
    errors.install(api)
    for router in (teams, catalogue, instruments, weather, jobs, asked, logbook, outbox, handover, handing, client_faults):
        api.add_router("", router)
    return api


api = build()
