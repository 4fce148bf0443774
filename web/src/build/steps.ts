import type { SourceState } from "../api/client";

/** The order of the job, in its three parts. */
export const STEPS = ["battery", "places", "lights", "power", "wires", "drain", "show", "bench", "steps", "parts", "diagram", "journal", "trouble"] as const;
export type Step = (typeof STEPS)[number];
export const STEP_NAMES: Record<Step, string> = {
  battery: "Battery",
  places: "Places",
  lights: "Lights",
  power: "Power",
  wires: "Wires",
  drain: "Drain",
  show: "Show",
  bench: "Bench",
  steps: "Steps",
  parts: "Parts",
  diagram: "Diagram",
  journal: "Journal",
  trouble: "Trouble",
};
export const GROUPS: readonly { name: string; steps: readonly Step[] }[] = [
  { name: "Plan", steps: ["battery", "places", "lights", "power", "wires", "drain", "show"] },
  { name: "Make", steps: ["bench", "steps", "parts", "diagram"] },
  { name: "Use", steps: ["journal", "trouble"] },
];
/** The part of the job that a step belongs to. */
export const groupOf = (step: Step) => GROUPS.find((group) => group.steps.includes(step))!;

export const STATES: readonly SourceState[] = ["charging", "full", "half", "reserve", "rail", "track"];
