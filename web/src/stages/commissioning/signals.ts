// Telling a person who does not look: a buzz and a tone where the device can, and a screen that stays on meanwhile.
import { useEffect, useRef } from "react";

const TONE_HZ = { enough: 880, late: 440 };
const TONE_S = 0.35;

function tone(hertz: number) {
  try {
    const sound = new AudioContext();
    const source = sound.createOscillator();
    source.frequency.value = hertz;
    source.connect(sound.destination);
    source.start();
    source.stop(sound.currentTime + TONE_S);
    source.onended = () => void sound.close();
  } catch {
    // No sound on this device: the buzz and the screen say it.
  }
}

/** Buzz and sound once: it was long enough, or it is getting too long. */
export function signal(what: keyof typeof TONE_HZ) {
  if ("vibrate" in navigator) navigator.vibrate(what === "enough" ? [200, 100, 200] : [600]);
  tone(TONE_HZ[what]);
}

interface Times {
  running: boolean;
  since: number;
  floor: number;
  ceiling?: number | null;
}

/** Say once when the floor is reached, and once when the ceiling is passed. */
export function useSignals({ running, since, floor, ceiling = null }: Times) {
  const told = useRef({ enough: false, late: false });
  useEffect(() => {
    if (!running) {
      told.current = { enough: false, late: false };
      return;
    }
    if (floor > 0 && since >= floor && !told.current.enough) {
      told.current.enough = true;
      signal("enough");
    }
    if (ceiling !== null && since > ceiling && !told.current.late) {
      told.current.late = true;
      signal("late");
    }
  }, [running, since, floor, ceiling]);
}

/** Keep the screen on while something runs. */
export function useStayAwake(running: boolean) {
  useEffect(() => {
    if (!running || !("wakeLock" in navigator)) return;
    let lock: WakeLockSentinel | null = null;
    let over = false;
    navigator.wakeLock.request("screen").then(
      (got) => {
        lock = got;
        if (over) void got.release();
      },
      () => undefined,
    );
    return () => {
      over = true;
      void lock?.release();
    };
  }, [running]);
}
