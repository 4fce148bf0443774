import { readFileSync, readdirSync } from "node:fs";
import { expect, test } from "vitest";
import { Ajv2020 } from "ajv/dist/2020.js";

test("the schema accepts every sample build and refuses what the program refuses", () => {
  const read = (path: string) => JSON.parse(readFileSync(new URL(`../../../${path}`, import.meta.url), "utf8")) as Record<string, never>;
  const valid = new Ajv2020({ strict: false, validateFormats: false, allErrors: true }).compile(read("docs/orthavis.build-1.schema.json"));
  for (const folder of ["core/model/demo", "core/testing/cases"])
    for (const file of readdirSync(new URL(`../../../${folder}`, import.meta.url)).filter((name) => name.endsWith(".json") && !name.includes("expected"))) {
      const accepted = valid(read(`${folder}/${file}`));
      expect(valid.errors ?? [], file).toEqual([]);
      expect(accepted).toBe(true);
    }
  const trike = () => structuredClone(read("core/model/demo/book-delivery-trike.json")) as unknown as Record<string, Record<string, unknown>>;
  const spoil: ((build: Record<string, Record<string, unknown>>) => void)[] = [
    (build) => delete (build as Record<string, unknown>).vehicle,
    (build) => delete build.source!.chemistry,
    (build) => (build.source!.capacity_ah = "14 Ah"),
    (build) => (build.vehicle!.kind = "submarine"),
  ];
  for (const change of spoil) {
    const build = trike();
    change(build);
    expect(valid(build), String(change)).toBe(false);
  }
});

test("every word of the trade that the page marks is explained", () => {
  const from = (path: string) => new URL(`../../../${path}`, import.meta.url);
  const known = new Set((JSON.parse(readFileSync(from("core/model/data/glossary.json"), "utf8")) as { term: string }[]).map((entry) => entry.term));
  const marked = new Map<string, string>();
  for (const file of readdirSync(from("web/src"), { recursive: true, encoding: "utf8" }).filter((name) => name.endsWith(".tsx")))
    for (const [, word] of readFileSync(from(`web/src/${file}`), "utf8").matchAll(/(?:term|<Term word)="([^"]+)"/g)) marked.set(word!, file);
  const fields = JSON.parse(readFileSync(from("web/src/api/fields.json"), "utf8")) as { objects: Record<string, Record<string, { term?: string }>> };
  for (const [object, known] of Object.entries(fields.objects)) for (const { term } of Object.values(known)) if (term) marked.set(term, object);
  expect(marked.size).toBeGreaterThan(30);
  for (const [word, file] of marked) expect(known.has(word), `${word} in ${file}`).toBe(true);
});
