import type { Picture, Reach } from "../api/client";

/** Where a part of the river stands on the canvas. */
export interface Stand {
  reach: Reach;
  depth: number;
  /** Left edge and width of its bar. */
  x: number;
  width: number;
  /** Top and height of what it carries. */
  top: number;
  height: number;
  parent: Stand | null;
  children: Stand[];
  /** Top and thickness of its inflow where it leaves its supplier. */
  mouth: { top: number; height: number };
}

export interface RiverLayout {
  stands: Stand[];
  /** Pixels a watt. */
  scale: number;
  /** So many lights that each has one line for its words. */
  dense: boolean;
  /** Height that it needs; more than was offered when there are very many lights. */
  height: number;
}

const BAR = 12;
const LABEL = 138;
const LEAST = 2;

/**
 * Lays the river out from the data: columns by the number of parts between, lights stacked in their order,
 * every supplier centred on what it feeds, thickness true to watts.
 */
export function layout(picture: Picture, width: number, offered: number): RiverLayout {
  let height = offered;
  const byId = new Map<string, Stand>();
  const stands: Stand[] = picture.reaches.map((reach) => {
    const stand: Stand = { reach, depth: 0, x: 0, width: BAR, top: 0, height: 0, parent: null, children: [], mouth: { top: 0, height: 0 } };
    byId.set(reach.id, stand);
    return stand;
  });
  for (const stand of stands) {
    const parent = stand.reach.from ? byId.get(stand.reach.from) : undefined;
    if (parent) {
      stand.parent = parent;
      stand.depth = parent.depth + 1;
      parent.children.push(stand);
    }
  }
  const root = stands[0];
  if (!root) return { stands, scale: 0, dense: false, height };
  const deepest = Math.max(1, ...stands.map((stand) => stand.depth));
  const leaves = stands.filter((stand) => stand.children.length === 0 && stand !== root);
  const dense = height - 34 < 44 * leaves.length;
  const line = dense ? 15 : 30;
  height = Math.max(height, 48 + (line + 1) * leaves.length);
  // In one line the name and its figures, at most "1.23 kW · 100 %", stand side by side.
  const longest = Math.max(...leaves.map((stand) => stand.reach.id.length), 0);
  const label = dense ? Math.min(0.5 * width, Math.max(196, 7 * (longest + 16))) : LABEL;
  const free = height - 40 - line * leaves.length;
  const gap = Math.max(1, Math.min(dense ? 4 : 14, free / leaves.length));
  const watts = Math.max(picture.source_w, 1e-9);
  const thick = (w: number, by: number) => Math.max(LEAST, Math.max(0, w) * by);
  // A label needs its lines however thin the stream is; the scale is the largest at which all of them fit.
  const tall = (by: number) => leaves.reduce((sum, stand) => sum + Math.max(thick(stand.reach.arrives_w, by), line) + gap, 0);
  let [low, high] = [0, (height * 0.42) / watts];
  for (let step = 0; step < 30; step++) {
    const middle = (low + high) / 2;
    if (tall(middle) <= height - 40) low = middle;
    else high = middle;
  }
  const scale = low;

  let cursor = 20;
  const place = (stand: Stand) => {
    const column = (width - label - BAR - 16) / deepest;
    const isLeaf = stand.children.length === 0 && stand !== root;
    stand.x = 16 + (isLeaf ? deepest : stand.depth) * column;
    stand.width = stand.reach.kind === "converter" ? 30 : BAR;
    // Of the source only what leaves for the lights: other loads on it are not part of the river.
    const carries = stand === root ? picture.source_w : Math.max(stand.reach.arrives_w, stand.reach.leaves_w);
    stand.height = thick(carries, scale);
    if (isLeaf) {
      const room = Math.max(stand.height, line);
      stand.top = cursor + (room - stand.height) / 2;
      cursor += room + gap;
      return;
    }
    stand.children.forEach(place);
    const first = stand.children[0];
    const last = stand.children[stand.children.length - 1];
    if (first && last) stand.top = (first.top + last.top + last.height) / 2 - stand.height / 2;
    else stand.top = height / 2 - stand.height / 2;
  };
  place(root);

  // Centre the whole with its words, then hand each supplier's height to its consumers from the top.
  const middle = (stand: Stand) => stand.top + stand.height / 2;
  const above = (stand: Stand) => (isBeside(stand) ? Math.min(stand.top, middle(stand) - 14) : stand.top - 38);
  const below = (stand: Stand) => {
    const heat = heatBranch(stand, scale);
    return Math.max(stand.top + stand.height, isBeside(stand) ? middle(stand) + (dense ? 8 : 20) : 0, heat ? heat.y + 20 : 0);
  };
  const top = Math.min(...stands.map(above));
  const bottom = Math.max(...stands.map(below));
  height = Math.max(height, bottom - top);
  const shift = (height - (bottom - top)) / 2 - top;
  for (const stand of stands) stand.top += shift;
  for (const stand of stands) {
    let at = stand.top;
    for (const child of stand.children) {
      child.mouth = { top: at, height: thick(child.reach.sent_w, scale) };
      at += Math.max(0, child.reach.sent_w) * scale;
    }
  }
  return { stands, scale, dense, height };
}

