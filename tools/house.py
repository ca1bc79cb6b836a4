"""Check the rules of the house that no common linter knows, and print one line a fault: `python -m tools.house`."""

import ast
import re
import sys
import tomllib
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

import grimp

ROOT = Path(__file__).resolve().parents[1]
CORE = ROOT / "core" / "ofen"
# What would make an answer depend on the machine, the clock or chance.
FORBIDDEN = {"threading", "socket", "time", "os", "subprocess", "random", "asyncio", "zoneinfo"}
STAGES = ("need", "equipment", "supply", "siting", "commissioning", "running", "handover")
LEVELS = ("stop", "caution", "not_checked", "note", "good")
# Values of the document that read like a verdict code.
PATHS = {
    "siting.usual.position",
    "siting.building.length_m",
    *(f"siting.air.{name}" for name in ("co_alarm", "sleeps", "humidity_fraction", "people", "wind_from_deg")),
}
Function = ast.FunctionDef | ast.AsyncFunctionDef


@dataclass(frozen=True)
class Broken:
    """A rule that a line breaks."""

    path: Path
    line: int
    says: str

    def __str__(self) -> str:
        """The fault as one line that an editor can jump to."""
        path = self.path.relative_to(ROOT) if self.path.is_relative_to(ROOT) else self.path
        return f"{path}:{self.line}: {self.says}"


def imports(path: Path, tree: ast.Module) -> Iterator[Broken]:
    """The core imports the standard library and itself only, and nothing of it that asks the machine."""
    for node in ast.walk(tree):
        if isinstance(node, ast.Import):
            names = [a.name for a in node.names]
        elif isinstance(node, ast.ImportFrom) and node.level == 0:
            names = [node.module or ""]
        else:
            continue
        for name in names:
            top = name.split(".")[0]
            if top not in {*sys.stdlib_module_names, "ofen"}:
                yield Broken(path, node.lineno, f"imports {name}, which is not in the standard library")
            elif top in FORBIDDEN:
                yield Broken(path, node.lineno, f"imports {top}: the core has no clock, chance, threads, files or network")


def arithmetic(path: Path, tree: ast.Module) -> Iterator[Broken]:
    """Floats are never summed or logged in a way that differs between machines."""
    for node in ast.walk(tree):
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id in ("sum", "log10"):
            yield Broken(path, node.lineno, f"calls {node.func.id}, which differs between machines: use math.fsum or math.log")


# Where physics lives: each function says which published equation or table it follows.
PHYSICS = ("physics/", "figures/numerics")


def is_physics(path: Path) -> bool:
    """Whether a file of the core holds physics."""
    return path.is_relative_to(CORE) and path.relative_to(CORE).as_posix().startswith(PHYSICS)


def sources(path: Path, tree: ast.Module) -> Iterator[Broken]:
    """Every public function of physics names its source; one with an equation says how far it holds."""
    for _, function in _public(tree):
        text = ast.get_docstring(function) or ""
        said = set(re.findall(r"^(Equation|Holds for|Source): \S", text, re.MULTILINE))
        if is_physics(path) and text and "Source" not in said:
            yield Broken(path, function.lineno, f"{function.name} names no source")
        if "Equation" in said and "Holds for" not in said:
            yield Broken(path, function.lineno, f"{function.name} has an equation and does not say how far it holds")


def docstrings(path: Path, tree: ast.Module) -> Iterator[Broken]:
    """The arguments that a public function documents exist."""
    for owner, function in _public(tree):
        text = ast.get_docstring(function) or ""
        if owner == "RunState" or "Error" in owner + function.name or not text:  # a missing docstring is ruff's to find
            continue
        documented = re.search(r"^Arguments: (.*?)(?=^\w+: |\Z)", text, re.MULTILINE | re.DOTALL)
        if documented:
            plain = re.sub(r"`[^`]*`|\"[^\"]*\"|\([^)]*\)", "", documented[1])
            unknown = set(re.findall(r"\b[a-z]+(?:_[a-z0-9]+)+\b", plain)) - _arguments(function)
            if unknown:
                yield Broken(path, function.lineno, f"{function.name} documents arguments it has not: {', '.join(sorted(unknown))}")


