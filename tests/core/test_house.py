"""The house's own linter finds what it is for, and the project keeps its rules."""

import ast
import re
from pathlib import Path

import grimp
import pytest

from ofen.__main__ import verdict_pages
from ofen.figures.errors import UnknownEntry
from ofen.figures.verdicts import LEVELS, STAGES, verdict, worst
from tests.conftest import ROOT
from tools import house


def test_the_project_keeps_every_rule() -> None:
    assert [str(fault) for fault in house.broken()] == []


def test_the_linter_knows_the_stages_and_levels_of_the_core() -> None:
    assert (house.STAGES, house.LEVELS) == (STAGES, LEVELS)


@pytest.mark.parametrize(
    ("rule", "code", "says"),
    [
        (house.imports, "import numpy", "imports numpy, which is not in the standard library"),
        (house.imports, "from random import choice", "imports random: the core has no clock"),
        (house.arithmetic, "x = sum(values)", "calls sum, which differs between machines"),
        (house.arithmetic, "x = math.log10(y)\nz = log10(y)", "calls log10"),
        (
            house.docstrings,
            'def loss_w(area_m2):\n    """Return it.\n\n    Arguments: wall_m2.\n    Source: x.\n    """',
            "loss_w documents arguments it has not: wall_m2",
        ),
        (house.swapped, "def drop_pa(a, b, c, d, e, f, g):\n    pass", "drop_pa takes 7 values by position"),
        (house.swapped, "@dataclass\nclass Pipe:\n" + "".join(f"    {n}: float\n" for n in "abcdefg"), "Pipe takes 7 values"),
    ],
)
def test_a_line_that_breaks_a_rule_is_named(rule: house.Rule, code: str, says: str) -> None:
    (fault,) = rule(Path("sample.py"), ast.parse(code))
    assert str(fault).startswith("sample.py:")
    assert says in str(fault)


@pytest.mark.parametrize(
    ("rule", "code"),
    [
        (house.imports, "import math\nfrom .numerics import rounded\nfrom ofen.document.job import load"),
        (house.arithmetic, "x = math.fsum(values) + math.log(y)"),
        (
            house.docstrings,
            'def loss_w(area_m2):\n    """Return it.\n\n    Arguments: area_m2.\n    Source: common practice.\n    """',
        ),
        (house.docstrings, "def _loss_w():\n    pass"),
        (house.swapped, "def drop_pa(self, a, b, c, d, e, f, *, g):\n    pass"),
        (house.swapped, "@dataclass(kw_only=True)\nclass Pipe:\n" + "".join(f"    {n}: float\n" for n in "abcdefg")),
    ],
)
def test_a_line_that_keeps_the_rules_is_not_named(rule: house.Rule, code: str) -> None:
    assert list(rule(Path("sample.py"), ast.parse(code))) == []


@pytest.mark.parametrize("place", ["physics/air/humid.py", "physics/pipes/gas_line.py"])
def test_physics_names_its_source_and_the_rest_need_not(place: str) -> None:
    tree = ast.parse('class Pipe:\n    def drop_pa(self):\n        """Return the drop."""')
    assert [f.says for f in house.sources(house.CORE / place, tree)] == ["drop_pa names no source"]
    assert list(house.sources(house.CORE / "need" / "heat.py", tree)) == []
    bare = ast.parse('def drop_pa():\n    """Return the drop.\n\n    Equation: x.\n    Source: y.\n    """')
    assert [f.says for f in house.sources(house.CORE / place, bare)] == [
        "drop_pa has an equation and does not say how far it holds"
    ]


def test_an_arrow_that_runs_up_or_across_and_a_circle_are_named() -> None:
    graph = grimp.ImportGraph()
    for module in ("ofen", "ofen.plan", "ofen.plant", "ofen.plant.gas", "ofen.physics", "ofen.document"):
        graph.add_module(module)
    floors = (("plan",), ("plant",), ("document", "physics"))
    graph.add_import(importer="ofen.plan", imported="ofen.plant.gas")
    graph.add_import(importer="ofen.plant.gas", imported="ofen.physics")
    assert list(house.arrows(graph, floors)) == []
    assert list(house.circles(graph)) == []
    graph.add_import(importer="ofen.physics", imported="ofen.plant.gas")
    assert list(house.arrows(graph, floors)) == ["ofen.physics takes from ofen.plant.gas, which stands above it"]
    assert list(house.circles(graph)) == ["ofen.physics and ofen.plant.gas take from each other"]
    graph.remove_import(importer="ofen.physics", imported="ofen.plant.gas")
    graph.add_import(importer="ofen.document", imported="ofen.physics")
    assert list(house.arrows(graph, floors)) == ["ofen.document takes from ofen.physics, which stands above it"]


