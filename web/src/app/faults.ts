// Telling the server of a fault of this screen: where in the code it was, and nothing of what stood or was typed there.
import { api } from "../api/client";

export interface ClientFault {
  what: string;
  name: string;
  page: string;
  frames: string[];
}

const MOST_A_PAGE = 10;
const MOST_FRAMES = 12;
const MOST_LETTERS = 120;
const told = new Set<string>();

/** The places in the code that a stack names, the innermost first: function, file, line and column. The words of the error stay here. */
export function framesOf(stack: string | undefined): string[] {
  return (stack ?? "")
    .split("\n")
    .flatMap((line) => {
      const found = /^\s*(?:at )?([\w$.<>[\] ]*?)\s*[(@]?[^\s(@]*\/([\w.-]+)(?:\?[^:]*)?:(\d+):(\d+)\)?$/.exec(line);
      return found ? [`${found[1] || "(none)"} ${found[2]}:${found[3]}:${found[4]}`.slice(0, 200)] : [];
    })
    .slice(0, MOST_FRAMES);
}

/** The page by its pattern: the ids in it are somebody's. */
export const patternOf = (path: string) => path.replace(/[0-9a-f]{8}-[0-9a-f-]{27,}/gi, ":id").slice(0, MOST_LETTERS);

/** What is told of an error. */
export function faultOf(what: string, error: unknown, path: string): ClientFault {
  const is = error instanceof Error;
  return {
    what: what.slice(0, MOST_LETTERS),
    name: is ? error.name.slice(0, MOST_LETTERS) : typeof error,
    page: patternOf(path),
    frames: is ? framesOf(error.stack) : [],
  };
}

/** Tell the server of a fault, each once and no more than a few a page; where there is no signal it stays untold. */
export function tellFault(what: string, error: unknown) {
  const fault = faultOf(what, error, globalThis.location.pathname);
  const key = `${fault.what} ${fault.name} ${fault.frames[0] ?? ""}`;
  if (told.has(key) || told.size >= MOST_A_PAGE) return;
  told.add(key);
  void api.POST("/api/client-faults", { body: fault }).catch(() => undefined);
}

/** Tell of what no part of the page has caught. */
export function watchFaults() {
  globalThis.addEventListener("error", (event) => tellFault("The page", event.error));
  globalThis.addEventListener("unhandledrejection", (event) => tellFault("Something in the background", event.reason));
}
