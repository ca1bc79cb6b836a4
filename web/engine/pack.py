"""Run inside the engine's own Python at build time: what the core needs of the standard library, and the core, both compiled."""

import ast
import base64
import dataclasses
import importlib
import importlib.util
import json
import marshal
import pkgutil
import struct
import sys
import zipfile
from pathlib import Path

# The runtime takes these where it finds them and does without where not; the core needs none of them.
SPARED = {"ssl", "_ssl", "lzma", "bz2", "_bz2", "_lzma"}
TEXTS = {".toml", ".csv", ".json", ".txt"}
CORE = Path("/build/core")
STDLIB = Path(next(p for p in sys.path if p.endswith(".zip")))


def needed() -> set[str]:
    """Return the names of the modules in memory once the core has answered every kind of question."""
    sys.path.insert(0, str(CORE))
    import ofen
    from ofen.call import Desk, answer
    from ofen.questions.asking import ROOMS, question

    for found in pkgutil.walk_packages(ofen.__path__, "ofen."):
        if not found.name.endswith("__main__"):
            importlib.import_module(found.name)
    for job in sorted(Path("/build/jobs").glob("*.json")):
        document = json.loads(job.read_text(encoding="utf-8"))
        broken = document | {"name": 5, "site": {"altitude_m": "high"}}
        for given in (document, broken):
            begun = json.loads(answer(json.dumps({"ask": "begin", "document": given, "unit": "heater-1"}))).get("answer")
            told = {"document": given, "newest": given, "unit": "heater-1", "procedure": begun, "events": [], "entries": [], "runs": []}
            told |= {"now_s": 1.8e9, "key": "building_site", "list": "loads", "text": "Pump,800", "id": "heater-1", "by": [0, 1]}
            for ask in ROOMS:
                known = {f.name for f in dataclasses.fields(question(ask).asks)}
                answer(json.dumps({"ask": ask} | {k: v for k, v in told.items() if k in known}))
    whole = answer(json.dumps({"ask": "whole_job", "document": {"format": "ofen-job/2", "name": "x"}, "runs": [], "entries": []}))
    files = {"job.zip": base64.b64decode(json.loads(whole)["answer"]["base64"])}
    for ask in ("verify", "bring_in"):
        Desk().look(json.dumps({"ask": ask, "job": "00000000-0000-0000-0000-000000000001", "by": "x"}), files)
    importlib.import_module("traceback").format_exception(ValueError("x"))
    return set(sys.modules) - SPARED


def compiled(source: bytes, name: str, tree: ast.Module | None = None) -> bytes:
    """Return a .pyc whose source is never looked for, of a tree where it is another than that of the source."""
    code = compile(tree or source, name, "exec", dont_inherit=True, optimize=0)
    return importlib.util.MAGIC_NUMBER + struct.pack("<I", 1) + importlib.util.source_hash(source) + marshal.dumps(code)


def without_docs(source: bytes) -> ast.Module:
    """Return a module whose docstrings are one mark each: nobody reads them in a browser, and they weigh a good part of it.

    None at all would have each dataclass make up one of its signature.
    """
    tree = ast.parse(source)
    for node in ast.walk(tree):
        described = isinstance(node, ast.Module | ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef)
        if described and ast.get_docstring(node, clean=False) is not None:
            node.body[0].value.value = "."
    return tree


def module_of(name: str) -> str:
    """Return the dotted name of a file of the standard library."""
    return name.removesuffix(".py").removesuffix("/__init__").replace("/", ".")


def stdlib(keep: set[str]) -> None:
    """Write the modules of the standard library that are kept, compiled, as an archive the runtime boots from."""
    files: dict[str, bytes] = {}
    with zipfile.ZipFile(STDLIB) as old:
        for name in old.namelist():
            if name.endswith(".py") and module_of(name) in keep:
                source = old.read(name)
                files[f"{name}c"] = compiled(source, name, without_docs(source))
    with zipfile.ZipFile("/build/stdlib.zip", "w", zipfile.ZIP_STORED) as new:
        for name in sorted(files):
            new.writestr(zipfile.ZipInfo(name, (1980, 1, 1, 0, 0, 0)), files[name])


def core() -> None:
    """Write the core, compiled, with its tables: plain files are read faster than out of an archive.

    What is compiled is in Base64. A table is its own text behind "=", which no Base64 begins with: text packs far smaller so.
    """
    files = {}
    for path in sorted(CORE.rglob("*")):
        name = path.relative_to(CORE).as_posix()
        if path.suffix == ".py":
            source = path.read_bytes()
            files[f"{name}c"] = base64.b64encode(compiled(source, name, without_docs(source))).decode()
        elif path.suffix in TEXTS:
            files[name] = "=" + path.read_text(encoding="utf-8")
        elif path.is_file():
            files[name] = base64.b64encode(path.read_bytes()).decode()
    Path("/build/core.json").write_text(json.dumps(files, ensure_ascii=False), encoding="utf-8")


stdlib(needed())
core()
