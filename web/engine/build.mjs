// Makes public/engine/KEY/: CPython as WebAssembly, its standard library, the core, the vocabulary. Made again only where the core,
// this folder or the npm package changed; the key is in the address, so that an old page never meets a new engine.
import { createHash } from "node:crypto";
import { cpSync, existsSync, mkdirSync, readFileSync, readdirSync, rmSync, writeFileSync } from "node:fs";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";
import { packed as pack } from "./compress.mjs";

const here = dirname(fileURLToPath(import.meta.url));
const web = dirname(here);
export const root = dirname(web);
export const packed = join(web, "node_modules", "pyodide");
export const RUNTIME = ["pyodide.mjs", "pyodide.asm.mjs", "pyodide.asm.wasm"];

// What a tool left in a hidden folder beside the core is none of it.
const filesUnder = (folder) =>
  readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((f) => f.isFile() && !f.name.endsWith(".pyc"))
    .map((f) => join(f.parentPath, f.name))
    .filter((name) => !name.slice(folder.length).includes("/."))
    .sort();

/** The files of the core. */
export const coreFiles = () => filesUnder(join(root, "core"));

/** The runtime wants a lock of the packages it may fetch: none, for this very version of it. */
export function lockText() {
  const { info } = JSON.parse(readFileSync(join(packed, "pyodide-lock.json"), "utf8"));
  return JSON.stringify({ info, packages: {} });
}

/** A short digest of all that goes into the engine. */
export function engineKey() {
  const hash = createHash("sha256").update(readFileSync(join(packed, "package.json")));
  for (const file of [...coreFiles(), ...["boot.mjs", "build.mjs", "pack.py"].map((n) => join(here, n))])
    hash.update(file.slice(root.length)).update(readFileSync(file));
  return hash.digest("hex").slice(0, 16);
}

/** Python under Node, with the core and the example jobs in its file system. */
async function pythonWithCore() {
  const { loadPyodide } = await import("pyodide");
  const python = await loadPyodide();
  const put = (from, to) => {
    for (const file of filesUnder(from)) {
      const target = to + file.slice(from.length);
      python.FS.mkdirTree(dirname(target));
      python.FS.writeFile(target, readFileSync(file));
    }
  };
  put(join(root, "core"), "/build/core");
  put(join(root, "demo"), "/build/jobs");
  return python;
}

async function make(folder) {
  mkdirSync(folder, { recursive: true });
  const python = await pythonWithCore();
  python.runPython(readFileSync(join(here, "pack.py"), "utf8"));
  for (const name of ["stdlib.zip", "core.json"]) writeFileSync(join(folder, name), python.FS.readFile(`/build/${name}`));
  writeFileSync(join(folder, "lock.json"), lockText());
  const vocabulary = JSON.parse(python.runPython(`from ofen.call import answer; answer('{"ask": "vocabulary"}')`)).answer;
  writeFileSync(join(folder, "vocabulary.json"), JSON.stringify(vocabulary));
  for (const name of RUNTIME) cpSync(join(packed, name), join(folder, name));
  for (const name of readdirSync(folder)) pack(join(folder, name));
  writeFileSync(join(folder, "made"), "");
}

const all = join(web, "public", "engine");
const key = engineKey();
if (process.argv[1] === fileURLToPath(import.meta.url) && !existsSync(join(all, key, "made"))) {
  rmSync(all, { recursive: true, force: true });
  await make(join(all, key));
}
