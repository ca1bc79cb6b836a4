"""Tables of the trade, each a file named for its publication and year with its source in the head."""

from __future__ import annotations

import csv
import tomllib
from functools import cache
from importlib.resources import files
from typing import Any


def read_text(name: str) -> str:
    """Return the text of a table file.

    Arguments: name of a file in this folder.
    """
    return files(__name__).joinpath(name).read_text(encoding="utf-8")


@cache
def rows(name: str) -> tuple[dict[str, str], ...]:
    """Return the rows of a CSV table, comment lines left out.

    Arguments: name of a CSV file in this folder.
    Source: the head of the file.
    """
    lines = [line for line in read_text(name).splitlines() if line and not line.startswith("#")]
    return tuple(csv.DictReader(lines))


@cache
def toml(name: str) -> dict[str, Any]:
    """Return a TOML table.

    Arguments: name of a TOML file in this folder.
    Source: the head of the file.
    """
    return tomllib.loads(read_text(name))


def folder(name: str) -> dict[str, dict[str, Any]]:
    """Return the records of a folder of TOML files by the names of the files.

    Arguments: name of a folder in this one.
    Source: the head of each file.
    """
    there = (f for f in files(__name__).joinpath(name).iterdir() if f.name.endswith(".toml"))
    return {f.name.removesuffix(".toml"): tomllib.loads(f.read_text(encoding="utf-8")) for f in there}
