import { readFileSync, readdirSync } from "node:fs";
import { expect, test } from "vitest";
import type { Build } from "../api/client";
import { wordsOf } from "./fields";
import { JOB, supplierName, suppliersOf, vehicleOf } from "./job";

const folder = new URL("../../../core/model/demo/", import.meta.url);
const samples = readdirSync(folder).map((name) => JSON.parse(readFileSync(new URL(name, folder), "utf8")) as Build);

test("every word of a list has what its form needs", () => {
  const all = (list: string) => wordsOf(list).map(([word]) => word);
  expect(Object.keys(JOB.remotes).sort()).toEqual(all("RemoteKind").sort());
  expect(Object.keys(JOB.moves).sort()).toEqual(all("MovingKind").sort());
  expect(Object.keys(JOB.wishes).sort()).toEqual(all("CircuitKind").sort());
  expect(Object.keys(JOB.vehicles).sort()).toEqual(all("VehicleKind").sort());
  expect(Object.keys(JOB.circuits).sort()).toEqual(all("CircuitKind").sort());
  for (const { about } of Object.values(JOB.circuits)) expect(about).toMatch(/\.$/);
  expect(Object.keys(JOB.sources).sort()).toEqual(all("SourceKind").sort());
  for (const { load } of JOB.lights) if (load) expect(all("LoadKind")).toContain(load);
  // What only bends never loses touch; a contact does.
  for (const { bends, bounce_share } of Object.values(JOB.moves)) expect(bounce_share > 0).toBe(!bends);
  for (const { min, max, step } of JOB.dials) expect(min < max && step > 0 && step < max - min).toBe(true);
});

test("a vehicle is like its form, and like its first where none is named", () => {
  const like = (kind: string, variant?: string) => vehicleOf({ vehicle: { kind, variant } } as unknown as Build);
  expect([like("drone").hovers, like("rc_model", "plane").flies, like("rc_model", "boat").flies, like("rv").lived_in]).toEqual([true, true, false, true]);
  expect([like("wheelchair").frame_may_return, like("bicycle").frame_may_return]).toEqual([false, true]);
  for (const build of samples) expect(vehicleOf(build), build.name).toBeDefined();
});

test("what feeds is called as people call it", () => {
  const on = (kind: string) => ({ source: { kind } }) as unknown as Build;
  expect([
    supplierName(on("battery"), "source"),
    supplierName(on("track"), "source"),
    supplierName(on("rail"), "source"),
    supplierName(on("rail"), "five-volt"),
  ]).toEqual(["the battery", "the track", "the supply", "five-volt"]);
});

test("lights hang on the source, on modules that set a voltage and on terminal blocks", () => {
  const drivers = {
    converters: [
      { id: "drives", kind: "current_driver" },
      { id: "five", kind: "buck" },
    ],
    junctions: [{ id: "block" }],
  };
  expect(suppliersOf(drivers as unknown as Build)).toEqual(["source", "five", "block"]);
  for (const build of samples) {
    const known = suppliersOf(build);
    const used = build.lights.flatMap((light) => light.feeds.map((feed) => feed.from));
    const others = new Set([...(build.circuits ?? []), ...(build.converters ?? []).filter((one) => one.kind === "current_driver")].map((one) => one.id));
    for (const from of used.filter((id) => !others.has(id))) expect(known, build.name).toContain(from);
  }
});
