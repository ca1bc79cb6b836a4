"""Pictures that are kept with a job: written again, rid of what they carried beside the picture, made small; nothing here asks the database."""

import io
import re
import warnings
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from PIL import Image, ImageOps

from ofen.figures.errors import Fault, JobFaults
from ofen_server.apart import MB, NotTaken

PDF = "application/pdf"
IMAGES = {"JPEG": "image/jpeg", "PNG": "image/png"}
# A picture of a phone comes in another form that holds several; the first of them is the picture.
FORMS = {"JPEG": "JPEG", "MPO": "JPEG", "PNG": "PNG"}
# A page of A4 has no more at 300 to the inch: what is larger is kept as large as that.
KEPT = (3508, 3508)
SMALL = (640, 640)
SMALL_QUALITY, KEPT_QUALITY = 72, 88
# A JPEG is made smaller while it is read; of a PNG all has to be held at once.
MOST_MEGAPIXELS = {"JPEG": 120, "PNG": 40}
MOST_HELD_BYTES = 160 * MB
# Pictures of a palette, or of black and white, are made smaller only once their colours can be blended.
BLENDS = {"P": "RGBA", "1": "L"}


def no_paper() -> NotTaken:
    """Return the refusal of what is no paper."""
    return NotTaken(422, "This file type is not accepted", "Only a PDF, a JPEG or a PNG is accepted here.")


def no_picture() -> NotTaken:
    """Return the refusal of what is no picture."""
    return NotTaken(422, "This is not a picture", "Only a JPEG or a PNG is accepted here.")


def too_many_pixels() -> NotTaken:
    """Return the refusal of a picture that would take too much to read."""
    most = MOST_MEGAPIXELS
    detail = f"At most {most['JPEG']} megapixels are accepted as JPEG, {most['PNG']} as PNG."
    return NotTaken(413, "This picture is too large", detail)


def written_again(content: bytes, only_pictures: bool) -> tuple[str, bytes, bytes | None]:
    """Return a paper's kind, its content as it is kept, and the same made small; a picture leaves behind what it carried beside itself.

    Errors: NotTaken for what is no PDF, JPEG or PNG, or a picture of too many pixels.
    """
    if content.startswith(b"%PDF-"):
        if only_pictures:
            raise no_picture()
        return PDF, content, None
    out = io.BytesIO()
    with _opened(content, no_picture() if only_pictures else no_paper()) as (picture, form):
        picture.draft("RGB", KEPT)
        # Made smaller before anything else: each step after it holds the picture twice.
        image = picture.convert(BLENDS[picture.mode]) if picture.mode in BLENDS else picture
        image.thumbnail(KEPT)
        ImageOps.exif_transpose(image, in_place=True)
        clear = form == "PNG" and ("A" in image.getbands() or "transparency" in image.info)
        image = _of(image, "RGBA" if clear else "RGB")
        image.info.clear()
        if form == "JPEG":
            image.save(out, "JPEG", quality=KEPT_QUALITY)
        else:
            image.save(out, "PNG", compress_level=4)
        return IMAGES[form], out.getvalue(), _made_small(image)


def small(path: Path) -> bytes:
    """Return a picture that is kept as small as paper or a screen full of them needs it.

    Errors: NotTaken for what is no picture.
    """
    with _opened(path.read_bytes(), no_picture()) as (picture, _):
        picture.draft("RGB", SMALL)
        image = picture.convert(BLENDS[picture.mode]) if picture.mode in BLENDS else picture
        image.thumbnail(SMALL)
        return _made_small(image)


def _of(picture: Image.Image, mode: str) -> Image.Image:
    return picture if picture.mode == mode else picture.convert(mode)


def _made_small(picture: Image.Image) -> bytes:
    out = io.BytesIO()
    clear = ImageOps.contain(picture, SMALL).convert("RGBA")
    image = Image.new("RGB", clear.size, "white")
    image.paste(clear, mask=clear.getchannel("A"))
    image.save(out, "JPEG", quality=SMALL_QUALITY)
    return out.getvalue()


