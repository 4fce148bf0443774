import { readFileSync, readdirSync } from "node:fs";
import { expect, test } from "vitest";
import type { Part } from "../api/client";
import { fieldsOfPart, valueIn, withValue } from "./partFields";

const folder = new URL("../../../core/model/parts/", import.meta.url);
const parts = readdirSync(folder).flatMap((name) => {
  const read = JSON.parse(readFileSync(new URL(name, folder), "utf8")) as Part | Part[];
  return Array.isArray(read) ? read : [read];
});

test("every part of the library is edited by its own kind's fields, its name first", () => {
  expect(parts.length).toBeGreaterThan(30);
  for (const part of parts) {
    const fields = fieldsOfPart(part);
    expect(fields[0]!.path, part.id).toEqual(["name"]);
    const names = fields.map((field) => `${field.path.join("/")}${field.index ?? ""}`);
    expect(new Set(names).size, part.id).toBe(names.length);
    expect(names, "what is carried along is not edited").not.toContain("what/figures/carried");
  }
});

test("a converter of the drawer has the figures of its kind", () => {
  const kinds = new Map(
    parts.flatMap((part) => (part.what.kind === "converter" ? [[(part.what.figures as unknown as { kind: string }).kind, part] as const] : [])),
  );
  expect(kinds.size).toBeGreaterThan(2);
  for (const [kind, part] of kinds) {
    const names = fieldsOfPart(part).map((field) => field.path.at(-1));
    expect(names.includes("set_a"), kind).toBe(kind === "current_driver");
    expect(names.includes("set_v"), kind).toBe(kind !== "current_driver");
    expect(names.includes("pass_drop_v"), kind).toBe(kind === "boost");
  }
});

test("another value is written into a copy", () => {
  const part = parts.find((known) => known.what.kind === "led")!;
  const changed = withValue(part, ["what", "led", "if_a"], 0.01);
  expect([valueIn(changed, ["what", "led", "if_a"]), valueIn(part, ["what", "led", "if_a"]) === 0.01]).toEqual([0.01, false]);
  expect(valueIn(part, ["what", "no", "such"])).toBeUndefined();
});
