// Answers questions with the engine as it is shipped: one JSON a line in, one a line out. One about files begins with them, in base 64.
import { readFileSync } from "node:fs";
import { dirname, join } from "node:path";
import { createInterface } from "node:readline";
import { fileURLToPath } from "node:url";
import { startPython } from "./boot.mjs";
import { engineKey } from "./build.mjs";

const at = join(dirname(dirname(fileURLToPath(import.meta.url))), "public", "engine", engineKey(), "/");
const { loadPyodide } = await import(`${at}pyodide.mjs`);
const answer = await startPython(loadPyodide, at, async (name) => JSON.parse(readFileSync(at + name, "utf8")));
const said = (line) => {
  if (!line.startsWith('{"files":')) return answer(line);
  const { files, ...question } = JSON.parse(line);
  return answer.look(
    JSON.stringify(question),
    Object.fromEntries(Object.entries(files).map(([name, text]) => [name, Uint8Array.from(Buffer.from(text, "base64"))])),
  );
};
for await (const line of createInterface({ input: process.stdin })) process.stdout.write(`${said(line)}\n`);
