// Starts Python with the core in it; the same in a browser's worker and under Node.
/**
 * The core's one entry: a question in JSON in, its answer in JSON out.
 * @param {(options: object) => Promise<any>} loadPyodide of the runtime's own module
 * @param {string} at where the engine's files lie, ending in a slash
 * @param {(name: string) => Promise<any>} read reads a JSON file of the engine
 * @returns {Promise<import("./boot.d.mts").Answer>}
 */
export async function startPython(loadPyodide, at, read) {
  const core = read("core.json");
  const python = await loadPyodide({ indexURL: at, stdLibURL: `${at}stdlib.zip`, lockFileContents: read("lock.json") });
  for (const [name, text] of Object.entries(await core)) {
    const file = `/core/${name}`;
    python.FS.mkdirTree(file.slice(0, file.lastIndexOf("/")));
    // A table is its own text behind "="; what is compiled is in Base64.
    const bytes = text.startsWith("=") ? text.slice(1) : Uint8Array.from(atob(text), (c) => c.charCodeAt(0));
    python.FS.writeFile(file, bytes);
  }
  python.runPython("import sys; sys.path.insert(0, '/core')");
  const desk = python.pyimport("ofen.call").Desk();
  const answer = Object.assign((question) => desk.answer(question), {
    look: (question, files) => desk.look(question, python.toPy(files)),
  });
  // The first plan reads the tables; nobody should wait for that at their first key.
  answer('{"ask": "plan", "document": {"format": "ofen-job/2", "name": "first"}}');
  return answer;
}
