import { useSyncExternalStore } from "react";
import { kept } from "./kept";

/** How a person reads lengths and wires, and whether blinking lights may blink on the screen. */
export interface Prefs {
  imperial: boolean;
  /** Wires in mm² rather than AWG. */
  metric: boolean;
  blink: boolean;
  /** Whether a single key does something where nothing is typed. */
  keys: boolean;
  theme: Theme;
}

/** Night, paper, or what the system has. */
export const THEMES = [
  ["dark", "Night"],
  ["light", "Paper"],
  ["system", "As the system"],
] as const;
export type Theme = (typeof THEMES)[number][0];

const KEY = "orthavis.prefs";
/** The theme stands by itself: the page reads it before anything is drawn. */
const THEME = "orthavis.theme";
const DEFAULT: Prefs = { imperial: false, metric: false, blink: false, keys: true, theme: "dark" };

function read(): Prefs {
  const theme = THEMES.find(([word]) => word === kept.get(THEME))?.[0] ?? DEFAULT.theme;
  try {
    return { ...DEFAULT, ...(JSON.parse(kept.get(KEY) ?? "{}") as Partial<Prefs>), theme };
  } catch {
    return { ...DEFAULT, theme };
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
  const { theme, ...others } = now;
  kept.set(KEY, JSON.stringify(others));
  kept.set(THEME, theme);
  applyTheme();
  for (const listener of listeners) listener();
}

/** What the page is drawn in. */
export const themeNow = (): "dark" | "light" =>
  now.theme === "system" ? (window.matchMedia("(prefers-color-scheme: light)").matches ? "light" : "dark") : now.theme;

// What follows the system follows it while the page is open.
if (typeof window !== "undefined") window.matchMedia?.("(prefers-color-scheme: light)").addEventListener("change", () => applyTheme());

/** Puts the chosen theme on the page; night is the default. */
export function applyTheme() {
  document.documentElement.className = themeNow();
}

export const usePrefs = () => useSyncExternalStore(subscribe, () => now);
