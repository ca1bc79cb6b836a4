"""The contract of the API holds every question of the core as the core declares it, and no shape under two meanings."""

import json
from dataclasses import dataclass
from typing import Any

import pytest

from ofen.figures.assessment import TABLES
from ofen.questions.asking import ROOMS, question
from ofen.questions.parsing import known_in_order
from ofen_server.api import api
from ofen_server.contract import Contract, Twice, Unknown, _resolve, core

CONTRACT: dict[str, Any] = json.loads(json.dumps(api.get_openapi_schema()))
SCHEMAS = CONTRACT["components"]["schemas"]


def test_every_question_has_its_address_its_shapes_and_its_fields() -> None:
    for key in ROOMS:
        operation = CONTRACT["paths"][f"/api/ask/{key}"]["post"]
        asks = operation["requestBody"]["content"]["application/json"]["schema"]
        assert asks == SCHEMAS["Questions"]["properties"][key]["properties"]["asks"]
        shape = SCHEMAS[asks["$ref"].rsplit("/", 1)[1]]
        assert list(shape["properties"]) == list(known_in_order(question(key).asks))
        assert operation["summary"] == question(key).says
    assert set(SCHEMAS["Questions"]["properties"]) == {*ROOMS, "changes", "verify", "bring_in"}


def test_every_table_of_a_stage_is_told_by_the_classes_of_its_rows() -> None:
    told = SCHEMAS["Tables"]["properties"]
    assert set(told) == {name for name, classes in TABLES.items() if classes[0].__module__.startswith("ofen.")}
    assert told["candidates"]["items"] == {"$ref": "#/components/schemas/Candidate"}
    assert len(told["drawing"]["items"]["anyOf"]) == 7
    assert SCHEMAS["Tables"]["required"] == []


def test_what_an_entry_must_have_is_asked_and_the_rest_may_be_missing() -> None:
    weight = SCHEMAS["Weight"]
    assert weight["required"] == ["kind", "id", "at", "vessel", "value"]
    assert weight["properties"]["kind"] == {"const": "weight"}
    assert {"$ref": "#/components/schemas/Weight"} in SCHEMAS["LogEntry"]["oneOf"]
    # The state of a step is whole.
    assert set(SCHEMAS["TuneState"]["required"]) == set(SCHEMAS["TuneState"]["properties"])


def test_two_classes_of_one_name_and_a_shape_that_is_none_are_refused() -> None:
    @dataclass
    class Figure:
        value: float

    contract = Contract()
    one = Figure

    @dataclass
    class Figure:  # type: ignore[no-redef]  # that is what is refused
        other: float

    contract.shape(one)
    with pytest.raises(Twice, match="two classes called Figure"):
        contract.shape(Figure)
    with pytest.raises(Unknown, match="no shape called Nothing"):
        _resolve({"x-core": "Nothing"}, contract)
    assert core("LogEntry") is not None


def test_what_no_contract_can_say_is_refused() -> None:
    with pytest.raises(TypeError, match="no contract can say"):
        Contract().of(bytes)
