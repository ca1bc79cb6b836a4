"""The work at a desk, in a process beside the server. It uses the core alone, with no database and no files."""

import json
from hashlib import sha256
from typing import Any

from ofen.call import Desk, replied
from ofen.figures.memo import Memo

# The last plans made at this desk. Somebody who works on a job asks about one document again and again.
_last = Memo()
_saved = Desk()


def reply(question: str, body: bytes) -> str:
    """Return the answer to a question as it goes over the wire; JobFaults with what of it cannot be used."""
    return replied(question, body, _last)


def digest(document: dict[str, Any]) -> str:
    """Return the digest of the plan of a document, as a device makes it of its own."""
    return sha256(_saved.answer(json.dumps({"ask": "plan", "document": document})).encode()).hexdigest()


def nothing() -> None:
    """Do nothing. A desk that has done it is ready."""
