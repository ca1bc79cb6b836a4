"""The press: PDFs are set in a process of their own, one at a time, bounded in time and memory, so that nobody else waits."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

from django.conf import settings

from ofen_server.apart import Apart
from ofen_server.errors import Problem


def busy() -> Problem:
    """Return the refusal while other papers are being made."""
    return Problem(503, "The press is busy", "Other papers are being made. Try again in a minute.")


def failed() -> Problem:
    """Return the refusal of what could not be set."""
    return Problem(
        503, "This paper was not made", "It took too long or too much memory. The log as CSV and the whole job can be had."
    )


_press = Apart(most_bytes=2 * 1024**3, longest_s=60.0, queue_s=20.0, waiting=2, busy=busy, ended=failed)


def _set(pages: tuple[str, ...], faces: str, fonts: str) -> bytes:
    from weasyprint import CSS, HTML
    from weasyprint.text.fonts import FontConfiguration
    from weasyprint.urls import URLFetcher

    class Own(URLFetcher):  # type: ignore[misc]  # the package has no types
        """Fetches what the page carries itself, and the application's own fonts; nothing else."""

        def fetch(self, url: str, *rest: Any, **more: Any) -> Any:
            if not url.startswith(("data:", fonts)):
                raise ValueError(f"{url[:80]} is not fetched")
            return super().fetch(url, *rest, **more)

    known = FontConfiguration()
    own = Own()
    sheets = [CSS(string=faces, font_config=known, url_fetcher=own)] if faces else []
    for html in pages:
        set_up = HTML(string=html, url_fetcher=own).render(stylesheets=sheets, font_config=known, pdf_variant="pdf/ua-1")
        if len(set_up.pages) == 1:
            break
    return bytes(set_up.write_pdf(pdf_variant="pdf/ua-1"))


def faces(url_of: Callable[[Path], str] = Path.as_uri) -> str:
    """Return the faces of the application's own type as CSS, each at what `url_of` says of its file; none without a built front end."""
    folder = Path(settings.WHITENOISE_ROOT) / "assets"
    found = [p for ranges in ("latin", "latin-ext") for p in sorted(folder.glob(f"archivo-{ranges}-wdth-normal*.woff2"))]
    # The wider range first: of two faces of one name a page takes the later one where that has the letter.
    return "".join(f'@font-face {{ font-family: Archivo; src: url("{url_of(path)}") format("woff2") }}' for path in found[::-1])


def stop() -> None:
    """End the process of the press, in the middle of a paper if need be."""
    _press.stop()


def pdf_of(*pages: str) -> bytes:
    """Return a paper as PDF, of several ways to set it the first that fits one sheet, else the last; 503 where the press is busy."""
    return _press.do(_set, pages, faces(), (Path(settings.WHITENOISE_ROOT) / "assets").as_uri())
