import { readFileSync, readdirSync } from "node:fs";
import { expect, test } from "@playwright/test";
import { Ajv2020 } from "ajv/dist/2020.js";
import type { BenchCheck, Build, JournalEvent, Picture, Reach } from "../../web/src/api/client";
import { heatBranch, layout, ribbon } from "../../web/src/scene/river";
import { clear, fieldAt, fieldOf, put, valueAt } from "../../web/src/document/fields";
import { fileName } from "../../web/src/document/file";
import { type History, begin, reduce } from "../../web/src/document/history";
import { band, should } from "../../web/src/steps/bench/words";
import { dayName, doneOf, minutesSince, momentOf, sayMinutes, sayTime, ticksOf } from "../../web/src/steps/make/time";
import { SCREEN, codes, hexOf, screen, sharesOf } from "../../web/src/base/linear";
import { eventAt, eventOf, here, linesOf } from "../../web/src/journal/event";
import { type Named, placeLabels } from "../../web/src/scene/labels";
import { fieldText, giveOf, hours, of, parseGauge, parseQuantity, read as readQuantity, ruler, say, share, unitOf } from "../../web/src/units";

const demo = (name: string) => JSON.parse(readFileSync(new URL(`../../core/model/demo/${name}.json`, import.meta.url), "utf8")) as Build;

/** The page's own arithmetic: how figures are read and written, and the geometry of the river. No browser. */

