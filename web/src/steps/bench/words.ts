import type { BenchCheck } from "../../api/client";
import { say } from "../../units";

/** What the steps of the check list are called. */
export const STAGES: Record<BenchCheck["step"], string> = {
  unpowered: "Before any power",
  converter: "Each module alone",
  circuit: "Each small circuit",
  first_light: "First light, at low current",
  light: "Each light",
  scene: "Every scene",
  warm: "Warm, after ten minutes",
  charging: "While charging",
};

/** What a meter's settings are called. */
export const SETTINGS: Record<BenchCheck["setting"], string> = {
  volts: "volts, direct",
  amps: "amps, in line",
  clamp: "amps, by clamp",
  ohms: "ohms, power off",
  diode: "diode test, power off",
  watch: "seconds, by a watch",
  look: "look",
};

/** What it should read; what a hand-held meter cannot tell from nothing is nothing. */
export function should(check: BenchCheck): string {
  if (check.expected === null || check.expected === undefined) return "open";
  if (check.unit === "ohm" && check.expected < 0.1) return "next to nothing";
  return say({ value: check.expected, unit: check.unit });
}

/** Within what a reading is fine. */
export function band(check: BenchCheck): string {
  const show = (value: number) => say({ value, unit: check.unit });
  const { low, high } = check;
  if (low !== null && low !== undefined && high !== null && high !== undefined) return `${show(low)} to ${show(high)}`;
  if (low !== null && low !== undefined) return `more than ${show(low)}, or open`;
  if (high !== null && high !== undefined) return `less than ${show(high)}`;
  return "anything";
}

/** How a light looks beside its plan. */
export const LOOKS: Record<string, string> = { fine: "as it should be", dark: "dark", dim: "dim", part: "dark in part" };
