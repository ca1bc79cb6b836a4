// Runs pytest on the engine's own Python: node engine/pytest.mjs ARGUMENTS, paths from the project's root.
import { readdirSync } from "node:fs";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";
import { loadPyodide } from "pyodide";

const root = dirname(dirname(dirname(fileURLToPath(import.meta.url))));
const lib = join(root, ".venv", "lib");
const packages = join(
  lib,
  readdirSync(lib).find((n) => n.startsWith("python3")),
  "site-packages",
);

const python = await loadPyodide({ env: { HOME: "/tmp", PYTEST_DISABLE_PLUGIN_AUTOLOAD: "1", PYTHONDONTWRITEBYTECODE: "1" } });
for (const [at, folder] of [
  ["/project", root],
  ["/packages", packages],
]) {
  python.FS.mkdirTree(at);
  python.mountNodeFS(at, folder);
}
python.globals.set("arguments", python.toPy(process.argv.slice(2)));
process.exitCode = python.runPython(`
import os, sys
os.chdir("/project")
sys.path[:0] = ["/project", "/project/core", "/packages"]
import types
import pytest

# These two come with compiled code that this Python has not; what needs them is skipped here and runs natively.
class Absent(types.ModuleType):
    def __getattr__(self, name):
        if name.startswith("__"):
            raise AttributeError(name)
        return Absent(f"{self.__name__}.{name}")
    def __call__(self, *given, **named):
        if self.__name__.endswith(".given"):
            return pytest.mark.skip(reason="needs compiled code")
        if self.__name__.endswith(".settings"):
            return lambda test: test
        if self.__name__.startswith("jsonschema"):
            pytest.skip("needs compiled code")
        return self
    __or__ = lambda self, other: self

for name in ("hypothesis", "hypothesis.strategies", "jsonschema"):
    sys.modules[name] = Absent(name)
int(pytest.main(["-q", "-c", "/dev/null", "--rootdir=/project", "-p", "no:cacheprovider", "-p", "no:faulthandler", "-W", "error", *arguments]))
`);
