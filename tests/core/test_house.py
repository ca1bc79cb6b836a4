"""Rules of the house: what the core may import, what its docstrings say, what every verdict code has."""

import ast
import importlib
import inspect
import pkgutil
import re
import sys
from collections.abc import Iterator
from types import ModuleType
from typing import Any

import pytest

import ofen
from ofen import tables
from ofen.__main__ import verdict_pages
from ofen.errors import UnknownEntry
from ofen.verdicts import LEVELS, STAGES, rules, verdict, worst
from tests.conftest import ROOT

CORE = ROOT / "core" / "ofen"
FORBIDDEN = {"threading", "socket", "time", "os", "subprocess", "random", "asyncio", "zoneinfo"}


def modules() -> Iterator[ModuleType]:
    for found in pkgutil.walk_packages(ofen.__path__, "ofen."):
        if not found.name.endswith("__main__"):
            yield importlib.import_module(found.name)


def public_functions() -> Iterator[tuple[str, Any]]:
    for module in modules():
        for name, value in vars(module).items():
            if name.startswith("_") or getattr(value, "__module__", "") != module.__name__:
                continue
            function = inspect.unwrap(value)
            if inspect.isfunction(function):
                yield f"{module.__name__}.{name}", function
            elif inspect.isclass(value):
                for method, body in vars(value).items():
                    if inspect.isfunction(body) and not method.startswith("_"):
                        yield f"{module.__name__}.{name}.{method}", body


FUNCTIONS = dict(public_functions())


@pytest.mark.parametrize("path", sorted(CORE.rglob("*.py")), ids=lambda p: str(p.relative_to(CORE)))
def test_the_core_imports_the_standard_library_and_itself_only(path: Any) -> None:
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        names = (
            [a.name for a in node.names]
            if isinstance(node, ast.Import)
            else [node.module or ""]
            if isinstance(node, ast.ImportFrom) and node.level == 0
            else []
        )
        for name in names:
            top = name.split(".")[0]
            assert top in sys.stdlib_module_names, name
            assert top not in FORBIDDEN, name


@pytest.mark.parametrize("path", sorted(CORE.rglob("*.py")), ids=lambda p: str(p.relative_to(CORE)))
def test_floats_are_never_summed_or_logged_in_a_way_that_differs_between_machines(path: Any) -> None:
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name):
            assert node.func.id not in ("sum", "log10"), f"{path.name}:{node.lineno}"


@pytest.mark.parametrize("name", sorted(FUNCTIONS))
def test_every_public_function_says_what_it_does_and_its_source(name: str) -> None:
    text = inspect.getdoc(FUNCTIONS[name]) or ""
    assert text.split("\n")[0].strip(), name
    if name.startswith("ofen.commissioning.state.RunState") or "Error" in name:
        return
    assert re.search(r"^Source: \S", text, re.MULTILINE), f"{name} names no source"


@pytest.mark.parametrize("name", sorted(FUNCTIONS))
def test_documented_arguments_exist(name: str) -> None:
    text = inspect.getdoc(FUNCTIONS[name]) or ""
    found = re.search(r"^Arguments: (.*?)(?=^\w+: |\Z)", text, re.MULTILINE | re.DOTALL)
    if not found:
        return
    known = set(inspect.signature(FUNCTIONS[name]).parameters)
    outside = re.sub(r"`[^`]*`|\"[^\"]*\"|\([^)]*\)", "", found[1])
    mentioned = set(re.findall(r"\b[a-z]+(?:_[a-z0-9]+)+\b", outside))
    assert mentioned <= known, f"{name} documents {mentioned - known}"


@pytest.mark.parametrize("code", sorted(rules()))
def test_every_verdict_code_is_whole_and_has_its_page(code: str) -> None:
    rule = rules()[code]
    assert rule.level in LEVELS
    assert rule.stage in STAGES
    assert rule.title
    assert rule.reason
    assert rule.remedy
    assert rule.source
    assert f"\n## {code}\n" in (ROOT / "docs" / "verdicts.md").read_text(encoding="utf-8")


def test_the_page_of_verdicts_is_the_one_the_core_writes() -> None:
    assert (ROOT / "docs" / "verdicts.md").read_text(encoding="utf-8") == verdict_pages()


def test_every_code_in_the_table_is_given_somewhere_and_every_code_given_is_in_the_table() -> None:
    source = "\n".join(p.read_text(encoding="utf-8") for p in CORE.rglob("*.py"))
    given = set(re.findall(r'"((?:{})\.[a-z_]+\.[a-z_]+)"'.format("|".join(STAGES)), source))
    paths_in_the_document = {
        "siting.usual.position",
        "siting.building.length_m",
        *(f"siting.air.{name}" for name in ("co_alarm", "sleeps", "humidity_fraction", "wind_from_deg")),
    }
    assert given - paths_in_the_document == set(rules())


def test_an_unknown_code_is_refused() -> None:
    with pytest.raises(UnknownEntry, match=r"verdict codes has no entry 'need\.luck'"):
        verdict("need.luck", "need", "need")


def test_the_worst_level_is_the_most_serious() -> None:
    assert worst(["good", "note", "stop", "caution"]) == "stop"
    assert worst(["good", "not_checked", "note"]) == "not_checked"
    assert worst([]) == "good"


@pytest.mark.parametrize("path", sorted((CORE / "tables").glob("*.*")), ids=lambda p: p.name)
def test_every_table_names_its_source_in_its_head(path: Any) -> None:
    if path.suffix == ".py" or path.is_dir():
        return
    head = "\n".join(path.read_text(encoding="utf-8").split("\n")[:3])
    assert "Source" in head
    if path.suffix == ".csv":
        assert tables.rows(path.name)


def test_the_glossary_has_the_seven_stages() -> None:
    glossary = (ROOT / "docs" / "glossary.md").read_text(encoding="utf-8")
    for stage in STAGES:
        assert stage.capitalize() in glossary
