import type { ReadRequest, SawRequest } from "../../api/client";

/** What was seen and read of something that is wrong. */
export interface Known {
  saw: SawRequest[];
  read: ReadRequest[];
  /** Where the probes were, in words, by their names. */
  places: Record<string, string>;
  /** Whether two faults at once are held possible. */
  pairs: boolean;
  /** Whether all of it has worked as it is wired now; absent: as the journal has it. */
  worked?: boolean;
}

export const NOTHING_KNOWN: Known = { saw: [], read: [], places: {}, pairs: false };

/** How a light can look. */
export const LOOKS = [
  ["fine", "Fine"],
  ["dim", "Dim"],
  ["dark", "Dark"],
  ["part", "Partly dark"],
] as const;
export type Look = (typeof LOOKS)[number][0];

/** What can be said of the whole build. */
export const SIGNS = [
  ["blows", "A fuse blows"],
  ["hot", "A wire gets hot"],
  ["cold", "The hot wire is cold again"],
  ["flickers", "It comes and goes"],
  ["empty", "The battery is empty too soon"],
] as const;
