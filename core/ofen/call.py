"""One entry for every caller, on the server and on the device: a question in JSON, the answer in JSON, byte for byte alike."""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Iterable, Mapping
from typing import Any

from .document import write
from .document.wire import parsed
from .figures.errors import Fault, JobFaults, OfenError, some
from .figures.memo import Memo
from .questions.asking import MOST_BYTES, ROOMS, question
from .questions.changes import ChangesQuestion, changes
from .questions.parsing import read

# A large question names itself first, so that its size is judged before it is read.
NAMED = re.compile(r'\s*\{\s*"ask"\s*:\s*"([a-z_]{1,40})"')
# The fullest question has far fewer.
MOST_ELEMENTS = 500_000
Answering = Callable[[dict[str, Any]], object]


def asked_for(name: str, given: object, memo: Memo | None = None) -> object:
    """Return the answer to one of the questions as plain data.

    Arguments: name, one of `questions.asking.ROOMS`; given, what the question needs; memo of an earlier plan.
    Errors: JobFaults.
    """
    return question(name).answer(given, memo or Memo())


def answer(text: str) -> str:
    """Return the answer to a question, both JSON.

    Arguments: text, `{"ask": …}` with the name of a question and what it needs. The answer is `{"answer": …}`, or
    `{"faults": [{"path", "message"}]}` where what was given cannot be used.
    """
    return Desk().answer(text)


def replied(name: str, body: bytes, memo: Memo) -> str:
    """Return the answer to one of the questions as JSON, as it goes over the wire.

    Arguments: name, one of `questions.asking.ROOMS`; body, what is asked as JSON; memo of an earlier plan.
    Errors: JobFaults with what of the question cannot be used.
    """
    asked = question(name)
    if len(body) > asked.most_bytes:
        raise JobFaults([too_large(asked.most_bytes)])
    try:
        return as_text(asked.answer(parsed(body.decode("utf-8"), MOST_ELEMENTS), memo))
    except UnicodeDecodeError:
        raise JobFaults([Fault("", "is no text")]) from None
    except RecursionError:
        raise JobFaults([Fault("", "is nested too deeply")]) from None


def too_large(most_bytes: int) -> Fault:
    """Return what is said of a question that is too large.

    Arguments: most_bytes, how large it may be.
    """
    return Fault("", f"is too large. At most {most_bytes / 1024**2:g} MB are read here")


def as_text(said: object) -> str:
    """Return plain data as JSON, the same on every machine.

    Arguments: said, plain data.
    """
    return json.dumps(said, ensure_ascii=False, separators=(",", ":"), allow_nan=False)


def _most_bytes(name: str) -> int:
    return question(name).most_bytes if name in ROOMS else MOST_BYTES


def _answered(text: str, known: Iterable[str], answering: Callable[[str, dict[str, Any]], object]) -> str:
    try:
        begins = NAMED.match(text)
        most_bytes = _most_bytes(begins[1]) if begins else MOST_BYTES
        # A character is at least a byte.
        if len(text) > most_bytes:
            raise JobFaults([too_large(most_bytes)])
        given = parsed(text)
        name = given.get("ask") if isinstance(given, dict) else None
        if not isinstance(name, str) or name not in known:
            raise JobFaults([Fault("ask", f"must be one of {', '.join(known)}")])
        said: dict[str, Any] = {"answer": answering(name, {k: v for k, v in given.items() if k != "ask"})}
    except JobFaults as wrong:
        said = {"faults": write(some(wrong.faults))}
    except RecursionError:
        said = {"faults": [{"path": "", "message": "is nested too deeply"}]}
    except OfenError as wrong:
        said = {"faults": [{"path": "", "message": str(wrong)}]}
    return as_text(said)


class Desk:
    """One who answers question after question of one asker and remembers the last plan: what did not change is not made again.

    Beside the questions that every caller has it knows `changes`: the plan of a document as far as it is not what was told last.
    """

    def __init__(self) -> None:
        self._memo = Memo()
        self._turn = 0
        self._told: dict[str, Any] = {}

    def answer(self, text: str) -> str:
        """Return the answer to a question, both JSON as at `call.answer`."""

        def answering(name: str, given: dict[str, Any]) -> object:
            return self._changes(given) if name == "changes" else question(name).answer(given, self._memo)

        return _answered(text, (*ROOMS, "changes"), answering)

    def look(self, text: str, files: Mapping[str, Any]) -> str:
        """Return the answer to a question about files, both JSON as at `call.answer`.

        Arguments: text, `{"ask": "verify"}` for what is found of reports and whole jobs, or `{"ask": "bring_in", "job", "by"}` for
        what a file makes of a new job of that id; files by name, the content of each as bytes or what bytes can be made of.
        Source: `handover.verify.verify`, `handover.bringing_in.brought_in`.
        """
        from .questions import handover

        content = {str(name): bytes(given) for name, given in files.items()}
        answering: dict[str, Answering] = {
            "verify": lambda given: handover.verify(read(handover.VerifyQuestion, given), content),
            "bring_in": lambda given: handover.bring_in(read(handover.BringInQuestion, given), content),
        }
        return _answered(text, answering, lambda name, given: write(answering[name](given)))

    def _changes(self, given: dict[str, Any]) -> object:
        asked = read(ChangesQuestion, given)
        planned = question("plan").answer({"document": asked.document}, self._memo)
        last = self._told if asked.kept == self._turn else {}
        self._told = planned
        self._turn += 1
        return changes(self._turn, last, planned)
