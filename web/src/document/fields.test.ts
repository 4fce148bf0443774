import { readFileSync } from "node:fs";
import { expect, test } from "vitest";
import type { Build } from "../api/client";
import { of, read as readQuantity, ruler } from "../units";
import { clear, editorOf, everyField, fedLists, fieldAt, fieldOf, fieldsAt, put, turned, valueAt } from "./fields";

const demo = (name: string) => JSON.parse(readFileSync(new URL(`../../../core/model/demo/${name}.json`, import.meta.url), "utf8")) as Build;

/** Every field of the document that a person reads a label of can be edited where it stands. */

test("every field with a label has an editor", () => {
  const labelled = everyField().filter(([, spec]) => spec.label !== undefined);
  expect(labelled.length).toBeGreaterThan(200);
  expect(labelled.filter(([, spec]) => editorOf(spec) === "apart").map(([name]) => name)).toEqual([]);
});

test("an entry of a list or a map is edited as what it is", () => {
  const build = {
    usage: { minutes: { ride: 40 } },
    circuits: [{ kind: "hold_up", parts: { taps_ohm: [1000, 1000] } }],
    places: [{ name: "front", traits: ["wet"] }],
  } as unknown as Build;
  const editor = (at: string) => editorOf(fieldAt(build, at));
  expect(editor("/usage/minutes/ride")).toBe("figure");
  expect(editor("/usage/minutes")).toBe("figures");
  expect(editor("/circuits/0/parts/taps_ohm/1")).toBe("figure");
  expect(editor("/circuits/0/parts/taps_ohm")).toBe("figures");
  expect(editor("/places/0/traits")).toBe("words");
  expect(editor("/places/0/traits/0")).toBe("word");
  expect(fieldAt(build, "/circuits/0/parts/taps_ohm/0").max).toBe(1e9);
});

test("a field is found by its place, whatever its kind", () => {
  const build = demo("book-delivery-trike");
  expect(fieldAt(build, "/source/series")).toMatchObject({ shape: "whole", min: 1, label: "Cells in series" });
  expect(fieldAt(build, "/lights/0/load/led/if_a")).toMatchObject({ unit: "A", shown: "mA", open: true });
  expect(fieldAt(build, "/scenes/0/lights/tail/level")).toMatchObject({ max: 1, shown: "%" });
  expect(fieldAt(build, "/usage/minutes/ride")).toMatchObject({ unit: "min" });
  expect(fieldAt(build, "/lights/0/feeds/0/fuse/style")).toMatchObject({ shape: "word", of: "FuseStyle" });
  expect(() => fieldAt(build, "/lights/0/load/pixle")).toThrow("/lights/0/load/pixle");
  expect(fieldOf("bulb.lumens").unit).toBe("lm");
});

test("writing a field begins what is around it, and emptying it takes that away", () => {
  const build = demo("book-delivery-trike");
  build.vehicle.propulsion = null;
  put(build, "/vehicle/propulsion/power_w", 120);
  expect(build.vehicle.propulsion).toEqual({ power_w: 120, speed_kmh: fieldOf("Propulsion.speed_kmh").begins });
  clear(build, "/vehicle/propulsion");
  expect(build.vehicle.propulsion).toBeNull();
  const scene = build.scenes[0]!;
  scene.lights = {};
  put(build, "/scenes/0/lights/a~1b/duty", 0.5, { level: 0 });
  expect(scene.lights["a/b"]).toEqual({ level: 0, duty: 0.5, colour: [1, 1, 1], effect: null });
  put(build, "/converters/0/efficiency", [{ vin_v: 30, efficiency: 0.9 }]);
  expect(fieldAt(build, "/converters/0/efficiency/0/vin_v").unit).toBe("V");
  expect(valueAt(build, "/converters/0/efficiency/0/efficiency")).toBe(0.9);
  expect(valueAt(build, "/no/such/place")).toBeUndefined();
});

test("a field of the document says its own unit", () => {
  const strip = { segment_m: 0.05, voltage_v: 12, power_w_per_m: 14.4, rail_ohm_per_m: 0.06, count: 3 };
  expect(ruler(of(strip, "segment_m"))).toBe("5.00 cm");
  expect(ruler(of({ pitch_m: 0.0069 }, "pitch_m"))).toBe("6.9 mm");
  expect(readQuantity(of(strip, "power_w_per_m"))).toBe("14.4 W/m");
  expect(readQuantity(of(strip, "rail_ohm_per_m"))).toBe("0.06 Ω/m");
  expect(readQuantity(of(strip, "voltage_v"))).toBe("12 V");
});

test("what an object has follows from its kind", () => {
  const build = demo("railway-coach");
  const names = (at: string) => fieldsAt(build, at).map(([name]) => name);
  const circuits = (build.circuits ?? []).map((circuit, index) => [circuit.kind, names(`/circuits/${index}/parts`)] as const);
  expect(circuits.length).toBeGreaterThan(0);
  for (const [kind, fields] of circuits) {
    expect(fields.includes("taps_ohm"), kind).toBe(kind === "hold_up");
    expect(fields.includes("led_good"), kind).toBe(kind === "battery_gauge");
  }
  const trike = demo("book-delivery-trike");
  const converter = { ...trike.converters[0]! };
  const of = (kind: string, own: object) => {
    trike.converters[0] = { ...converter, ...own, kind } as (typeof trike.converters)[number];
    return fieldsAt(trike, "/converters/0").map(([name]) => name);
  };
  // Figures of the kind stand before those that all have; what is only carried along is not edited.
  expect(of("buck", { set_v: 5 }).slice(0, 3)).toEqual(["set_v", "dropout_v", "efficiency"]);
  expect(of("current_driver", { set_a: 0.3 })).not.toContain("set_v");
  expect(of("linear", { set_v: 5 })).not.toContain("efficiency");
  expect(fieldAt(trike, "/converters/0/kind")).toMatchObject({ shape: "word", of: "ConverterKind" });
});

test("another kind keeps what both have, and begins what it needs", () => {
  const blink = { kind: "blink", period_s: 2, colours: [[1, 0, 0]], duty: 0.2, direction: -1 };
  expect(turned("PixelEffect", blink, "chase")).toEqual({ kind: "chase", period_s: 2, colours: [[1, 0, 0]], spread: 3, direction: -1 });
  expect(turned("PixelEffect", blink, "rainbow")).toEqual({ kind: "rainbow", period_s: 2, direction: -1 });
  expect(turned("PixelEffect", blink, "ember")).toEqual({ kind: "ember", colours: [[1, 0, 0]], seed: 0 });
});

test("every list whose members are fed is found in the table", () => {
  expect(
    fedLists()
      .map(([list, field, several]) => [list, field, several])
      .sort(),
  ).toEqual([
    ["circuits", "feed", false],
    ["controllers", "feed", false],
    ["converters", "feed", false],
    ["junctions", "feed", false],
    ["lights", "feeds", true],
  ]);
});
