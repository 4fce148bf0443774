import type { Build } from "../../api/client";

const seen = new Map<number, Build>();

/** A build as it was when its look was first opened in this page: what changes since are compared with. */
export function beforeOf(id: number, build: Build): Build {
  const known = seen.get(id) ?? build;
  seen.set(id, known);
  return known;
}
