import { expect, test } from "vitest";
import { closeOn, pointsOf } from "./along";
import { type Box, type Named, boxOf, placeLabels } from "./labels";

const frame = { left: -36, right: 596, top: -8, bottom: 304 };
const apart = (a: Box, b: Box) => a.right <= b.left || b.right <= a.left || a.bottom <= b.top || b.bottom <= a.top;
const near = (count: number): Named[] =>
  Array.from({ length: count }, (_, n) => ({ id: `light-${n}`, x: 200 + 46 * (n % 4), y: 120 + 30 * Math.floor(n / 4), radius: 9 }));

test("names on a drawing lie neither on each other nor on a light, up to twelve close together", () => {
  for (const size of [15, 19]) {
    for (const count of [1, 2, 4, 8, 12]) {
      const things = near(count);
      const pack = { id: "pack", x: 318, y: 198, radius: 17 };
      const labels = placeLabels(things, [pack], frame, size);
      const boxes = things.map(({ id }) => boxOf(labels.get(id)!, id, size));
      for (const [index, a] of boxes.entries()) {
        expect(a.left).toBeGreaterThanOrEqual(frame.left);
        expect(a.right).toBeLessThanOrEqual(frame.right);
        for (const b of boxes.slice(index + 1)) expect(apart(a, b), `${count} of ${size}`).toBe(true);
        for (const { x, y, radius } of [...things, pack])
          expect(apart(a, { left: x - radius, right: x + radius, top: y - radius, bottom: y + radius }), `${count} of ${size}`).toBe(true);
      }
    }
  }
});

test("a name gives way to a line, and says with a line of its own whose it is where it stands apart", () => {
  const one: Named = { id: "tail", x: 200, y: 150, radius: 9 };
  const plain = placeLabels([one], [], frame).get("tail")!;
  expect(plain.from).toBeUndefined();
  const line = closeOn(pointsOf("M200 150L300 150"));
  expect(line.length).toBeGreaterThan(10);
  const moved = boxOf(placeLabels([one], [], frame, 15, line).get("tail")!, "tail", 15);
  expect(line.some(([x, y]) => x > moved.left && x < moved.right && y > moved.top && y < moved.bottom)).toBe(false);
  // Walled in by others, it goes out to where there is room.
  const crowd = Array.from({ length: 8 }, (_, n): Named => ({ id: `w${n}`, x: 200 + 34 * Math.cos(n * 0.785), y: 150 + 34 * Math.sin(n * 0.785), radius: 15 }));
  expect(placeLabels([one], crowd, frame).get("tail")!.from).toBeDefined();
});
