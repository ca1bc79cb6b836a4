"""Frozen dataclasses as JSON documents: fields declared once, from which come reading, writing and the schema."""

from .fields import (
    PLAIN,
    Spec,
    choice,
    day,
    flag,
    labels,
    many,
    maybe,
    missing,
    moment,
    number,
    one,
    options_of,
    specs,
    text,
    texts,
    whole,
)
from .members import Document, Json, Option, Rounded, members
from .parsing import MOST, read
from .schema import schema
from .times import DAY_WORDS, FIRST_YEAR, LAST_YEAR, MOMENT_WORDS, is_day, is_moment
from .writing import write

__all__ = [
    "DAY_WORDS",
    "FIRST_YEAR",
    "LAST_YEAR",
    "MOMENT_WORDS",
    "MOST",
    "PLAIN",
    "Document",
    "Json",
    "Option",
    "Rounded",
    "Spec",
    "choice",
    "day",
    "flag",
    "is_day",
    "is_moment",
    "labels",
    "many",
    "maybe",
    "members",
    "missing",
    "moment",
    "number",
    "one",
    "options_of",
    "read",
    "schema",
    "specs",
    "text",
    "texts",
    "whole",
    "write",
]
