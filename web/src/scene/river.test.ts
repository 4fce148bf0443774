import { expect, test } from "vitest";
import type { Picture, Reach } from "../api/client";
import { heatBranch, layout, ribbon } from "./river";

/** A source, a converter that loses a fifth, and so many lights of a watt each; the last one is off. */
function picture(lights: number): Picture {
  const reach = (id: string, kind: Reach["kind"], from: string | null, sent_w: number, arrives_w: number, leaves_w: number): Reach => ({
    id,
    name: id,
    kind,
    from,
    sent_w,
    arrives_w,
    leaves_w,
    unfused: false,
    facts: [],
  });
  const lit = Math.max(1, lights - 1);
  const reaches = [reach("source", "source", null, 1.25 * lit, 1.25 * lit, 1.25 * lit), reach("module", "converter", "source", 1.25 * lit, 1.25 * lit, lit)];
  for (let n = 0; n < lights; n++) reaches.push(reach(`light-${n}`, "light", "module", n < lit ? 1 : 0, n < lit ? 1 : 0, n < lit ? 1 : 0));
  return { scene: "on", state: "full", source_w: 1.25 * lit, lights_w: lit, heat_w: 0.25 * lit, reaches, glows: [] };
}

for (const lights of [1, 2, 6, 12, 30, 60]) {
  test(`a river of ${lights} lights is true to scale and stays apart`, () => {
    const [width, offered] = [540, 320];
    const river = layout(picture(lights), width, offered);
    expect(river.stands).toHaveLength(lights + 2);
    const leaves = river.stands.filter((stand) => stand.reach.kind === "light").sort((a, b) => a.top - b.top);
    for (const stand of river.stands) {
      expect(stand.top).toBeGreaterThanOrEqual(0);
      expect(stand.top + stand.height).toBeLessThanOrEqual(river.height);
      expect(stand.x + stand.width).toBeLessThan(width);
      // Thickness is watts times one scale for all; what is off is still a line.
      if (stand.reach.arrives_w * river.scale > 2) expect(stand.height).toBeCloseTo(stand.reach.arrives_w * river.scale, 6);
      else expect(stand.height).toBe(2);
      if (stand.parent) expect(ribbon(stand)).toMatch(/^M[\d.]+ [\d.]+C/);
    }
    // Every light has room for its words.
    const line = river.dense ? 15 : 30;
    for (const [index, stand] of leaves.slice(1).entries()) {
      const before = leaves[index]!;
      expect(stand.top + stand.height / 2 - (before.top + before.height / 2)).toBeGreaterThanOrEqual(line);
    }
    const module = river.stands[1]!;
    // The mouths at the module follow each other without a gap.
    for (const [index, child] of module.children.slice(1).entries()) {
      const before = module.children[index]!;
      expect(child.mouth.top - before.mouth.top).toBeCloseTo(before.reach.sent_w * river.scale, 6);
    }
    const heat = heatBranch(module, river.scale);
    if (heat) expect(heat.heat_w).toBeCloseTo(0.25 * Math.max(1, lights - 1), 9);
  });
}
