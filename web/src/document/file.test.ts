import { readFileSync } from "node:fs";
import { expect, test } from "vitest";
import type { Build } from "../api/client";
import { fileName } from "./file";

const demo = (name: string) => JSON.parse(readFileSync(new URL(`../../../core/model/demo/${name}.json`, import.meta.url), "utf8")) as Build;

test("a file is called after its build", () => {
  const named = (name: string) => fileName({ ...demo("trail-deck"), name });
  const cases = [
    ["Trail deck", "trail-deck.json"],
    ["  Owl & Co. (2026)  ", "owl-co-2026.json"],
    ["Täglich", "t-glich.json"],
    ["☾", "build.json"],
    ["", "build.json"],
  ] as const;
  for (const [name, file] of cases) expect(named(name), name).toBe(file);
  expect(fileName(demo("trail-deck"), "svg")).toMatch(/\.svg$/);
});
