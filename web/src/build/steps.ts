import type { SourceState } from "../api/client";

/** The order of the job. */
export const STEPS = ["battery", "places", "lights", "power", "wires", "drain"] as const;
export type Step = (typeof STEPS)[number];
export const STEP_NAMES: Record<Step, string> = { battery: "Battery", places: "Places", lights: "Lights", power: "Power", wires: "Wires", drain: "Drain" };

export const STATES: readonly SourceState[] = ["charging", "full", "half", "reserve", "rail"];
