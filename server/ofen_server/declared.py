"""Shapes on the wire made from the core's own declarations, so that a kind declared there is known here."""

from typing import Any, Literal, Union

from ninja import Schema
from pydantic import Field, create_model

from ofen.document import Spec, specs

SIMPLE: dict[str, Any] = {"number": float | None, "whole": int | None, "text": str, "moment": str, "flag": bool | None}


def _type(spec: Spec) -> Any:
    if spec.shape == "choice":
        # mypy knows no literal made of values; the contract does.
        return Literal[tuple(word for word, _ in spec.options)] | None
    if spec.shape == "one":
        return shape(spec.of)
    if spec.shape == "many":
        return list[union(spec.of.values()) if isinstance(spec.of, dict) else shape(spec.of)]  # type: ignore[misc]
    if spec.needed:
        return {"number": float, "whole": int, "flag": bool}.get(spec.shape, str)
    return SIMPLE[spec.shape]


_made: dict[Any, Any] = {}


def shape(cls: Any, name: str = "") -> Any:
    """Return the shape of a declared dataclass; with a KIND it is told apart by that."""
    if cls not in _made:
        fields: dict[str, Any] = {"kind": (Literal[cls.KIND], ...)} if hasattr(cls, "KIND") else {}
        for field, spec in specs(cls).items():
            empty: Any = "" if spec.shape in ("text", "moment") else [] if spec.shape == "many" else None
            fields[field] = (_type(spec), ... if spec.needed or spec.shape == "one" else empty)
        doc = (cls.__doc__ or "").strip().split("\n")[0]
        _made[cls] = create_model(name or f"{cls.__name__}Out", __base__=Schema, __doc__=doc, **fields)
    return _made[cls]


def union(classes: Any) -> Any:
    """Return the shape that is one of several, told apart by `kind`."""
    made = [shape(c) for c in classes]
    return made[0] if len(made) == 1 else Union[tuple(made)]  # noqa: UP007  made of values


def one_of(classes: Any) -> Any:
    """Return a field type that is one of several kinds."""
    from typing import Annotated

    return Annotated[union(classes), Field(discriminator="kind")]
