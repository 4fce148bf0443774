import { expect, test } from "vitest";
import type { ShelfEntry } from "../api/client";
import { ALL, ordered } from "./order";

const entry = (id: number, name: string, vehicle: string, summary: object = {}): ShelfEntry =>
  ({
    id,
    name,
    revision: 1,
    saved_at: "2026-12-01T10:00:00Z",
    summary: { readable: true, vehicle, lights: 1, stops: 0, fixes: 0, notes: 0, headline: "", ...summary },
  }) as never;
const SHELF = [
  entry(1, "Trail deck", "skateboard", { fixes: 2, tags: ["parade", "lent-out"] }),
  entry(2, "Ärmel coach", "rc_model"),
  entry(3, "Book-delivery trike", "bicycle", { stops: 1 }),
  entry(4, "Firefly", "bicycle", { tags: ["parade"] }),
  entry(5, "Broken one", "rv", { readable: false }),
];
const called = (kind: string) => ({ bicycle: "Bicycle or trike", rc_model: "RC model" })[kind] ?? kind;
const ids = (wanted: Partial<typeof ALL>) => ordered(SHELF, { ...ALL, ...wanted }, called).map((one) => one.id);

test("a shelf is narrowed by words of the name and of the vehicle, and by kind", () => {
  expect(ids({})).toEqual([1, 2, 3, 4, 5]);
  expect(ids({ text: "fire" })).toEqual([4]);
  expect(ids({ text: "bicycle" })).toEqual([3, 4]);
  expect(ids({ text: "TRIKE book" })).toEqual([3]);
  expect(ids({ vehicle: "bicycle" })).toEqual([3, 4]);
  expect(ids({ vehicle: "bicycle", text: "deck" })).toEqual([]);
  // And by what notes mark, chosen or typed.
  expect(ids({ tag: "parade" })).toEqual([1, 4]);
  expect(ids({ tag: "parade", vehicle: "bicycle" })).toEqual([4]);
  expect(ids({ text: "#lent" })).toEqual([1]);
  expect(ids({ tag: "sold" })).toEqual([]);
});

test("and put in order by name, as people sort, or by what is dangerous", () => {
  expect(ids({ order: "name" })).toEqual([2, 3, 5, 4, 1]);
  expect(ids({ order: "verdict" })).toEqual([5, 3, 1, 2, 4]);
  // What weighs the same stays as it was.
  expect(ids({ order: "verdict", vehicle: "bicycle" })).toEqual([3, 4]);
});
