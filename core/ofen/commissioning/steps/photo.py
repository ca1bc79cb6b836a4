"""Photo: a picture that shows it; the picture itself is kept beside the record."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import ClassVar

from ...document import text
from ..lines import PictureLine
from .base import Run, Show, State, Step, StepEvent


@dataclass(frozen=True)
class PhotoTaken(StepEvent):
    """A picture taken: its id, by which it is kept."""

    KIND: ClassVar[str] = "photo_taken"
    DID: ClassVar[str] = "a picture was taken"
    photo: str = text("Photo", 40, needed=True)

    def at_step(self, step: Photo, state: PhotoState, run: Run) -> None:
        """Take the step as done.

        Arguments: step, state (changed), run (changed).
        """
        state.photo, state.status, state.say, state.gate = self.photo, "done", "", ""
        run.photos.append(PictureLine(self.photo, self.step, self.at, self.by, step.title))


@dataclass
class PhotoState(State):
    """The picture taken last."""

    KIND: ClassVar[str] = "photo"
    photo: str = text("Photo", 40)


@dataclass(frozen=True)
class Photo(Step):
    """A step at which a picture is taken."""

    KIND: ClassVar[str] = "photo"
    WORD: ClassVar[str] = "Photo"
    STATE: ClassVar[type[State]] = PhotoState
    EVENTS = (PhotoTaken,)
    GATES: ClassVar[dict[str, str]] = {"photo_missing": "This picture is missing."}

    def told(self, state: PhotoState, show: Show) -> str:
        """Return that there is one.

        Arguments: state, show.
        """
        return "taken" if state.photo else ""

    def done_well(self, values: Mapping[str, float]) -> Iterator[tuple[float, dict[str, object]]]:
        """Give one picture.

        Arguments: values.
        """
        yield 30.0, {"kind": PhotoTaken.KIND, "step": self.id, "photo": f"photo-{self.id}"[:40]}


STEP = Photo
