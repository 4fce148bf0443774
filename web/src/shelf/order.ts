import type { ShelfEntry } from "../api/client";

/** Ways to put a shelf in order. */
export const ORDERS = [
  ["saved", "Newest first"],
  ["name", "By name"],
  ["verdict", "Dangers first"],
] as const;
export type Order = (typeof ORDERS)[number][0];

/** What a shelf with many builds is narrowed by. */
export interface Wanted {
  /** Words of the name or the vehicle. */
  text: string;
  /** A kind of vehicle; empty: all. */
  vehicle: string;
  /** A tag; empty: all. */
  tag: string;
  order: Order;
}

export const ALL: Wanted = { text: "", vehicle: "", tag: "", order: "saved" };

/** More than this are searched. */
export const MANY = 6;

/** How bad it stands with a build: dangers before what is to fix, before what was not read yet. */
const weight = ({ summary }: ShelfEntry) => (!summary ? 0 : !summary.readable || summary.trouble ? 3 : summary.stops ? 2 : summary.fixes ? 1 : 0);

/** What a build's notes mark by `#`. */
export const tagsOf = ({ summary }: ShelfEntry): readonly string[] => summary?.tags ?? [];

/** The builds that fit, in the order that is wanted; `called` gives a vehicle's name. */
export function ordered(entries: readonly ShelfEntry[], { text, vehicle, tag, order }: Wanted, called: (kind: string) => string): ShelfEntry[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  const fits = (entry: ShelfEntry) => {
    const kind = entry.summary?.vehicle ?? "";
    const tags = tagsOf(entry);
    const known = `${entry.name} ${called(kind)} ${tags.map((one) => `#${one}`).join(" ")}`.toLowerCase();
    return (vehicle === "" || kind === vehicle) && (tag === "" || tags.includes(tag)) && words.every((word) => known.includes(word));
  };
  const found = entries.filter(fits);
  const by: Record<Order, (a: ShelfEntry, b: ShelfEntry) => number> = {
    // As the server has them.
    saved: () => 0,
    name: (a, b) => a.name.localeCompare(b.name),
    verdict: (a, b) => weight(b) - weight(a),
  };
  return found.sort(by[order]);
}
