import type { SourceState } from "../../api/client";

/** The order of the job. */
export const STEPS = ["battery", "places", "lights", "power", "wires", "drain"] as const;
export type Step = (typeof STEPS)[number];
export const STEP_NAMES: Record<Step, string> = { battery: "Battery", places: "Places", lights: "Lights", power: "Power", wires: "Wires", drain: "Drain" };

export const STATES: readonly SourceState[] = ["charging", "full", "half", "reserve", "rail"];

/** Which step mends a family of findings. */
const STEP_OF: Record<string, Step> = {
  source: "battery",
  tap: "battery",
  place: "places",
  led: "lights",
  light: "lights",
  resistor: "lights",
  strip: "lights",
  pixels: "lights",
  emitter: "power",
  converter: "power",
  wire: "wires",
  fuse: "wires",
  switch: "wires",
  contact: "wires",
  frame: "wires",
};

export const stepOf = (code: string): Step => STEP_OF[code.split(".")[0] ?? ""] ?? "battery";
