import type { Build, SourceState } from "../api/client";

/** The order of the job, in its three parts. */
export const STEPS = [
  "battery",
  "places",
  "lights",
  "look",
  "power",
  "wires",
  "drain",
  "show",
  "bench",
  "steps",
  "parts",
  "diagram",
  "journal",
  "trouble",
] as const;
export type Step = (typeof STEPS)[number];
export const STEP_NAMES: Record<Step, string> = {
  battery: "Battery",
  places: "Places",
  lights: "Lights",
  look: "Look",
  power: "Power",
  wires: "Wires",
  drain: "Battery life",
  show: "Show",
  bench: "Bench",
  steps: "Steps",
  parts: "Parts",
  diagram: "Diagram",
  journal: "Journal",
  trouble: "Trouble",
};
export const GROUPS: readonly { name: string; steps: readonly Step[] }[] = [
  { name: "Plan", steps: ["battery", "places", "lights", "look", "power", "wires", "drain", "show"] },
  { name: "Make", steps: ["bench", "steps", "parts", "diagram"] },
  { name: "Use", steps: ["journal", "trouble"] },
];
/** The part of the job that a step belongs to. */
export const groupOf = (step: Step) => GROUPS.find((group) => group.steps.includes(step))!;

export const STATES: readonly SourceState[] = ["charging", "full", "half", "reserve", "under_way", "rail", "track", "gap"];
/** On a dial, and in a sentence. */
export const STATE_NAMES: Record<SourceState, string> = {
  charging: "charging",
  full: "full",
  half: "half",
  reserve: "reserve",
  under_way: "under way",
  rail: "supply",
  track: "track",
  gap: "gap",
};
export const STATE_PHRASES: Record<SourceState, string> = {
  charging: "while charging",
  full: "on a full battery",
  half: "at half charge",
  reserve: "at reserve",
  under_way: "under way at reserve",
  rail: "on the supply",
  track: "on the track",
  gap: "without contact",
};

/** The states that a source most likely has, before the core has said which. */
export function likelyStates({ source, vehicle }: Build): readonly SourceState[] {
  if (source.kind !== "battery") return [source.kind];
  const moves = (vehicle.propulsion?.power_w ?? 0) > 0;
  return [...(source.used_while_charging ? ["charging" as const] : []), "full", "half", "reserve", ...(moves ? ["under_way" as const] : [])];
}
