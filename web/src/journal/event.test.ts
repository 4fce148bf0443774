import { expect, test } from "vitest";
import { eventAt, eventOf, here, linesOf } from "./event";

test("every event has an id of its own that says when it was made, and an hour with its offset", () => {
  const before = Date.now();
  const events = Array.from({ length: 300 }, (_, number) => eventOf("note", { text: `${number}` }));
  const after = Date.now();
  expect(new Set(events.map((event) => event.id)).size).toBe(300);
  let last = 0;
  for (const { id, at } of events) {
    expect(id).toMatch(/^[0-9a-f]{8}-[0-9a-f]{4}-7[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/);
    const made = Number.parseInt(id.replace("-", "").slice(0, 12), 16);
    expect(made).toBeGreaterThanOrEqual(Math.max(before, last));
    expect(made).toBeLessThanOrEqual(after);
    last = made;
    expect(at).toMatch(/^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d[+-]\d\d:\d\d$/);
    expect(Math.abs(Date.parse(at) - made)).toBeLessThan(2000);
  }
  expect(Math.abs(Date.parse(here()) - Date.now())).toBeLessThan(2000);
  // A correction names what it corrects; nothing else does.
  const corrected = eventAt("charge", "2026-11-20T18:00:00+01:00", { ah: 3.2 } as never, events[0]!.id);
  expect(corrected.replaces).toBe(events[0]!.id);
  expect("replaces" in eventAt("charge", corrected.at, { ah: 3.2 } as never)).toBe(false);
  // One a line, each readable by itself.
  const lines = linesOf([...events, corrected])
    .trimEnd()
    .split("\n");
  expect(lines.map((line) => JSON.parse(line) as unknown)).toEqual([...events, corrected]);
});