test("figures are read as people type them", () => {
  const cases = [
    ["12", unitOf("V"), 12],
    ["12 V", unitOf("V"), 12],
    ["5v", unitOf("V"), 5],
    ["1,5 V", unitOf("V"), 1.5],
    [".5", unitOf("V"), 0.5],
    ["300mA", unitOf("A"), 0.3],
    ["300mA", unitOf("mA"), 0.3],
    ["0.3 A", unitOf("mA"), 0.3],
    ["7000 mAh", unitOf("Ah"), 7],
    ["2.2k", unitOf("ohm"), 2200],
    ["470 Ω", unitOf("ohm"), 470],
    ["18in", unitOf("m"), 0.4572],
    ['18 "', unitOf("m"), 0.4572],
    ["90 cm", unitOf("m"), 0.9],
    ["2 ft", unitOf("m"), 0.6096],
    ["18", unitOf("m", true), 0.4572],
    ["50cm", unitOf("m", true), 0.5],
  ] as const;
  for (const [text, unit, value] of cases) expect(parseQuantity(text, unit), text).toBeCloseTo(value, 9);
  for (const text of ["", "ten", "12 apples", "1.2.3", "--4", "1 2", "5 kg"]) expect(parseQuantity(text, unitOf("V")), text).toBeUndefined();
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

test("wires are read as people type them", () => {
  for (const text of ["22 AWG", "22awg", "22", " 22 awg "]) expect(parseGauge(text, false), text).toEqual({ awg: 22 });
  for (const text of ["0.5 mm2", "0,5mm²", "0.5mm2", "0.5 mm^2"]) expect(parseGauge(text, false), text).toEqual({ mm2: 0.5 });
  expect(parseGauge("0.75", true)).toEqual({ mm2: 0.75 });
  for (const text of ["thick", "0.5 awg", "99 awg", "0 mm2", "-1"]) expect(parseGauge(text, false), text).toBeUndefined();
});

test("figures are written as people say them", () => {
  const cases: [number, string, string][] = [
    [0.1842, "A", "184 mA"],
    [12, "V", "12.0 V"],
    [0.92, "1", "92.0 %"],
    [2200, "ohm", "2.20 kΩ"],
    [1.46e-26, "W", "0 W"],
    [27, "", "27"],
    [0.45, "m", "0.450 m"],
    [-3e-9, "A", "0 A"],
    [-1e-12, "W", "0 W"],
  ];
  for (const [value, unit, text] of cases) expect(readQuantity({ value, unit })).toBe(text);
  expect([0.5, 3.24, 46.4, 2400, null].map((value) => hours(value))).toEqual(["30 min", "3.2 h", "46 h", "100 days", "no end"]);
  expect([0.5, 0.004, 0.00001].map(share)).toEqual(["50 %", "0.4 %", "under 0.1 %"]);
  // What stands in a field gives itself back.
  for (const value of [0.0333333, 14, 1e-6, 123456]) expect(Number(fieldText(value))).toBeCloseTo(value, 6);
});

test("how far a figure may be off is said in the unit that it is said in", () => {
  const cases: [number, number | undefined, string, string][] = [
    [0.06, undefined, "Ah", "± 0.06 Ah"],
    [0.06, 12.4, "Ah", "± 0.06 Ah"],
    [0.06, -0.31, "Ah", "± 60 mAh"],
    [0.0004, 0.31, "Ah", "± 0.4 mAh"],
    [1.2, 14, "Ah", "± 1 Ah"],
    [0.002, 0.08, "ohm", "± 2 mΩ"],
    [0, undefined, "V", "± 0 V"],
  ];
  for (const [value, beside, unit, text] of cases) expect(giveOf({ value, unit }, beside), `${value} beside ${beside}`).toBe(text);
  // The figure and what stands beside it never differ in their prefix.
  for (let exponent = -2.9; exponent < 2.9; exponent += 0.07) {
    const value = 10 ** exponent;
    const unitOfFigure = say({ value, unit: "Ah" }).split(" ")[1];
    expect(giveOf({ value: value / 20, unit: "Ah" }, value).split(" ")[2], `${value} Ah`).toBe(unitOfFigure);
  }
});

test("a figure with its unit reads back as it is written", () => {
  for (const symbol of [
    "V",
    "A",
    "Ah",
    "Wh",
    "ohm",
    "W",
    "m",
    "kg",
    "g",
    "s",
    "Hz",
    "h",
    "min",
    "°C",
    "K",
    "lm",
    "%",
    "mA",
    "µF",
    "mm",
    "km/h",
    "ohm/m",
    "W/m",
  ]) {
    const unit = unitOf(symbol);
    const size = unit.size ?? 1;
    for (let step = 0; step < 60; step++) {
      // Spread over nine decades, some of them negative.
      const value = (step % 7 === 3 ? -1 : 1) * 10 ** (step / 6.7 - 4) * (1 + (step % 9) / 9);
      const text = `${fieldText(value / size)} ${unit.name}`;
      const read = parseQuantity(text.replace(/e[+-]\d+/, ""), unit);
      // A field never shows an exponent that it could not read; what is that small or large is none of a person's figures.
      if (/e[+-]\d+/.test(text)) continue;
      expect(Math.abs(read! / value - 1), `${text} of ${symbol}`).toBeLessThan(1e-5);
      expect(parseQuantity(text.replace(".", ","), unit), `${text} with a comma`).toBe(read);
    }
  }
});

test("every event has an id of its own that says when it was made, and an hour with its offset", () => {
  const before = Date.now();
  const events = Array.from({ length: 300 }, (_, number) => eventOf("note", { text: `${number}` }));
  const after = Date.now();
  expect(new Set(events.map((event) => event.id)).size).toBe(300);
  let last = 0;
  for (const { id, at } of events) {
    expect(id).toMatch(/^[0-9a-f]{8}-[0-9a-f]{4}-7[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/);
    const made = Number.parseInt(id.replace("-", "").slice(0, 12), 16);
    expect(made).toBeGreaterThanOrEqual(Math.max(before, last));
    expect(made).toBeLessThanOrEqual(after);
    last = made;
    expect(at).toMatch(/^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d[+-]\d\d:\d\d$/);
    expect(Math.abs(Date.parse(at) - made)).toBeLessThan(2000);
  }
  expect(Math.abs(Date.parse(here()) - Date.now())).toBeLessThan(2000);
  // A correction names what it corrects; nothing else does.
  const corrected = eventAt("charge", "2026-11-20T18:00:00+01:00", { ah: 3.2 } as never, events[0]!.id);
  expect(corrected.replaces).toBe(events[0]!.id);
  expect("replaces" in eventAt("charge", corrected.at, { ah: 3.2 } as never)).toBe(false);
  // One a line, each readable by itself.
  const lines = linesOf([...events, corrected])
    .trimEnd()
    .split("\n");
  expect(lines.map((line) => JSON.parse(line) as unknown)).toEqual([...events, corrected]);
});

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

const typed = (state: History<string>, build: string, touched: string, at: number) => reduce(state, { kind: "edit", build, touched, at });
const back = (state: History<string>) => reduce(state, { kind: "undo" });
const again = (state: History<string>) => reduce(state, { kind: "redo" });

test("what is typed into one field in one go is undone in one go", () => {
  let state = begin("");
  for (const [index, build] of ["t", "tr", "tri"].entries()) state = typed(state, build, "name", 1000 + 200 * index);
  expect(state.now).toBe("tri");
  expect(back(state).now).toBe("");
  // A pause, or another field, is a step of its own.
  const later = typed(state, "trike", "name", 5000);
  expect(back(later).now).toBe("tri");
  const other = typed(state, "tri, 14 Ah", "capacity", 1500);
  expect(back(other).now).toBe("tri");
  expect(back(back(other)).now).toBe("");
});

test("undo and redo walk the same way, until something new is done", () => {
  let state = begin("one");
  for (const [index, build] of ["two", "three", "four"].entries()) state = typed(state, build, `field ${index}`, 0);
  const seen = [state.now];
  for (let n = 0; n < 4; n++) seen.push((state = back(state)).now);
  expect(seen).toEqual(["four", "three", "two", "one", "one"]);
  expect(again(state).now).toBe("two");
  expect(again(again(again(again(state)))).now).toBe("four");
  // After an undo the same field begins a new step.
  const changed = typed(again(state), "two and a half", "field 0", 1);
  expect(again(changed).now).toBe("two and a half");
  expect(back(changed).now).toBe("two");
  // A whole other document can be undone too.
  const replaced = reduce(changed, { kind: "replace", build: "theirs" });
  expect([replaced.now, back(replaced).now]).toEqual(["theirs", "two and a half"]);
});

test("a long afternoon is remembered for three hundred steps", () => {
  let state = begin("0");
  for (let n = 1; n <= 1000; n++) state = typed(state, `${n}`, "", n * 10_000);
  let steps = 0;
  for (let now = state; back(now) !== now; now = back(now)) steps++;
  expect(steps).toBe(300);
});

test("a field of the document says its own unit", () => {
  const strip = { segment_m: 0.05, voltage_v: 12, power_w_per_m: 14.4, rail_ohm_per_m: 0.06, count: 3 };
  expect(ruler(of(strip, "segment_m"))).toBe("5.00 cm");
  expect(ruler(of(strip, "segment_m"), true)).toBe("1.97 in");
  expect(ruler(of({ pitch_m: 0.0069 }, "pitch_m"))).toBe("6.9 mm");
  expect(readQuantity(of(strip, "power_w_per_m"))).toBe("14.4 W/m");
  expect(readQuantity(of(strip, "rail_ohm_per_m"))).toBe("0.0600 Ω/m");
  expect(readQuantity(of(strip, "voltage_v"))).toBe("12.0 V");
});

test("names on a drawing lie neither on each other nor on a light", () => {
  const frame = { left: -36, right: 596, top: -8, bottom: 304 };
  const near = (count: number): Named[] =>
    Array.from({ length: count }, (_, n) => ({ id: `light-${n}`, x: 200 + 46 * (n % 4), y: 120 + 30 * Math.floor(n / 4), radius: 9 }));
  for (const count of [1, 2, 4, 8]) {
    const things = near(count);
    const pack = { id: "pack", x: 318, y: 178, radius: 17 };
    const labels = placeLabels(things, [pack], frame);
    const boxes = things.map(({ id }) => {
      const { x, y, anchor } = labels.get(id)!;
      const width = 8.4 * id.length;
      const left = anchor === "start" ? x : anchor === "end" ? x - width : x - width / 2;
      return { left, right: left + width, top: y - 14, bottom: y + 4 };
    });
    for (const [index, a] of boxes.entries()) {
      expect(a.left).toBeGreaterThanOrEqual(frame.left);
      expect(a.right).toBeLessThanOrEqual(frame.right);
      // Up to four side by side there is room for all.
      if (count > 4) continue;
      for (const b of boxes.slice(index + 1)) expect(a.right <= b.left || b.right <= a.left || a.bottom <= b.top || b.bottom <= a.top, `${count}`).toBe(true);
      for (const { x, y } of [...things, pack]) expect(x < a.left || x > a.right || y < a.top || y > a.bottom).toBe(true);
    }
  }
});

/** A source, a converter that loses a fifth, and so many lights of a watt each; the last one is off. */
function picture(lights: number): Picture {
  const reach = (id: string, kind: Reach["kind"], from: string | null, sent_w: number, arrives_w: number, leaves_w: number): Reach => ({
    id,
    name: id,
    kind,
    from,
    sent_w,
    arrives_w,
    leaves_w,
    unfused: false,
    facts: [],
  });
  const lit = Math.max(1, lights - 1);
  const reaches = [reach("source", "source", null, 1.25 * lit, 1.25 * lit, 1.25 * lit), reach("module", "converter", "source", 1.25 * lit, 1.25 * lit, lit)];
  for (let n = 0; n < lights; n++) reaches.push(reach(`light-${n}`, "light", "module", n < lit ? 1 : 0, n < lit ? 1 : 0, n < lit ? 1 : 0));
  return { scene: "on", state: "full", source_w: 1.25 * lit, lights_w: lit, heat_w: 0.25 * lit, reaches, glows: [] };
}

for (const lights of [1, 2, 6, 12, 30, 60]) {
  test(`a river of ${lights} lights is true to scale and stays apart`, () => {
    const [width, offered] = [540, 320];
    const river = layout(picture(lights), width, offered);
    expect(river.stands).toHaveLength(lights + 2);
    const leaves = river.stands.filter((stand) => stand.reach.kind === "light").sort((a, b) => a.top - b.top);
    for (const stand of river.stands) {
      expect(stand.top).toBeGreaterThanOrEqual(0);
      expect(stand.top + stand.height).toBeLessThanOrEqual(river.height);
      expect(stand.x + stand.width).toBeLessThan(width);
      // Thickness is watts times one scale for all; what is off is still a line.
      if (stand.reach.arrives_w * river.scale > 2) expect(stand.height).toBeCloseTo(stand.reach.arrives_w * river.scale, 6);
      else expect(stand.height).toBe(2);
      if (stand.parent) expect(ribbon(stand)).toMatch(/^M[\d.]+ [\d.]+C/);
    }
    // Every light has room for its words.
    const line = river.dense ? 15 : 30;
    for (const [index, stand] of leaves.slice(1).entries()) {
      const before = leaves[index]!;
      expect(stand.top + stand.height / 2 - (before.top + before.height / 2)).toBeGreaterThanOrEqual(line);
    }
    const module = river.stands[1]!;
    // The mouths at the module follow each other without a gap.
    for (const [index, child] of module.children.slice(1).entries()) {
      const before = module.children[index]!;
      expect(child.mouth.top - before.mouth.top).toBeCloseTo(before.reach.sent_w * river.scale, 6);
    }
    const heat = heatBranch(module, river.scale);
    if (heat) expect(heat.heat_w).toBeCloseTo(0.25 * Math.max(1, lights - 1), 9);
  });
}

test("what a battery goes through is said as people say it", () => {
  const cases: [number, string, string][] = [
    [0.2041, "1", "20 %"],
    [0, "1", "0 %"],
    [0.5, "d", "12 h"],
    [19.4, "d", "19 days"],
    [200, "d", "7 months"],
    [900, "d", "over two years"],
    [0, "min", "0 min"],
    [0.77, "min", "46 s"],
    [90, "min", "90 min"],
    [21.3, "s", "21 s"],
    [54.6, "€", "€ 55"],
    [1541, "g", "1.54 kg"],
    [0.076, "km", "76 m"],
    [4.996, "", "5"],
    [159, "", "159"],
    [1250, "Ah", "1250 Ah"],
    [0.433, "Ah", "433 mAh"],
    [12.6, "V", "12.6 V"],
  ];
  for (const [value, unit, words] of cases) expect(say({ value, unit }), `${value} ${unit}`).toBe(words);
});

test("the schema accepts every sample build and refuses what the program refuses", () => {
  const read = (path: string) => JSON.parse(readFileSync(new URL(`../../${path}`, import.meta.url), "utf8")) as Record<string, never>;
  const valid = new Ajv2020({ strict: false, validateFormats: false, allErrors: true }).compile(read("docs/orthavis.build-1.schema.json"));
  for (const folder of ["core/model/demo", "core/testing/cases"])
    for (const file of readdirSync(new URL(`../../${folder}`, import.meta.url)).filter((name) => name.endsWith(".json") && !name.includes("expected"))) {
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
  const from = (path: string) => new URL(`../../${path}`, import.meta.url);
  const known = new Set((JSON.parse(readFileSync(from("core/model/data/glossary.json"), "utf8")) as { term: string }[]).map((entry) => entry.term));
  const marked = new Map<string, string>();
  for (const file of readdirSync(from("web/src"), { recursive: true, encoding: "utf8" }).filter((name) => name.endsWith(".tsx")))
    for (const [, word] of readFileSync(from(`web/src/${file}`), "utf8").matchAll(/(?:term|<Term word)="([^"]+)"/g)) marked.set(word!, file);
  const fields = JSON.parse(readFileSync(from("web/src/api/fields.json"), "utf8")) as { objects: Record<string, Record<string, { term?: string }>> };
  for (const [object, known] of Object.entries(fields.objects)) for (const { term } of Object.values(known)) if (term) marked.set(term, object);
  expect(marked.size).toBeGreaterThan(30);
  for (const [word, file] of marked) expect(known.has(word), `${word} in ${file}`).toBe(true);
});

test("a step is done when its newest word says so", () => {
  const tick = (step: unknown, state: unknown, at: string) => ({ kind: "tick", at, data: { step, state } }) as unknown as JournalEvent;
  const ticks = ticksOf([
    tick("crimp", "done", "2026-11-27T10:00:00+01:00"),
    tick("fuse", "done", "2026-11-27T11:00:00+01:00"),
    // Written later, but of an earlier hour by the clocks of the world.
    tick("crimp", "wrong", "2026-11-27T08:30:00Z"),
    tick("fuse", "undone", "2026-11-27T10:30:00Z"),
    tick("paint", "half", "2026-11-27T12:00:00Z"),
    tick(7, "done", "2026-11-27T12:00:00Z"),
    // Of the same moment the later word counts.
    tick("tape", "done", "2026-11-27T12:00:00Z"),
    tick("tape", "wrong", "2026-11-27T12:00:00Z"),
  ]);
  expect([...ticks.values()].map(({ step, state }) => `${step} ${state}`)).toEqual(["crimp done", "fuse undone", "tape wrong"]);
  const day = dayName(new Date("2026-11-27T10:00:00+01:00"));
  const [only, ...others] = doneOf(ticks, day);
  expect([only!.step, others]).toEqual(["crimp", []]);
  expect(momentOf(day, only!.at).toISOString()).toBe("2026-11-27T09:00:00.000Z");
});

test("minutes of a day are counted from its midnight, by the clock on the wall", () => {
  const moment = momentOf("2026-03-05", 18 * 60 + 30);
  expect([dayName(moment), sayTime(moment), minutesSince("2026-03-05", moment)]).toEqual(["2026-03-05", "18:30", 1110]);
  expect([dayName(momentOf("2026-02-28", 1500)), dayName(momentOf("2026-01-01", -1))]).toEqual(["2026-03-01", "2025-12-31"]);
  for (const [minutes, said] of [
    [0, "1 min"],
    [0.4, "1 min"],
    [89.4, "89 min"],
    [90, "1.5 h"],
    [600, "10 h"],
    [2160, "1.5 days"],
    [5000, "3.5 days"],
  ] as const)
    expect(sayMinutes(minutes)).toBe(said);
});

test("a colour of light is bent for the screen and back", () => {
  expect([screen(0), screen(1), screen(2), screen(0.5), screen(0.001)]).toEqual([0, 255, 255, 188, 3]);
  expect([hexOf([1, 0, 0.5]), sharesOf("#ff00bc")]).toEqual(["#ff00bc", [1, 0, 0.503]]);
  // Whatever a colour field can say comes back as it was.
  for (let code = 0; code < 256; code++) {
    const hex = `#${code.toString(16).padStart(2, "0").repeat(3)}`;
    const back = parseInt(hexOf(sharesOf(hex)).slice(1, 3), 16);
    expect(Math.abs(back - code), `${hex} came back as ${back}`).toBeLessThanOrEqual(code < 20 ? 2 : 1);
    expect(SCREEN[code]).toBe(screen(code / 255));
    if (code > 0) expect(SCREEN[code]! >= SCREEN[code - 1]!, "brighter light is no darker on the screen").toBe(true);
  }
  const into = new Uint8Array(4);
  codes("xx00ff7f10", 2, 4, into);
  expect([...into]).toEqual([0, 255, 127, 16]);
});

test("what a meter should read is said so that it can be read off it", () => {
  const check = (more: Partial<BenchCheck>) => ({ unit: "V", expected: 5, low: null, high: null, ...more }) as BenchCheck;
  expect(should(check({}))).toBe(say({ value: 5, unit: "V" }));
  expect(should(check({ expected: null }))).toBe("open");
  expect([0.02, 0.5].map((expected) => should(check({ unit: "ohm", expected })))).toEqual(["next to nothing", say({ value: 0.5, unit: "ohm" })]);
  const [low, high] = [say({ value: 4.8, unit: "V" }), say({ value: 5.2, unit: "V" })];
  expect([band(check({ low: 4.8, high: 5.2 })), band(check({ low: 4.8 })), band(check({ high: 5.2 })), band(check({}))]).toEqual([
    `${low} to ${high}`,
    `more than ${low}, or open`,
    `less than ${high}`,
    "anything",
  ]);
});