def _public(tree: ast.Module) -> Iterator[tuple[str, Function]]:
    for node in tree.body:
        if isinstance(node, Function) and not node.name.startswith("_"):
            yield "", node
        elif isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
            for member in node.body:
                # A property is described as the value it is.
                if isinstance(member, Function) and not member.name.startswith("_") and not _is_property(member):
                    yield node.name, member


def _is_property(function: Function) -> bool:
    return any(
        ast.unparse(d).split(".")[-1] in ("property", "cached_property", "classmethod", "staticmethod")
        for d in function.decorator_list
    )


def _arguments(function: Function) -> set[str]:
    a = function.args
    return {x.arg for x in (*a.posonlyargs, *a.args, *a.kwonlyargs, *(y for y in (a.vararg, a.kwarg) if y))}


# From so many on nobody can see in a call which value is which.
MANY = 7


def swapped(path: Path, tree: ast.Module) -> Iterator[Broken]:
    """What takes seven values or more takes them by name."""
    for node in ast.walk(tree):
        if isinstance(node, Function):
            taken = [a.arg for a in (*node.args.posonlyargs, *node.args.args) if a.arg not in ("self", "cls")]
            # An operation of the API is called by its address alone.
            by_name = len(taken) < MANY or any("router." in ast.unparse(d) for d in node.decorator_list)
        elif isinstance(node, ast.ClassDef):
            how = [ast.unparse(d) for d in node.decorator_list if "dataclass" in ast.unparse(d)]
            taken = [ast.unparse(n.target) for n in node.body if isinstance(n, ast.AnnAssign) and _is_field(n)]
            by_name = not how or len(taken) < MANY or "kw_only=True" in how[0]
        else:
            continue
        if not by_name:
            yield Broken(path, node.lineno, f"{node.name} takes {len(taken)} values by position: take them by name")


def _is_field(node: ast.AnnAssign) -> bool:
    return isinstance(node.target, ast.Name) and "ClassVar" not in ast.unparse(node.annotation)


def tables(folder: Path) -> Iterator[Broken]:
    """Every table names its source in its head, and a CSV table has rows."""
    for path in sorted(folder.glob("*.*")):
        if path.suffix not in (".csv", ".toml"):
            continue
        lines = path.read_text(encoding="utf-8").splitlines()
        if not any("Source" in line for line in lines[:3]):
            yield Broken(path, 1, "names no source in its first three lines")
        if path.suffix == ".csv" and sum(1 for line in lines if line and not line.startswith("#")) < 2:
            yield Broken(path, len(lines), "has no rows")


def verdicts(folder: Path, page: Path, written: str) -> Iterator[Broken]:
    """Every verdict code is whole, is given somewhere, and has its page; every code given is in a table."""
    known: set[str] = set()
    pages = page.read_text(encoding="utf-8")
    for path in sorted(folder.glob("*.toml")):
        lines = path.read_text(encoding="utf-8").splitlines()
        for code, rule in tomllib.loads("\n".join(lines)).items():
            known.add(code)
            line = next((n for n, text in enumerate(lines, 1) if code in text), 1)
            if rule.get("level") not in LEVELS:
                yield Broken(path, line, f"{code} has the level {rule.get('level')!r}, which is none")
            if code.split(".")[0] not in STAGES:
                yield Broken(path, line, f"{code} belongs to no stage")
            for name in ("title", "reason", "source"):
                if not rule.get(name):
                    yield Broken(path, line, f"{code} has no {name}")
            if f"\n## {code}\n" not in pages:
                yield Broken(page, 1, f"has no page for {code}: run python -m ofen verdicts > docs/verdicts.md")
    given = set(re.findall(r'"((?:{})\.[a-z_]+\.[a-z_]+)"'.format("|".join(STAGES)), written)) - PATHS
    for code in sorted(given - known):
        yield Broken(folder, 1, f"{code} is given in the core and stands in no table")
    for code in sorted(known - given):
        yield Broken(folder, 1, f"{code} stands in the table and is given nowhere")


