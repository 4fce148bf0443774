import { expect, test } from "vitest";
import type { BenchCheck } from "../../api/client";
import { band, should } from "./words";
import { say } from "../../units";

test("what a meter should read is said so that it can be read off it", () => {
  const check = (more: Partial<BenchCheck>) => ({ unit: "V", expected: 5, low: null, high: null, ...more }) as BenchCheck;
  expect(should(check({}))).toBe(say({ value: 5, unit: "V" }));
  expect(should(check({ expected: null }))).toBe("open");
  expect([0.02, 0.5].map((expected) => should(check({ unit: "ohm", expected })))).toEqual(["next to nothing", say({ value: 0.5, unit: "ohm" })]);
  const [low, high] = [say({ value: 4.8, unit: "V" }), say({ value: 5.2, unit: "V" })];
  expect([band(check({ low: 4.8, high: 5.2 })), band(check({ low: 4.8 })), band(check({ high: 5.2 })), band(check({}))]).toEqual([
    `${low} to ${high}`,
    `more than ${low}, or open`,
    `less than ${high}`,
    "anything",
  ]);
});
