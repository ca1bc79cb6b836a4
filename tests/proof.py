"""Tables made by the tests, kept in docs/proof: what is made must be what is kept; OFEN_PROOF=1 writes it anew."""

import os
from collections.abc import Iterable, Sequence

from ofen.figures.dialects import worded
from tests.conftest import ROOT

FOLDER = ROOT / "docs" / "proof"


def proven(name: str, title: str, heads: Sequence[str], rows: Iterable[Sequence[object]], words: str = "") -> None:
    """Hold a table against the one in docs/proof, and say which command writes it anew."""
    lines = [f"# {title}", "", "Made by the tests; `OFEN_PROOF=1` before them writes it anew.", ""]
    lines += [words, ""] if words else []
    lines += [_line(heads), _line("---" for _ in heads), *(_line(r) for r in rows), ""]
    text, path = worded("\n".join(lines), "british"), FOLDER / f"{name}.md"
    if os.environ.get("OFEN_PROOF"):
        FOLDER.mkdir(exist_ok=True)
        path.write_text(text, encoding="utf-8")
    assert path.exists() and path.read_text(encoding="utf-8") == text, f"docs/proof/{name}.md is not what the tests make"


def _line(cells: Iterable[object]) -> str:
    return "| " + " | ".join(str(c).replace("|", "/") for c in cells) + " |"