# A test that sleeps is slow on a fast machine and red on a slow one.
WAITS = re.compile(r"\btime\.sleep\(|\.wait_for_timeout\(|\bsetTimeout\(")


def waits(path: Path, text: str) -> Iterator[Broken]:
    """No test waits for a time to pass."""
    for n, line in enumerate(text.splitlines(), 1):
        if WAITS.search(line) and "# waits:" not in line:
            yield Broken(path, n, "waits for a time to pass: wait for what is to be seen (or say `# waits: why`)")


# The rooms of the core from the top floor down: no arrow runs up. What stands side by side knows nothing of its neighbour.
FLOORS = (
    ("__main__",),
    ("call",),
    ("questions",),
    ("handover",),
    ("running",),
    ("plan",),
    ("commissioning",),
    ("siting",),
    ("supply",),
    ("equipment",),
    ("need",),
    ("plant",),
    ("document", "physics"),
    ("figures",),
    ("tables",),
)


def arrows(graph: grimp.ImportGraph, floors: Sequence[Sequence[str]] = FLOORS, package: str = "ofen") -> Iterator[str]:
    """Yield each import that runs up from one floor to another, or across to a neighbour."""
    layers = [grimp.Layer(*(f"{package}.{room}" for room in rooms), independent=True) for rooms in floors]
    for dependency in graph.find_illegal_dependencies_for_layers(layers):
        for route in dependency.routes:
            yield f"{' or '.join(sorted(route.heads))} takes from {' or '.join(sorted(route.tails))}, which stands above it"


def circles(graph: grimp.ImportGraph) -> Iterator[str]:
    """Yield each pair of modules that take from each other."""
    for one in sorted(graph.modules):
        for other in sorted(graph.find_modules_directly_imported_by(one)):
            if one < other and one in graph.find_modules_directly_imported_by(other):
                yield f"{one} and {other} take from each other"


def rooms() -> Iterator[Broken]:
    """Yield what is loose at the top of the core, and every arrow that runs up."""
    if str(CORE.parent) not in sys.path:
        sys.path.insert(0, str(CORE.parent))
    graph = grimp.build_graph("ofen", include_external_packages=False, cache_dir=None)
    known = {room for floor in FLOORS for room in floor}
    for module in sorted(graph.find_children("ofen")):
        if module.removeprefix("ofen.") not in known:
            yield Broken(CORE, 1, f"{module} stands on no floor: put it into a room")
    for words in (*arrows(graph), *circles(graph)):
        yield Broken(CORE, 1, words)


Rule = Callable[[Path, ast.Module], Iterator[Broken]]
RULES: tuple[Rule, ...] = (imports, arithmetic, sources, docstrings, swapped)


def broken() -> Iterator[Broken]:
    """Yield every rule that the project breaks."""
    texts = []
    for path in sorted(CORE.rglob("*.py")):
        text = path.read_text(encoding="utf-8")
        texts.append(text)
        tree = ast.parse(text)
        for rule in RULES:
            yield from rule(path, tree)
    for path in sorted((ROOT / "server").rglob("*.py")):
        if "migrations" not in path.parts:
            yield from swapped(path, ast.parse(path.read_text(encoding="utf-8")))
    yield from rooms()
    for folder in ("tables", "tables/fuels", "tables/classes"):
        yield from tables(CORE / folder)
    yield from verdicts(CORE / "tables" / "verdicts", ROOT / "docs" / "verdicts.md", "\n".join(texts))
    for path in sorted((ROOT / "tests").rglob("*.py")):
        yield from waits(path, path.read_text(encoding="utf-8"))


def main() -> int:
    """Print every fault; 1 where there is one."""
    faults = list(broken())
    for fault in faults:
        print(fault)
    return 1 if faults else 0


if __name__ == "__main__":
    sys.exit(main())
