import { describe, expect, it } from "vitest";
import type { Design } from "../../api/client";
import { order } from "./order";
import { BEGIN, likely, wishOf } from "./wish";

const design = (says: string, cost: number, mass_g: number, hours: number | null, joints: number, headroom: number) =>
  ({ says, measures: { cost, mass_g, hours, joints, headroom } }) as unknown as Design;

describe("designs by what matters", () => {
  const all = [
    design("cheap", 10, 500, 5, 20, 0.5),
    design("light", 60, 50, 5, 20, 0.5),
    design("long", 60, 500, 50, 20, 0.5),
    design("simple", 60, 500, 5, 0, 0.9),
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

  it("keeps its order where nothing matters, and counts a supply without end as longest", () => {
    expect(order(all, [0, 0, 0, 0, 0])).toEqual(all);
    const rail = design("rail", 60, 500, null, 20, 0.5);
    expect(order([...all, rail], [0, 0, 1, 0, 0])[0]).toBe(rail);
  });
});

describe("a wish", () => {
  it("takes what a place is likely for", () => {
    expect(likely("rear rack")).toEqual({ for: "seen", colour: "red" });
    expect(likely("handlebar")).toEqual({ for: "see", colour: "white" });
    expect(likely("left wing tip").colour).toBe("red");
    expect(likely("right wing tip").colour).toBe("green");
  });

  it("asks for any colour of a show, and leaves the vehicle's battery alone where lights have their own", () => {
    const light = { place: "tail", for: "show", colour: "red", length_m: 0.5, count: 1 } as const;
    const own = wishOf({ ...BEGIN, lights: [light], supply: { by: "own" } }, null);
    expect([own.battery, own.own_pack, own.lights[0]!.colour]).toEqual([null, "must", "any"]);
    expect(wishOf(BEGIN, null).own_pack).toBe("no");
  });
});
