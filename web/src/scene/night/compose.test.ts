import { describe, expect, it } from "vitest";
import type { Falling } from "../../api/client";
import { type Planes, compose, octets, pointsOf } from "./compose";

const text = (bytes: Uint8Array) => btoa(String.fromCharCode(...bytes));
/** Halves by their bits: 0x3c00 is 1, 0x4000 is 2, 0x5640 is 100. */
const halves = (...all: number[]) => text(new Uint8Array(Uint16Array.from(all).buffer));

const plane = (value: number) => new Uint8Array(16).fill(value);
const planes = (body: number, around: number, sky: number): Planes => ({
  wide: 4,
  high: 4,
  lightWide: 2,
  lightHigh: 2,
  glareWide: 1,
  glareHigh: 1,
  body: plane(body),
  around: plane(around),
  sky: plane(sky),
});
const cells = (count: number, ...rgb: [number, number, number]) => halves(...Array.from({ length: count }, () => rgb).flat());
const dark: Falling = {
  body: cells(4, 0, 0, 0),
  around: cells(4, 0, 0, 0),
  glare: cells(1, 0, 0, 0),
  points: "",
  sky_lx: [0, 0, 0],
  white_lx: 1,
  brightest_lx: 0,
};
const pixel = (shown: Uint8ClampedArray, at = 0) => [...shown.slice(4 * at, 4 * at + 4)];

describe("a picture of the night", () => {
  it("is black where nothing shines", () => {
    expect(pixel(compose(planes(255, 255, 255), dark))).toEqual([0, 0, 0, 255]);
  });

  it("has light where it falls on what throws it back", () => {
    const lit = { ...dark, around: cells(4, 0x3c00, 0, 0) };
    expect(pixel(compose(planes(0, 255, 0), lit))[0]).toBeGreaterThan(150);
    expect(pixel(compose(planes(255, 0, 255), lit))).toEqual([0, 0, 0, 255]);
    expect(pixel(compose(planes(0, 255, 0), lit)).slice(1, 3)).toEqual([0, 0]);
  });

  it("is brighter the more light there is, and never brighter than white", () => {
    const levels = [0x2c00, 0x3400, 0x3c00, 0x4000, 0x5640].map(
      (half) => pixel(compose(planes(0, 255, 0), { ...dark, around: cells(4, half, half, half) }))[0]!,
    );
    expect(levels).toEqual([...levels].sort((a, b) => a - b));
    expect(levels[0]).toBeLessThan(levels[2]!);
    expect(levels.at(-1)).toBe(255);
  });

  it("bleaches what is far brighter than white", () => {
    const shown = pixel(compose(planes(0, 255, 0), { ...dark, around: cells(4, 0x5640, 0, 0) }));
    expect(shown[0]).toBe(255);
    expect(shown[1]).toBeGreaterThan(40);
  });

  it("draws a point where it is", () => {
    const points = halves(32 * 2.5, 32 * 1.5, 64 * 0.9, 0x5640, 0x5640, 0x5640);
    expect(pointsOf(points)).toEqual([{ x: 2.5, y: 1.5, radius: expect.closeTo(0.9, 1) as number, rgb: [100, 100, 100] }]);
    const shown = compose(planes(0, 0, 0), { ...dark, points });
    expect(pixel(shown, 4 + 2)[0]).toBe(255);
    expect(pixel(shown, 0)[0]).toBe(0);
  });

  it("reads octets as they were written", () => {
    expect([...octets(text(Uint8Array.from([0, 127, 255])))]).toEqual([0, 127, 255]);
  });
});
