import { describe, expect, it } from "vitest";
import { order } from "./order";
import { BEGIN, wishOf } from "./wish";

describe("designs by what matters", () => {
  const all = [
    { says: "cheap", shares: [0, 1, 1, 1, 1] },
    { says: "light", shares: [1, 0, 1, 1, 1] },
    { says: "long", shares: [1, 1, 0, 1, 1] },
    { says: "simple", shares: [1, 1, 1, 0, 0.5] },
  ];

  it("puts what is weighed first", () => {
    const first = (...weights: number[]) => order(all, weights)[0]!.says;
    expect([first(1, 0, 0, 0, 0), first(0, 1, 0, 0, 0), first(0, 0, 1, 0, 0), first(0, 0, 0, 1, 0), first(0, 0, 0, 0, 1)]).toEqual([
      "cheap",
      "light",
      "long",
      "simple",
      "simple",
    ]);
  });

  it("keeps its order where nothing matters", () => {
    expect(order(all, [0, 0, 0, 0, 0])).toEqual(all);
  });
});

describe("a wish", () => {
  it("asks for any colour of a show, and leaves the vehicle's battery alone where lights have their own", () => {
    const light = { place: "tail", for: "show", colour: "red", length_m: 0.5, count: 1 } as const;
    const own = wishOf({ ...BEGIN, lights: [light], supply: { by: "own" } }, null);
    expect([own.battery, own.own_pack, own.lights[0]!.colour]).toEqual([null, "must", "any"]);
    expect(wishOf(BEGIN, null).own_pack).toBe("no");
  });
});
