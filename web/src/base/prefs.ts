import { useSyncExternalStore } from "react";
import { kept } from "./kept";

/** Night, paper, or what the system has. */
export const THEMES = [
  ["dark", "Night"],
  ["light", "Paper"],
  ["system", "As the system"],
] as const;
export type Theme = (typeof THEMES)[number][0];

export const LENGTHS = [
  ["m", "m, cm, mm"],
  ["in", "inches"],
  ["ft", "feet and inches"],
] as const;
export const TEMPERATURES = [
  ["C", "°C"],
  ["F", "°F"],
] as const;
/** How a day is written; what a browser's own picker shows is the browser's. */
export const DATES = [
  ["own", "As the browser"],
  ["words", "27 Nov 2026"],
  ["dmy", "27.11.2026"],
  ["mdy", "11/27/2026"],
  ["iso", "2026-11-27"],
] as const;
export const WEEKS = [
  ["monday", "Monday"],
  ["saturday", "Saturday"],
  ["sunday", "Sunday"],
] as const;
/** ISO 4217. */
export const CURRENCIES = ["EUR", "USD", "GBP", "CHF", "DKK", "NOK", "SEK", "PLN", "CZK", "HUF", "CAD", "AUD", "NZD", "JPY", "INR", "BRL", "ZAR"] as const;

/** How a person reads and types figures, and what the page may do. */
export interface Prefs {
  lengths: (typeof LENGTHS)[number][0];
  temperature: (typeof TEMPERATURES)[number][0];
  /** Wires in mm² rather than AWG. */
  metric: boolean;
  dates: (typeof DATES)[number][0];
  week: (typeof WEEKS)[number][0];
  /** What own prices are in where nothing else is said. */
  currency: (typeof CURRENCIES)[number];
  /** Whether blinking lights may blink on the screen. */
  blink: boolean;
  /** Whether a single key does something where nothing is typed. */
  keys: boolean;
  theme: Theme;
}

const KEY = "orthavis.prefs";
/** The theme stands by itself: the page reads it before anything is drawn. */
const THEME = "orthavis.theme";
export const USUAL: Prefs = {
  lengths: "m",
  temperature: "C",
  metric: false,
  dates: "own",
  week: "monday",
  currency: "EUR",
  blink: false,
  keys: true,
  theme: "dark",
};

/** What was kept, as far as it still means something. */
export function prefsOf(text: string | null, theme: string | null): Prefs {
  const known = THEMES.find(([word]) => word === theme)?.[0] ?? USUAL.theme;
  try {
    // An earlier version kept inches by a flag.
    const { imperial, ...stored } = JSON.parse(text ?? "{}") as Partial<Prefs> & { imperial?: boolean };
    return { ...USUAL, ...(imperial && { lengths: "in" as const }), ...stored, theme: known };
  } catch {
    return { ...USUAL, theme: known };
  }
}

let now = prefsOf(kept.get(KEY), kept.get(THEME));
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
  if (typeof document !== "undefined") document.documentElement.className = themeNow();
}

export const prefsNow = () => now;
export const usePrefs = () => useSyncExternalStore(subscribe, prefsNow);