def test_a_table_without_source_or_rows_is_named(tmp_path: Path) -> None:
    (tmp_path / "pipes.csv").write_text("# Pipes.\nname,bore_m\n", encoding="utf-8")
    (tmp_path / "looks.toml").write_text("# Looks. Source: common practice.\n", encoding="utf-8")
    assert [f.says for f in house.tables(tmp_path)] == ["names no source in its first three lines", "has no rows"]


def test_a_verdict_that_is_not_whole_is_named_at_its_line(tmp_path: Path) -> None:
    (tmp_path / "need.toml").write_text('# Need.\n["need.heat.lost"]\nlevel = "bad"\ntitle = "Lost"\n', encoding="utf-8")
    page = tmp_path / "verdicts.md"
    page.write_text("# Every verdict\n", encoding="utf-8")
    faults = list(house.verdicts(tmp_path, page, 'judge("need.heat.found")'))
    assert [f.says.split(":")[0] for f in faults] == [
        "need.heat.lost has the level 'bad', which is none",
        "need.heat.lost has no reason",
        "need.heat.lost has no source",
        "has no page for need.heat.lost",
        "need.heat.found is given in the core and stands in no table",
        "need.heat.lost stands in the table and is given nowhere",
    ]
    assert faults[0].line == 2


@pytest.mark.parametrize(
    "line", ["time.sleep" + "(1)", "page.wait_for_timeout" + "(200)", "page.evaluate('setTimeout" + "(done, 300)')"]
)
def test_a_test_that_waits_for_a_time_is_named(line: str) -> None:
    assert len(list(house.waits(Path("test_x.py"), f"{line}\n{line}  # waits: the clock itself is tried"))) == 1


def test_the_page_of_verdicts_is_the_one_the_core_writes() -> None:
    assert (ROOT / "docs" / "verdicts.md").read_text(encoding="utf-8") == verdict_pages()


def test_an_unknown_code_is_refused() -> None:
    with pytest.raises(UnknownEntry, match=r"verdict codes has no entry 'need\.luck'"):
        verdict("need.luck", "need", "need")


def test_the_worst_level_is_the_most_serious() -> None:
    assert worst(["good", "note", "stop", "caution"]) == "stop"
    assert worst(["good", "not_checked", "note"]) == "not_checked"
    assert worst([]) == "good"


def test_the_glossary_has_the_seven_stages() -> None:
    glossary = (ROOT / "docs" / "glossary.md").read_text(encoding="utf-8")
    for stage in STAGES:
        assert stage.capitalize() in glossary


NAMED = re.compile(r"`((?:core|server|web|tests|tools|docs|bench|bin|deploy)/[\w./-]*\w)`|\]\(([^)#:]+)\)")


@pytest.mark.parametrize(
    "page",
    [ROOT / "README.md", ROOT / "CONTRIBUTING.md", *(ROOT / "docs").glob("*.md"), *(ROOT / "docs" / "rooms").glob("*.md")],
    ids=lambda page: page.stem,
)
def test_every_file_that_a_page_names_is_there(page: Path) -> None:
    missing = []
    for path, link in NAMED.findall(page.read_text(encoding="utf-8")):
        there = (ROOT / path) if path else (page.parent / link)
        if not there.exists() and "STAGE" not in path and "NAME" not in path and "APP" not in path:
            missing.append(path or link)
    assert missing == []


def test_each_way_to_add_something_names_a_test_that_holds_it() -> None:
    rows = [line.split(" | ") for line in (ROOT / "CONTRIBUTING.md").read_text(encoding="utf-8").splitlines() if "`tests/" in line]
    held = [row[2].strip(" |`") for row in rows if len(row) == 3]
    assert len(held) == 15
    for path, _, name in (test.partition("::") for test in held):
        assert f"\ndef {name}(" in (ROOT / path).read_text(encoding="utf-8"), f"{path}::{name}"


def test_the_page_of_the_house_is_short_and_leads_to_every_room() -> None:
    text = (ROOT / "docs" / "architecture.md").read_text(encoding="utf-8")
    assert len(text.split()) <= 1_200
    assert {path.stem for path in (ROOT / "docs" / "rooms").glob("*.md")} == set(re.findall(r"\(rooms/([\w-]+)\.md\)", text))
