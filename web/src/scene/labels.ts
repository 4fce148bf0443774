/** A thing on a drawing that wants its name beside it. */
export interface Named {
  id: string;
  x: number;
  y: number;
  /** Half of what it covers itself. */
  radius: number;
}

/** Where a name stands: its anchor point and how it is set there. */
export interface Label {
  x: number;
  y: number;
  anchor: "start" | "middle" | "end";
  /** The end of a thin line to its thing, where it stands apart. */
  from?: readonly [number, number];
}

export interface Box {
  left: number;
  right: number;
  top: number;
  bottom: number;
}

/** Width of a letter and height of a line, of the size of the letters. */
const LETTER = 0.56;
const LINE = 1.2;

/** What a label covers, its letters so large. */
export const boxOf = ({ x, y, anchor }: Label, text: string, size: number): Box => {
  const width = LETTER * size * text.length;
  const left = anchor === "start" ? x : anchor === "end" ? x - width : x - width / 2;
  return { left, right: left + width, top: y - 0.9 * size, bottom: y + 0.3 * size };
};

const overlap = (a: Box, b: Box) =>
  Math.max(0, Math.min(a.right, b.right) - Math.max(a.left, b.left)) * Math.max(0, Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top));

const TURN = 2 * Math.PI;
/** Ways around a thing: to its sides first, where a name is read best. */
const WAYS = [0, 0.5, 0.75, 0.25, 0.875, 0.625, 0.125, 0.375, 0.9375, 0.5625, 0.0625, 0.4375, 0.8125, 0.6875, 0.1875, 0.3125].map((share) => share * TURN);
/** How far a name may stand from its thing, in lines. */
const RINGS = [0, 1, 2, 3, 4.5, 6, 8, 10, 13];

/**
 * A place for each name so that none lies on another, on a thing, on a line or beyond the edge: the nearest way and distance
 * around each thing at which it covers nothing, else the one that covers least. `lines` are points close together along what
 * runs through the drawing, `frame` is what is seen, `size` how large the letters are.
 */
export function placeLabels(
  things: readonly Named[],
  taken: readonly Named[],
  frame: Box,
  size = 15,
  lines: readonly (readonly [number, number])[] = [],
): Map<string, Label> {
  const bodies = [...things, ...taken].map(({ x, y, radius }): Box => ({ left: x - radius, right: x + radius, top: y - radius, bottom: y + radius }));
  const placed: Box[] = [];
  const labels = new Map<string, Label>();
  for (const { id, x, y, radius } of things) {
    let best: { cost: number; label: Label } | null = null;
    for (const ring of RINGS) {
      // Once something free is found nearer, farther is not looked at.
      if (best && best.cost < 100) break;
      for (const [rank, way] of WAYS.entries()) {
        const far = radius + 0.4 * size + ring * LINE * size;
        const [dx, dy] = [Math.cos(way), Math.sin(way)];
        const anchor = dx > 0.35 ? "start" : dx < -0.35 ? "end" : "middle";
        const label: Label = { x: x + far * dx, y: y + far * dy + (anchor === "middle" ? (dy > 0 ? 0.8 : -0.1) : 0.33) * size, anchor };
        const box = boxOf(label, id, size);
        const beyond =
          Math.max(0, frame.left - box.left) + Math.max(0, box.right - frame.right) + Math.max(0, frame.top - box.top) + Math.max(0, box.bottom - frame.bottom);
        const covers = placed.reduce((sum, other) => sum + overlap(box, other), 0) + bodies.reduce((sum, body) => sum + overlap(box, body), 0);
        const crossed = lines.reduce((sum, [px, py]) => sum + (px > box.left && px < box.right && py > box.top && py < box.bottom ? 1 : 0), 0);
        const cost = 100 * (covers > 0 ? 1 + covers / size : 0) + 400 * beyond + 20 * crossed + 2 * ring + 0.1 * rank;
        if (!best || cost < best.cost) best = { cost, label: ring > 1 ? { ...label, from: [x + radius * dx, y + radius * dy] } : label };
      }
    }
    const { label } = best!;
    placed.push(boxOf(label, id, size));
    labels.set(id, label);
  }
  return labels;
}
