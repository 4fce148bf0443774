import type { JournalEvent, ReadRequest, SawRequest } from "../../api/client";

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

/** What a life leaves behind that diagnosis can use. */
export interface Lived {
  /** Faults that were found before, by their names. */
  failed: string[];
  /** Lights that shone on an outing since they were last changed. */
  worked: string[];
  /** Outings in the journal. */
  outings: number;
}

/** Reads a journal as diagnosis wants it; `lights` are those of the build. */
export function livedOf(events: readonly JournalEvent[], lights: readonly string[]): Lived {
  const outings = events.filter((event) => event.kind === "ride").map((event) => Date.parse(event.at));
  const last = Math.max(...outings);
  const changed = new Set(
    events
      .filter((event) => event.kind === "part" && Date.parse(event.at) > last && (event.data as { change?: unknown }).change !== "looked")
      .map((event) => String((event.data as { part?: unknown }).part)),
  );
  const failed = events.filter((event) => event.kind === "fault").map((event) => String((event.data as { was?: unknown }).was ?? ""));
  return {
    failed: failed.filter((name) => name.includes("@")),
    worked: outings.length > 0 ? lights.filter((light) => !changed.has(light)) : [],
    outings: outings.length,
  };
}
