"""Shapes on the wire made from the core's own declarations, so that a kind declared there is known here."""

from typing import Annotated, Any, Literal, Union

from pydantic import BaseModel, Field, create_model

from ofen.document import Spec, specs

SIMPLE: dict[str, Any] = {
    "number": float | None,
    "whole": int | None,
    "text": str,
    "moment": str | None,
    "day": str | None,
    "flag": bool | None,
    "texts": list[str],
}


def _type(spec: Spec, always: bool) -> Any:
    if spec.shape == "choice":
        # mypy knows no literal made of values; the contract does.
        words: Any = Literal[tuple(word for word, _ in spec.options)]
        return words if spec.needed else words | None
    if spec.shape == "one":
        return shape(spec.of, always=always) | None if spec.optional else shape(spec.of, always=always)
    if spec.shape == "many":
        return list[union(spec.of.values(), always) if isinstance(spec.of, dict) else shape(spec.of, always=always)]  # type: ignore[misc]
    if spec.needed:
        return {"number": float, "whole": int, "flag": bool}.get(spec.shape, str)
    return SIMPLE[spec.shape]


_made: dict[Any, Any] = {}


def shape(cls: Any, name: str = "", always: bool = False) -> Any:
    """Return the shape of a declared dataclass; with a KIND it is told apart by that.

    `always` says that every field is there, as the core writes it; else those that need not be given may be missing.
    """
    if cls not in _made:
        fields: dict[str, Any] = {"kind": (Literal[cls.KIND], ...)} if getattr(cls, "KIND", "") else {}
        for field, spec in specs(cls).items():
            empty: Any = "" if spec.shape == "text" else [] if spec.shape in ("many", "texts") else None
            told = always or spec.needed or (spec.shape == "one" and not spec.optional)
            fields[field] = (_type(spec, always), ... if told else empty)
        doc = (cls.__doc__ or "").strip().split("\n")[0]
        _made[cls] = create_model(name or f"{cls.__name__}Out", __base__=BaseModel, __doc__=doc, **fields)
    return _made[cls]


def union(classes: Any, always: bool = False) -> Any:
    """Return the shape that is one of several, told apart by `kind`."""
    made = [shape(c, always=always) for c in classes]
    return made[0] if len(made) == 1 else Union[tuple(made)]  # noqa: UP007  made of values


def one_of(classes: Any, always: bool = False) -> Any:
    """Return a field type that is one of several kinds."""
    return Annotated[union(classes, always), Field(discriminator="kind")]
