// Answers questions with the engine as it is shipped: one JSON a line in, one a line out.
import { readFileSync } from "node:fs";
import { dirname, join } from "node:path";
import { createInterface } from "node:readline";
import { fileURLToPath } from "node:url";
import { startPython } from "./boot.mjs";
import { engineKey } from "./build.mjs";

const at = join(dirname(dirname(fileURLToPath(import.meta.url))), "public", "engine", engineKey(), "/");
const { loadPyodide } = await import(`${at}pyodide.mjs`);
const answer = await startPython(loadPyodide, at, async (name) => JSON.parse(readFileSync(at + name, "utf8")));
for await (const question of createInterface({ input: process.stdin })) process.stdout.write(`${answer(question)}\n`);