/** Whether its words stand beside it: of a light, and of whatever else nothing hangs on. */
export const isBeside = (stand: Stand): boolean => stand.reach.kind === "light" || (stand.parent !== null && stand.children.length === 0);

/** The stream from a supplier's right edge to a consumer's left edge. */
export function ribbon(stand: Stand): string {
  const { parent, mouth } = stand;
  if (!parent) return "";
  const x0 = parent.x + parent.width;
  const x1 = stand.x;
  const bend = (x0 + x1) / 2;
  const arrives = Math.min(stand.height, mouth.height);
  const a = mouth.top;
  const b = stand.top;
  return `M${x0} ${a}C${bend} ${a} ${bend} ${b} ${x1} ${b}V${b + arrives}C${bend} ${b + arrives} ${bend} ${a + mouth.height} ${x0} ${a + mouth.height}Z`;
}

/** The middle of a stream at a share of its way, from its supplier's edge to its consumer's. */
export function along(stand: Stand, share: number): { x: number; y: number } | null {
  const { parent, mouth } = stand;
  if (!parent) return null;
  const x0 = parent.x + parent.width;
  // The ribbon's curve, found by the share of its way across.
  let [low, high] = [0, 1];
  for (let turn = 0; turn < 20; turn++) {
    const t = (low + high) / 2;
    if (1.5 * t - 1.5 * t * t + t ** 3 < share) low = t;
    else high = t;
  }
  const eased = low * low * (3 - 2 * low);
  const from = mouth.top + mouth.height / 2;
  const to = stand.top + Math.min(stand.height, mouth.height) / 2;
  return { x: x0 + share * (stand.x - x0), y: from + eased * (to - from) };
}

/** The share of a stream's way at which a place across the canvas lies. */
export function shareAt(stand: Stand, x: number): number {
  if (!stand.parent) return 0;
  const x0 = stand.parent.x + stand.parent.width;
  return Math.min(1, Math.max(0, (x - x0) / (stand.x - x0)));
}

/** Heat that leaves a converter downwards; nothing where it would be thinner than a hair. */
export function heatBranch(stand: Stand, scale: number): { path: string; x: number; y: number; heat_w: number } | null {
  const watts = stand.reach.arrives_w - stand.reach.leaves_w;
  if (stand.reach.kind !== "converter" || watts * scale < 1) return null;
  const wide = watts * scale;
  const x = stand.x + stand.width / 2;
  const y = stand.top + stand.height;
  const end = y + 34;
  return {
    path: `M${x - wide / 2} ${y}C${x - wide / 2} ${y + 18} ${x} ${y + 20} ${x + 8} ${end}H${x + 8 + wide * 0.7}C${x + wide * 0.6} ${y + 20} ${x + wide / 2} ${y + 14} ${x + wide / 2} ${y}Z`,
    x: x + 8 + wide * 0.35,
    y: end,
    heat_w: watts,
  };
}
