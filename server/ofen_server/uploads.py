"""Files that somebody sends are read in a process beside this one: at most so long, with so much memory, one at a time."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from tempfile import NamedTemporaryFile
from typing import Any, ParamSpec, TypeVar

from django.conf import settings

from .apart import MB, Apart, NotTaken
from .errors import Problem

P = ParamSpec("P")
T = TypeVar("T")


def _busy() -> Problem:
    return Problem(503, "Other files are being read", "Send this one again in a few seconds.")


def _ended() -> Problem:
    return Problem(
        413, "This file takes too much to read", "Reading it took too long or too much memory. Send it in parts, or smaller."
    )


# With what is done before and after, an answer comes within five seconds where the machine has nothing else to do.
_reading = Apart(most_bytes=230 * MB, longest_s=3.5, queue_s=1.0, waiting=2, busy=_busy, ended=_ended)


def read_apart(work: Callable[P, T], *given: P.args, **named: P.kwargs) -> T:
    """Return what the work makes of a file.

    Errors: Problem where it does not take the file, where it takes too much to read, or others are being read.
    """
    try:
        return _reading.do(work, *given, **named)
    except NotTaken as wrong:
        raise Problem(wrong.status, wrong.title, wrong.detail) from None


@contextmanager
def on_disk(file: Any) -> Iterator[Path]:
    """Yield where an upload lies on disk; it is gone afterwards."""
    folder = Path(settings.FILES_ROOT) / "coming"
    folder.mkdir(parents=True, exist_ok=True)
    with NamedTemporaryFile(dir=folder) as there:
        for piece in file.chunks():
            there.write(piece)
        there.flush()
        yield Path(there.name)
