// What kind of screen this is, where style alone does not do.
import { useSyncExternalStore } from "react";

const NARROW = globalThis.matchMedia?.("(max-width: 1023px), (max-height: 559px)");

const follow = (changed: () => void) => {
  NARROW.addEventListener("change", changed);
  return () => NARROW.removeEventListener("change", changed);
};

/** Whether there is room for little: a phone, or a page that is magnified. */
export const useLittleRoom = (): boolean => useSyncExternalStore(follow, () => NARROW.matches);
