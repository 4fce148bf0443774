import { expect, test } from "vitest";
import type { JournalEvent } from "../../api/client";
import { dayName, doneOf, minutesSince, momentOf, sayMinutes, sayTime, ticksOf } from "./time";

test("a step is done when its newest word says so", () => {
  const tick = (step: unknown, state: unknown, at: string) => ({ kind: "tick", at, data: { step, state } }) as unknown as JournalEvent;
  const ticks = ticksOf([
    tick("crimp", "done", "2026-11-27T10:00:00+01:00"),
    tick("fuse", "done", "2026-11-27T11:00:00+01:00"),
    // Written later, but of an earlier hour by the clocks of the world.
    tick("crimp", "wrong", "2026-11-27T08:30:00Z"),
    tick("fuse", "undone", "2026-11-27T10:30:00Z"),
    tick("paint", "half", "2026-11-27T12:00:00Z"),
    tick(7, "done", "2026-11-27T12:00:00Z"),
    // Of the same moment the later word counts.
    tick("tape", "done", "2026-11-27T12:00:00Z"),
    tick("tape", "wrong", "2026-11-27T12:00:00Z"),
  ]);
  expect([...ticks.values()].map(({ step, state }) => `${step} ${state}`)).toEqual(["crimp done", "fuse undone", "tape wrong"]);
  const day = dayName(new Date("2026-11-27T10:00:00+01:00"));
  const [only, ...others] = doneOf(ticks, day);
  expect([only!.step, others]).toEqual(["crimp", []]);
  expect(momentOf(day, only!.at).toISOString()).toBe("2026-11-27T09:00:00.000Z");
});

test("minutes of a day are counted from its midnight, by the clock on the wall", () => {
  const moment = momentOf("2026-03-05", 18 * 60 + 30);
  expect([dayName(moment), sayTime(moment), minutesSince("2026-03-05", moment)]).toEqual(["2026-03-05", "18:30", 1110]);
  expect([dayName(momentOf("2026-02-28", 1500)), dayName(momentOf("2026-01-01", -1))]).toEqual(["2026-03-01", "2025-12-31"]);
  for (const [minutes, said] of [
    [0, "1 min"],
    [0.4, "1 min"],
    [89.4, "89 min"],
    [90, "1.5 h"],
    [600, "10 h"],
    [2160, "1.5 days"],
    [5000, "3.5 days"],
  ] as const)
    expect(sayMinutes(minutes)).toBe(said);
});
