import { expect, test } from "vitest";
import { type Named, placeLabels } from "./labels";

test("names on a drawing lie neither on each other nor on a light", () => {
  const frame = { left: -36, right: 596, top: -8, bottom: 304 };
  const near = (count: number): Named[] =>
    Array.from({ length: count }, (_, n) => ({ id: `light-${n}`, x: 200 + 46 * (n % 4), y: 120 + 30 * Math.floor(n / 4), radius: 9 }));
  for (const count of [1, 2, 4, 8]) {
    const things = near(count);
    const pack = { id: "pack", x: 318, y: 178, radius: 17 };
    const labels = placeLabels(things, [pack], frame);
    const boxes = things.map(({ id }) => {
      const { x, y, anchor } = labels.get(id)!;
      const width = 8.4 * id.length;
      const left = anchor === "start" ? x : anchor === "end" ? x - width : x - width / 2;
      return { left, right: left + width, top: y - 14, bottom: y + 4 };
    });
    for (const [index, a] of boxes.entries()) {
      expect(a.left).toBeGreaterThanOrEqual(frame.left);
      expect(a.right).toBeLessThanOrEqual(frame.right);
      // Up to four side by side there is room for all.
      if (count > 4) continue;
      for (const b of boxes.slice(index + 1)) expect(a.right <= b.left || b.right <= a.left || a.bottom <= b.top || b.bottom <= a.top, `${count}`).toBe(true);
      for (const { x, y } of [...things, pack]) expect(x < a.left || x > a.right || y < a.top || y > a.bottom).toBe(true);
    }
  }
});
