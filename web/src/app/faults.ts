// Sending a fault of this screen to the server: where in the code it happened, without anything that was shown or typed.
import { t } from "@lingui/core/macro";
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
const sent = new Set<string>();

/** The frames of a stack, innermost first: function, file, line and column. The message of the error is not sent. */
export function framesOf(stack: string | undefined): string[] {
  return (stack ?? "")
    .split("\n")
    .flatMap((line) => {
      const frame = /^\s*(?:at )?([\w$.<>[\] ]*?)\s*[(@]?[^\s(@]*\/([\w.-]+)(?:\?[^:]*)?:(\d+):(\d+)\)?$/.exec(line);
      return frame ? [`${frame[1] || "(none)"} ${frame[2]}:${frame[3]}:${frame[4]}`.slice(0, 200)] : [];
    })
    .slice(0, MOST_FRAMES);
}

/** The address of the page with its ids left out. */
export const patternOf = (path: string) => path.replace(/[0-9a-f]{8}-[0-9a-f-]{27,}/gi, ":id").slice(0, MOST_LETTERS);

/** What is sent about an error. */
export function faultOf(what: string, error: unknown, path: string): ClientFault {
  const is = error instanceof Error;
  return {
    what: what.slice(0, MOST_LETTERS),
    name: is ? error.name.slice(0, MOST_LETTERS) : typeof error,
    page: patternOf(path),
    frames: is ? framesOf(error.stack) : [],
  };
}

/** Send a fault to the server, each once and only a few from one page. Without signal it is not sent. */
export function tellFault(what: string, error: unknown) {
  const fault = faultOf(what, error, globalThis.location.pathname);
  const key = `${fault.what} ${fault.name} ${fault.frames[0] ?? ""}`;
  if (sent.has(key) || sent.size >= MOST_A_PAGE) return;
  sent.add(key);
  void api.POST("/api/client-faults", { body: fault }).catch(() => undefined);
}

/** Send every error that no part of the page has caught. */
export function watchFaults() {
  globalThis.addEventListener("error", (event) => tellFault(t`The page`, event.error));
  globalThis.addEventListener("unhandledrejection", (event) => tellFault(t`A background task`, event.reason));
}
