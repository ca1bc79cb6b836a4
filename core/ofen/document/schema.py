"""The JSON Schema of a declared document, with labels and kinds of quantity for screens."""

from __future__ import annotations

import dataclasses
from typing import Any

from .fields import Spec


def schema(cls: type) -> dict[str, Any]:
    """Return the JSON Schema (2020-12) of a dataclass, with labels and quantity kinds for screens.

    Source: JSON Schema 2020-12.
    """
    kind = {"kind": {"const": cls.KIND}} if hasattr(cls, "KIND") else {}
    return {
        "type": "object",
        "additionalProperties": False,
        **({"required": ["kind"]} if kind else {}),
        "properties": kind | {f.name: _schema_of(f.metadata["spec"]) | _default_of(f) for f in dataclasses.fields(cls)},
    }


def _default_of(field: Any) -> dict[str, Any]:
    spec, value = field.metadata["spec"], field.default
    return {} if spec.shape in ("one", "many", "texts") or value in (None, "") else {"default": value}


def _schema_of(spec: Spec) -> dict[str, Any]:
    about = {"title": spec.label} | ({"description": spec.help} if spec.help else {})
    if spec.shape == "one":
        inner = schema(spec.of)
        return about | inner | ({"type": ["object", "null"]} if spec.optional else {})
    if spec.shape == "many":
        items = {"oneOf": [schema(c) for c in spec.of.values()]} if isinstance(spec.of, dict) else schema(spec.of)
        return about | {"type": "array", "maxItems": spec.most, "items": items}
    if spec.shape == "text":
        return about | {"type": "string", "maxLength": spec.most}
    if spec.shape == "texts":
        return about | {"type": "array", "maxItems": spec.most, "items": {"type": "string"}}
    if spec.shape == "moment":
        return about | {"type": "string", "format": "date-time"}
    if spec.shape == "day":
        return about | {"type": ["string", "null"], "format": "date"}
    if spec.shape == "flag":
        return about | {"type": ["boolean", "null"]}
    if spec.shape == "choice":
        words = [w for w, _ in spec.options]
        return about | {"enum": [*words, None], "x-options": [{"value": w, "reads": r} for w, r in spec.options]}
    return about | {
        "type": ["integer" if spec.shape == "whole" else "number", "null"],
        "minimum": spec.low,
        "maximum": spec.high,
        "x-kind": spec.kind,
    }
