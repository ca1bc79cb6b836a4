"""How often somebody may try to sign in: failures are counted, of a name and of an address, so that nobody honest is locked out by others."""

import json
from hashlib import sha256

from django.conf import settings
from django.core.cache import cache
from django.core.signing import BadSignature
from django.http import HttpRequest, HttpResponse
from ninja.throttling import AnonRateThrottle

from ofen_server.errors import Problem

NAME_TRIES, NAME_S = 10, 300
ADDRESS_S = 60
# Past its bound an address may still try names nobody has failed with, so many times the bound; then only devices that are known.
OVER = 6
# A device on which somebody has signed in: it is let in however often others have tried the name.
COOKIE, COOKIE_S, MOST_KNOWN = "ofen_known", 400 * 86_400, 8
SALT = "teams.tries"


class Tries:
    """The tries of one request to sign in with a name."""

    def __init__(self, request: HttpRequest, name: str) -> None:
        self._name = sha256(name.encode("utf-8", "replace")).hexdigest()
        self._known = _known(request)
        self._address = AnonRateThrottle().get_ident(request) or ""
        self._most = int(settings.SIGN_IN_TRIES.partition("/")[0])
        by = "device" if self._name in self._known else "name"
        self._keys = {f"sign-in:{by}:{self._name}": NAME_S, f"sign-in:address:{self._address}": ADDRESS_S}

    def check(self) -> None:
        """Refuse one try too many."""
        of_name, of_address = (int(cache.get(key, 0)) for key in self._keys)
        over = self._name not in self._known and (of_address >= OVER * self._most or (of_address >= self._most and of_name > 0))
        if of_name >= NAME_TRIES or over:
            raise Problem(429, "Too many tries", "Wait a minute, then try again.")

    def failed(self) -> None:
        """Count a try that failed."""
        for key, seconds in self._keys.items():
            cache.add(key, 0, seconds)
            cache.incr(key)

    def succeeded(self, response: HttpResponse) -> None:
        """Let the device be known from now on by whom it lets in."""
        names = [self._name, *(n for n in self._known if n != self._name)][:MOST_KNOWN]
        response.set_signed_cookie(
            COOKIE,
            json.dumps(names),
            salt=SALT,
            max_age=COOKIE_S,
            secure=settings.SESSION_COOKIE_SECURE,
            httponly=True,
            samesite="Lax",
            path="/api/sign-in",
        )


def _known(request: HttpRequest) -> list[str]:
    try:
        found = json.loads(request.get_signed_cookie(COOKIE, "[]", salt=SALT, max_age=COOKIE_S) or "[]")
    except (BadSignature, ValueError):
        return []
    return found if isinstance(found, list) else []
