// The installed application: a new version is fetched beside the old one and takes over when the person says so.
import { Workbox } from "workbox-window";

export type Version = "current" | "waiting" | "replaced";

let state: Version = "current";
let workbox: Workbox | null = null;
let asked = false;
const listeners = new Set<() => void>();
const CHECK_MS = 30 * 60_000;

function become(next: Version) {
  state = next;
  for (const listener of listeners) listener();
}

export const version = {
  subscribe: (listener: () => void) => {
    listeners.add(listener);
    return () => listeners.delete(listener);
  },
  get: () => state,
};

/** Install the application on this device. */
export function install() {
  if (!("serviceWorker" in navigator) || !import.meta.env.PROD) return;
  const found = new Workbox("/sw.js");
  workbox = found;
  found.addEventListener("waiting", () => become("waiting"));
  found.addEventListener("controlling", (event) => {
    if (asked) location.reload();
    // Another tab has let the new version take over: this one goes on until its person reloads it.
    else if (event.isUpdate === true || event.isExternal === true) become("replaced");
  });
  // A part of an old version that is gone: load the page anew rather than mix the two.
  globalThis.addEventListener("vite:preloadError", () => {
    // Without signal there is nothing newer to load, and the page in front would be lost.
    if (navigator.onLine) location.reload();
  });
  const look = () => void found.update().catch(() => undefined);
  // Where the browser does not let it be installed, it works as a page all the same.
  found.register().then(
    () => {
      setInterval(look, CHECK_MS);
      globalThis.addEventListener("online", look);
    },
    () => undefined,
  );
}

/** Let the new version take over, and load the page by it. */
export function takeOver() {
  asked = true;
  if (state === "replaced") location.reload();
  else workbox?.messageSkipWaiting();
}
