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
}

interface Box {
  left: number;
  right: number;
  top: number;
  bottom: number;
}

const LETTER = 8.4;
const LINE = 18;

const boxOf = ({ x, y, anchor }: Label, id: string): Box => {
  const width = LETTER * id.length;
  const left = anchor === "start" ? x : anchor === "end" ? x - width : x - width / 2;
  return { left, right: left + width, top: y - LINE + 4, bottom: y + 4 };
};

const overlap = (a: Box, b: Box) =>
  Math.max(0, Math.min(a.right, b.right) - Math.max(a.left, b.left)) * Math.max(0, Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top));

/**
 * A place for each name so that none lies on another, on a thing, or beyond the edge: of a few usual places around each
 * thing the one that covers least. `frame` is what is seen.
 */
export function placeLabels(things: readonly Named[], taken: readonly Named[], frame: Box): Map<string, Label> {
  const round = ({ x, y, radius }: Named): Box => ({ left: x - radius, right: x + radius, top: y - radius, bottom: y + radius });
  const bodies = [...things, ...taken].map((thing) => ({ id: thing.id, box: round(thing) }));
  const placed: Box[] = [];
  const labels = new Map<string, Label>();
  for (const { id, x, y, radius } of things) {
    const gap = radius + 6;
    const options: Label[] = [
      { x: x + gap, y: y + 5, anchor: "start" },
      { x: x - gap, y: y + 5, anchor: "end" },
      { x, y: y - gap, anchor: "middle" },
      { x, y: y + gap + 12, anchor: "middle" },
      { x: x + gap - 4, y: y - gap + 4, anchor: "start" },
      { x: x - gap + 4, y: y - gap + 4, anchor: "end" },
      { x: x + gap - 4, y: y + gap + 8, anchor: "start" },
      { x: x - gap + 4, y: y + gap + 8, anchor: "end" },
      { x, y: y - gap - LINE, anchor: "middle" },
      { x, y: y + gap + 12 + LINE, anchor: "middle" },
    ];
    let best: { cost: number; label: Label } | null = null;
    options.forEach((label, rank) => {
      const box = boxOf(label, id);
      const beyond =
        Math.max(0, frame.left - box.left) + Math.max(0, box.right - frame.right) + Math.max(0, frame.top - box.top) + Math.max(0, box.bottom - frame.bottom);
      const covers = placed.reduce((sum, other) => sum + 3 * overlap(box, other), 0) + bodies.reduce((sum, body) => sum + overlap(box, body.box), 0);
      const cost = covers + 40 * beyond + rank;
      if (!best || cost < best.cost) best = { cost, label };
    });
    const label = (best as { label: Label } | null)?.label ?? options[0]!;
    placed.push(boxOf(label, id));
    labels.set(id, label);
  }
  return labels;
}
