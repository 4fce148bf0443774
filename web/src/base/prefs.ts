import { useSyncExternalStore } from "react";
import { kept } from "./kept";

/** How a person reads lengths and wires, and whether blinking lights may blink on the screen. */
export interface Prefs {
  imperial: boolean;
  /** Wires in mm² rather than AWG. */
  metric: boolean;
  blink: boolean;
}

const KEY = "orthavis.prefs";
const DEFAULT: Prefs = { imperial: false, metric: false, blink: false };

function read(): Prefs {
  try {
    return { ...DEFAULT, ...(JSON.parse(kept.get(KEY) ?? "{}") as Partial<Prefs>) };
  } catch {
    return DEFAULT;
  }
}

let now = read();
const listeners = new Set<() => void>();
const subscribe = (listener: () => void) => {
  listeners.add(listener);
  return () => listeners.delete(listener);
};

export function setPrefs(change: Partial<Prefs>) {
  now = { ...now, ...change };
  kept.set(KEY, JSON.stringify(now));
  for (const listener of listeners) listener();
}

export const usePrefs = () => useSyncExternalStore(subscribe, () => now);