@contextmanager
def _opened(content: bytes, wrong: NotTaken) -> Iterator[tuple[Image.Image, str]]:
    """Open a picture; whatever is found while it is read that is none is the error given."""
    try:
        with warnings.catch_warnings():
            # How many pixels are too many is told below.
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            picture = Image.open(io.BytesIO(content), formats=list(IMAGES))
            form = FORMS[str(picture.format)]
            _within_bounds(picture, form)
            yield picture, form
    except NotTaken:
        raise
    except Image.DecompressionBombError:
        raise too_many_pixels() from None
    except (OSError, ValueError, SyntaxError, KeyError):
        raise wrong from None


def _within_bounds(picture: Image.Image, form: str) -> None:
    pixels = picture.width * picture.height
    if pixels > MOST_MEGAPIXELS[form] * 1_000_000 or pixels * _held(picture, form) > MOST_HELD_BYTES:
        raise too_many_pixels()


def _held(picture: Image.Image, form: str) -> float:
    """How many bytes a pixel takes while it is read. A JPEG is made smaller on the way, but one that comes in several passes is held whole."""
    if form == "PNG":
        return {"1": 2, "L": 1, "P": 5, "I;16": 2}.get(picture.mode, 4)
    if not picture.info.get("progressive"):
        return 0.0
    layers: list[tuple[int, int]] = [(across, down) for _, across, down, _ in picture.layer]  # type: ignore[attr-defined]  # only a JPEG has them
    return 2.0 * sum(a * d for a, d in layers) / max(a * d for a, d in layers)


def as_it_is(content: bytes, kind: str, at: str) -> bytes:
    """Return a picture of a job file pixel for pixel, without what it carried beside itself: place, camera, words, what follows its end.

    Errors: JobFaults naming its place, where it is no picture of this kind or one of too many pixels.
    """
    try:
        with _opened(content, no_picture()) as (_, form):
            if IMAGES[form] != kind:
                raise JobFaults([Fault(at, "is not the picture that the manifest says")])
        return _jpeg_alone(content) if form == "JPEG" else _png_alone(content)
    except NotTaken as wrong:
        said = "has too many pixels" if wrong.status == 413 else "is no picture"
        raise JobFaults([Fault(at, said)]) from None


# What of a JPEG makes the picture: all but the segments for applications and comments, of which two say how its colours are meant.
_JPEG_FOR_OTHERS = {*range(0xE0, 0xF0), 0xFE}
_JPEG_MEANT = ((0xE0, b"JFIF\0"), (0xEE, b"Adobe"))
_JPEG_NEXT = re.compile(rb"\xff[^\x00\xff\xd0-\xd7]")


def _jpeg_alone(content: bytes) -> bytes:
    out, at = [content[:2]], 2
    while True:
        marker = _JPEG_NEXT.match(content, at)
        if marker is None:
            raise no_picture()
        kind = content[at + 1]
        if kind == 0xD9:
            return b"".join([*out, b"\xff\xd9"])
        length = int.from_bytes(content[at + 2 : at + 4], "big")
        end = at + 2 + length
        if length < 2 or end > len(content):
            raise no_picture()
        if kind == 0xDA:
            follows = _JPEG_NEXT.search(content, end)
            if follows is None:
                raise no_picture()
            end = follows.start()
        meant = any(kind == k and content.startswith(begins, at + 4) for k, begins in _JPEG_MEANT)
        if kind not in _JPEG_FOR_OTHERS or meant:
            out.append(content[at:end])
        at = end


_PNG_MARK = b"\x89PNG\r\n\x1a\n"
_PNG_PICTURE = {
    b"IHDR", b"PLTE", b"IDAT", b"IEND", b"tRNS", b"gAMA", b"cHRM", b"sRGB", b"iCCP", b"sBIT", b"bKGD", b"pHYs",
}  # fmt: skip


def _png_alone(content: bytes) -> bytes:
    out, at = [_PNG_MARK], len(_PNG_MARK)
    while True:
        end = at + 12 + int.from_bytes(content[at : at + 4], "big")
        if end > len(content):
            raise no_picture()
        kind = content[at + 4 : at + 8]
        if kind in _PNG_PICTURE:
            out.append(content[at:end])
        if kind == b"IEND":
            return b"".join(out)
        at = end
