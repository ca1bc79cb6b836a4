// Python with the core in it, in a thread of its own: one question in, its answer out.
import { startPython } from "../../engine/boot.mjs";
import type { FromWorker, ToWorker } from "./engine";

const at = `${location.origin}/engine/${__ENGINE_KEY__}/`;
const say = (message: FromWorker) => postMessage(message);

async function start() {
  const { loadPyodide } = (await import(/* @vite-ignore */ `${at}pyodide.mjs`)) as {
    loadPyodide: (options: object) => Promise<unknown>;
  };
  const read = async (name: string): Promise<unknown> => (await fetch(at + name)).json();
  const answer = await startPython(loadPyodide, at, read);
  onmessage = ({ data }: MessageEvent<ToWorker>) => {
    try {
      say({ kind: "answer", id: data.id, text: data.files ? answer.look(data.question, data.files) : answer(data.question) });
    } catch (problem) {
      say({ kind: "crash", id: data.id, why: String(problem) });
    }
  };
  say({ kind: "up" });
}

// Where the runtime cannot be had its promise never settles; the failure shows only here.
addEventListener("unhandledrejection", (event) => say({ kind: "failed", why: String(event.reason) }));
start().catch((problem: unknown) => say({ kind: "failed", why: String(problem) }));
