import { expect, test } from "vitest";
import { closeOn, middleOf, pathOf, pointAt, pointsOf, spread } from "./along";

const CORNER = pointsOf("M0 0L100 0L100 50");

test("a way is read, walked and written", () => {
  expect(CORNER).toEqual([
    [0, 0],
    [100, 0],
    [100, 50],
  ]);
  expect(pointAt(CORNER, 120)).toEqual([100, 20]);
  expect(pointAt(CORNER, 999)).toEqual([100, 50]);
  expect(pathOf(CORNER)).toBe("M0.0 0.0L100.0 0.0L100.0 50.0");
});

test("a row that is shorter than its place lies in its middle, with the place's corners in it", () => {
  expect(middleOf(CORNER, 90)).toEqual([
    [30, 0],
    [100, 0],
    [100, 20],
  ]);
  expect(middleOf(CORNER, 400)).toEqual(CORNER);
});

test("points are spread evenly, each in the middle of its share", () => {
  expect(spread(pointsOf("M0 0L100 0"), 4).map(([x]) => x)).toEqual([12.5, 37.5, 62.5, 87.5]);
  const close = closeOn(CORNER, 8);
  for (const [at, point] of close.entries()) if (at > 0) expect(Math.hypot(point[0] - close[at - 1]![0], point[1] - close[at - 1]![1])).toBeLessThanOrEqual(8);
});
