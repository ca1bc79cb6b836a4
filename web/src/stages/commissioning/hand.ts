// Which hand is free: the main action lies under its thumb.
import { useSyncExternalStore } from "react";

export type Hand = "left" | "right";

const KEY = "ofen.hand";
const listeners = new Set<() => void>();

const read = (): Hand => {
  try {
    return localStorage.getItem(KEY) === "left" ? "left" : "right";
  } catch {
    return "right";
  }
};

const subscribe = (listener: () => void) => {
  listeners.add(listener);
  return () => listeners.delete(listener);
};

export function useHand(): { hand: Hand; change: (hand: Hand) => void } {
  const hand = useSyncExternalStore(subscribe, read);
  const change = (now: Hand) => {
    try {
      localStorage.setItem(KEY, now);
    } catch {
      // Nothing can be kept on this device: it stays as it is.
    }
    for (const listener of listeners) listener();
  };
  return { hand, change };
}
