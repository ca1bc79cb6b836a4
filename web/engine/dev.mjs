// While developing: the engine straight from its folders. The core is served as it lies there, so a changed line of it is in the
// browser after a reload, with nothing built; a request to the server waits while the server starts again.
import { execFile } from "node:child_process";
import { readFileSync, statSync } from "node:fs";
import { connect } from "node:net";
import { join, sep } from "node:path";
import { promisify } from "node:util";
import { RUNTIME, coreFiles, lockText, packed, root } from "./build.mjs";

export const DEV_KEY = "dev";
const RESTART_MS = 20_000;
const ASK_VOCABULARY = `from ofen.call import answer; import json; print(json.dumps(json.loads(answer('{"ask": "vocabulary"}'))["answer"]))`;
const TYPES = { mjs: "text/javascript", json: "application/json", wasm: "application/wasm", zip: "application/zip" };

/** The core as one JSON: its files by name, in Base64. Only what has changed since the last time is read. */
function coreJson(read) {
  const files = {};
  for (const file of coreFiles()) {
    const { mtimeMs } = statSync(file);
    if (read.get(file)?.mtimeMs !== mtimeMs) read.set(file, { mtimeMs, text: readFileSync(file).toString("base64") });
    files[
      file
        .slice(join(root, "core").length + 1)
        .split(sep)
        .join("/")
    ] = read.get(file).text;
  }
  return JSON.stringify(files);
}

/** The words and choices of the screens, by the core as it is now. */
async function vocabulary() {
  const python = process.env.OFEN_PYTHON ?? "python3";
  const { stdout } = await promisify(execFile)(python, ["-c", ASK_VOCABULARY], {
    env: { ...process.env, PYTHONPATH: join(root, "core") },
    maxBuffer: 64e6,
  });
  return stdout;
}

/** Wait until something listens on a port of this machine. */
export async function listening(port, ms = RESTART_MS) {
  const until = Date.now() + ms;
  const knocks = () =>
    new Promise((done) => {
      const line = connect(port, "127.0.0.1", () => {
        line.destroy();
        done(true);
      });
      line.on("error", () => done(false));
    });
  while (!(await knocks())) {
    if (Date.now() > until) return false;
    await new Promise((done) => setTimeout(done, 50));
  }
  return true;
}

/** The plugin of Vite that serves the engine while developing; `port` is the server's. */
export function devEngine(port) {
  const read = new Map();
  let words = null; // asked for as soon as a file has changed, for the page waits for them
  const askAnew = () => {
    words = vocabulary();
    words.catch(() => {}); // told to whoever asks
  };
  const answers = {
    "core.json": () => coreJson(read),
    "lock.json": lockText,
    "stdlib.zip": () => readFileSync(join(packed, "python_stdlib.zip")),
    "vocabulary.json": () => {
      if (!words) askAnew();
      return words;
    },
    ...Object.fromEntries(RUNTIME.map((name) => [name, () => readFileSync(join(packed, name))])),
  };
  return {
    name: "ofen-dev-engine",
    apply: "serve",
    configureServer(server) {
      const core = join(root, "core") + sep;
      server.watcher.add(core);
      const changed = (file) => {
        if (!file.startsWith(core) || !/\.(py|toml|csv)$/.test(file)) return;
        askAnew();
        server.ws.send({ type: "full-reload", path: "*" });
      };
      for (const event of ["change", "add", "unlink"]) server.watcher.on(event, changed);
      server.middlewares.use(`/engine/${DEV_KEY}/`, (request, response, next) => {
        const name = (request.url ?? "").slice(1).split("?")[0];
        if (!Object.hasOwn(answers, name)) return next();
        Promise.resolve()
          .then(answers[name])
          .then(
            (body) => {
              response.setHeader("Content-Type", TYPES[name.split(".").at(-1)]);
              response.setHeader("Cache-Control", "no-store");
              response.end(body);
            },
            (problem) => {
              // A core that does not load says why in the browser's own console, too.
              server.config.logger.error(String(problem.stderr ?? problem));
              response.statusCode = 500;
              response.end(String(problem.stderr ?? problem));
            },
          );
      });
      server.middlewares.use((request, _, next) => {
        if (!/^\/(api|shared|calendar|static)\b/.test(request.url ?? "")) return next();
        listening(port).then(() => next());
      });
    },
  };
}
