import { expect, test } from "vitest";
import type { JournalEvent } from "../../api/client";
import { livedOf } from "./known";

let number = 0;
const at = (day: number, kind: string, data: Record<string, unknown>): JournalEvent =>
  ({ id: `e${number++}`, at: `2026-05-${String(day).padStart(2, "0")}T18:00:00+02:00`, kind, data }) as unknown as JournalEvent;
const LIGHTS = ["tail", "left"];

test("what shone on an outing was built right, until it is changed", () => {
  expect(livedOf([], LIGHTS)).toEqual({ failed: [], worked: [], outings: 0 });
  const ride = at(3, "ride", { minutes: 40 });
  expect(livedOf([at(1, "part", { part: "tail", change: "fitted" }), ride], LIGHTS).worked).toEqual(LIGHTS);
  // Whatever was fitted since has not shone yet; what was only looked at has.
  const later = [ride, at(5, "part", { part: "tail", change: "replaced" }), at(6, "part", { part: "left", change: "looked" })];
  expect(livedOf(later, LIGHTS).worked).toEqual(["left"]);
  expect(livedOf([...later, at(7, "ride", {})], LIGHTS)).toMatchObject({ worked: LIGHTS, outings: 2 });
});

test("faults that diagnosis named are remembered, and those in a person's own words are none of its", () => {
  const events = [at(1, "fault", { was: "open@tail:from+" }), at(2, "fault", { was: "rain" }), at(3, "fault", {}), at(4, "fault", { was: "open@tail:from+" })];
  expect(livedOf(events, LIGHTS).failed).toEqual(["open@tail:from+", "open@tail:from+"]);
});
