"""The contract: every question with its answer as JSON Schema, made of the dataclasses that declare them."""

from __future__ import annotations

import dataclasses
import typing
from collections.abc import Iterable, Iterator, Mapping
from importlib import import_module
from pkgutil import walk_packages
from typing import Annotated, Any

from pydantic import WithJsonSchema

import ofen
from ofen.commissioning.instruments.shelf import Check, Instrument
from ofen.commissioning.instruments.used import Used
from ofen.commissioning.run import kinds as events
from ofen.document import Spec, specs
from ofen.document.members import has_default, is_by_name, is_quantity, is_shape, kind_of, marked, members, parts
from ofen.document.writing import LISTS, OBJECTS
from ofen.figures.assessment import TABLES, Row
from ofen.figures.errors import OfenError
from ofen.handover.verify import FileFinding
from ofen.questions.asking import all_questions
from ofen.questions.changes import Changes, ChangesQuestion
from ofen.questions.handover import BringInQuestion, BroughtIn, VerifyQuestion
from ofen.questions.parsing import As
from ofen.running.kinds import KINDS

PLAIN = {str: "string", int: "integer", float: "number", bool: "boolean", type(None): "null"}
QUANTITY = "Quantity"
Schema = dict[str, Any]


class Twice(OfenError, ValueError):
    """Two classes of the contract have one name."""

    def __init__(self, name: str, one: object, other: object) -> None:
        super().__init__(f"the contract has two classes called {name}: {one!r} and {other!r}")


class Unknown(OfenError, KeyError):
    """The API names a shape that the core does not have."""

    def __init__(self, name: str) -> None:
        super().__init__(f"the core has no shape called {name}")


class Contract:
    """The schemas of all that is asked and answered, by the names of their classes."""

    def __init__(self) -> None:
        self.schemas: dict[str, Schema] = {
            QUANTITY: _object({"value": {"type": "number"}, "kind": {"type": "string"}}, "A value in SI, and its kind."),
        }
        self._classes: dict[str, Any] = {}
        self._named = {"LogEntry": KINDS.values, "RunEvent": events().values}

    def of(self, hint: Any) -> Schema:
        """Return the schema of a type; that of a class stands among `schemas` and is named here.

        Arguments: hint, as an annotation says it.
        Errors: TypeError for a type that no contract can say, Twice for two classes of one name.
        """
        bare, marks = marked(hint)
        if is_by_name(hint):
            return {"type": "object", "additionalProperties": self._quantity()}
        if meant := next((m.name for m in marks if isinstance(m, As)), None):
            return {"type": "array", "items": self.named(meant)}
        kinds = parts(bare)
        some = [k for k in kinds if k is not type(None)]
        if is_quantity(some):
            return _any([self._quantity(), *([{"type": "null"}] if len(some) < len(kinds) else [])])
        if len(kinds) > 1:
            return _any(self.of(k) for k in kinds)
        return self._one(bare)

    def named(self, name: str) -> Schema:
        """Return the reference to what is one of several kinds and has a name of its own.

        Arguments: name, such as LogEntry.
        """
        if name not in self.schemas:
            self.schemas[name] = {"oneOf": [self.shape(cls) for cls in self._named[name]()]}
            for cls in self._named[name]():
                # One that is made on a device says what it must; the rest is what stands there by itself.
                self.schemas[cls.__name__]["required"] = ["kind", *(n for n, s in specs(cls).items() if s.needed)]
        return _ref(name)

    def shape(self, cls: Any) -> Schema:
        """Return the reference to the schema of a class.

        Arguments: cls, a dataclass or a named tuple.
        """
        name = cls.__name__
        if self._classes.setdefault(name, cls) is not cls:
            raise Twice(name, self._classes[name], cls)
        if name not in self.schemas:
            self.schemas[name] = {}
            self.schemas[name] = self._of_class(cls)
        return _ref(name)

    def asked(self, cls: Any) -> Schema:
        """Return the reference to the schema of what is asked: fields with a default may be missing.

        Arguments: cls, the dataclass of a question.
        """
        self.shape(cls)
        whole = self.schemas[cls.__name__]
        free = {f.name for f in dataclasses.fields(cls) if has_default(f)}
        whole["required"] = [n for n in whole["properties"] if n not in free]
        return _ref(cls.__name__)

    def _one(self, hint: Any) -> Schema:
        origin, given = typing.get_origin(hint), typing.get_args(hint)
        if hint is object or hint is Any:
            return {}
        if hint in PLAIN:
            return {"type": PLAIN[hint]}
        if origin is typing.Literal:
            return {"enum": list(given)}
        if is_shape(hint):
            return self._kinds_of(hint) if getattr(hint, "OPEN", False) else self.shape(hint)
        if origin in LISTS:
            if origin is tuple and (len(given) < 2 or given[1] is not Ellipsis):
                long = len(given)
                return {"type": "array", "prefixItems": [self.of(g) for g in given], "minItems": long, "maxItems": long}
            return {"type": "array", "items": self.of(given[0])}
        if origin in OBJECTS:
            return self._tables() if Row in typing.get_args(given[1]) else _mapped(self.of(given[1]))
        raise TypeError(f"no contract can say {hint!r}")

    def _kinds_of(self, base: Any) -> Schema:
        return {"oneOf": [self.shape(cls) for cls in _descendants(base) if kind_of(cls)]}

    def _tables(self) -> Schema:
        if "Tables" not in self.schemas:
            self.schemas["Tables"] = {}
            rows = {name: {"type": "array", "items": _any(self.shape(c) for c in classes)} for name, classes in TABLES.items()}
            self.schemas["Tables"] = _object(dict(sorted(rows.items())), "The tables of a stage, as far as it has them.", ())
        return _ref("Tables")

    def _of_class(self, cls: Any) -> Schema:
        kind = {"kind": {"const": kind_of(cls)}} if kind_of(cls) else {}
        properties = {m.name: self._declared(m.how) if isinstance(m.how, Spec) else self.of(m.how) for m in members(cls)}
        return _object(kind | properties, (cls.__doc__ or "").strip().split("\n")[0])

    def _declared(self, spec: Spec) -> Schema:
        """The schema of a field of a document: null where nothing need be there."""
        if spec.shape == "one":
            return _any([self.shape(spec.of), *([{"type": "null"}] if spec.optional else [])])
        if spec.shape == "many":
            classes = spec.of.values() if isinstance(spec.of, Mapping) else [spec.of]
            return {"type": "array", "items": _any(self.shape(c) for c in classes)}
        if spec.shape == "texts":
            return {"type": "array", "items": {"type": "string"}}
        if spec.shape == "choice":
            words: list[str | None] = [word for word, _ in spec.options]
            return {"enum": words if spec.needed else [*words, None]}
        if spec.shape == "text":
            return {"type": "string"}
        kind = {"number": "number", "whole": "integer", "flag": "boolean"}.get(spec.shape, "string")
        return {"type": kind} if spec.needed else {"type": [kind, "null"]}

    def _quantity(self) -> Schema:
        return {"anyOf": [_ref(QUANTITY), {"type": "string"}]}


