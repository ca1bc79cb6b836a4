// Whether the help of this page is open: a key, a button of the header and the dialog itself say so.
import { useSyncExternalStore } from "react";

let isOpen = false;
const listeners = new Set<() => void>();

export function showHelp(open: boolean) {
  isOpen = open;
  for (const listener of listeners) listener();
}

const subscribe = (listener: () => void) => {
  listeners.add(listener);
  return () => listeners.delete(listener);
};

export const useHelpOpen = () => useSyncExternalStore(subscribe, () => isOpen);
