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

// When the runtime cannot fetch one of its files, its promise may never settle. So each failed fetch reports itself.
const failed = (problem: unknown) => say({ kind: "failed", why: String(problem) });
const fetched = globalThis.fetch;
globalThis.fetch = async (...asked) => {
  try {
    const response = await fetched(...asked);
    if (!response.ok) throw new Error(`${response.url} answered ${response.status}`);
    return response;
  } catch (problem) {
    failed(problem);
    throw problem;
  }
};
addEventListener("unhandledrejection", (event) => failed(event.reason));
start().catch(failed);