def _descendants(base: Any) -> Iterator[Any]:
    for cls in base.__subclasses__():
        yield cls
        yield from _descendants(cls)


def _ref(name: str) -> Schema:
    return {"$ref": f"#/components/schemas/{name}"}


def _any(schemas: Iterable[Schema]) -> Schema:
    choices = list(schemas)
    return choices[0] if len(choices) == 1 else {"anyOf": choices}


def _object(properties: Schema, says: str, required: Iterable[str] | None = None) -> Schema:
    return {
        "type": "object",
        "description": says,
        "properties": properties,
        "required": list(properties if required is None else required),
        "additionalProperties": False,
    }


def _mapped(schema: Schema) -> Schema:
    return {"type": "object", "additionalProperties": schema or True}


# What only a device asks, of its own engine: it has the files, and what it was told last.
OF_A_DEVICE: dict[str, tuple[type, Any, str]] = {
    "changes": (ChangesQuestion, Changes, "The plan of a document as far as it is not what was told last."),
    "verify": (VerifyQuestion, tuple[FileFinding, ...], "Whether reports and whole jobs are unchanged and belong together."),
    "bring_in": (BringInQuestion, BroughtIn, "What a file makes of a new job."),
}
# Where a question is asked, by its name.
ADDRESS = "/api/ask/{}"


def add_to(described: Schema, refusals: Schema) -> None:
    """Add the questions of the core to a description of the API: their shapes, and where each is asked.

    Arguments: described, an OpenAPI document (changed); refusals, the responses of an operation that refuses.
    Errors: Twice where the API has a shape of such a name already.
    """
    _load_all()
    contract = Contract()
    for name in ("LogEntry", "RunEvent"):
        contract.named(name)
    for cls in (Instrument, Check, Used):
        contract.shape(cls)
    questions: dict[str, Schema] = {}
    for q in all_questions():
        questions[q.key] = {"asks": contract.asked(q.asks), "answers": contract.of(q.answers)}
        described["paths"][ADDRESS.format(q.key)] = {"post": _operation(q.key, q.says, questions[q.key], refusals)}
    for key, (asks, answers, _) in OF_A_DEVICE.items():
        questions[key] = {"asks": contract.asked(asks), "answers": contract.of(answers)}
    contract.schemas["Questions"] = _object(
        {key: _object(told, "What is asked, and what is answered.") for key, told in questions.items()},
        "Every question to the core.",
    )
    known = described["components"]["schemas"]
    for name in contract.schemas.keys() & known.keys():
        raise Twice(name, "of the core", "of the API")
    known.update(contract.schemas)
    _resolve(described, contract)


def _load_all() -> None:
    """Load every room of the core, so that every table and every kind is known."""
    for module in walk_packages(ofen.__path__, "ofen."):
        if not module.name.endswith("__main__"):
            import_module(module.name)


def _operation(key: str, says: str, told: Schema, refusals: Schema) -> Schema:
    return {
        "operationId": f"ask_{key}",
        "summary": says,
        "description": f"{says} Nothing is kept.",
        "tags": ["ask"],
        "requestBody": {"required": True, "content": {"application/json": {"schema": told["asks"]}}},
        "responses": {"200": {"description": "OK", "content": {"application/json": {"schema": told["answers"]}}}} | refusals,
        "security": [{"SignedIn": []}],
    }


CORE = "x-core"


def core(name: str) -> Any:
    """Return the type of what the core writes, for an answer of the API: it is described by the core and not looked through again.

    Arguments: name of a shape of the contract, such as LogEntry.
    """
    return Annotated[Any, WithJsonSchema({CORE: name})]


def _resolve(described: Any, contract: Contract) -> None:
    """Put the shapes of the core where answers of the API name them."""
    if isinstance(described, dict):
        name = described.pop(CORE, None)
        if name is not None:
            if name not in contract.schemas:
                raise Unknown(name)
            described.clear()
            described.update(_ref(name))
        for value in described.values():
            _resolve(value, contract)
    elif isinstance(described, list):
        for value in described:
            _resolve(value, contract)
