import { readFileSync } from "node:fs";
import { type APIRequestContext, expect, test } from "@playwright/test";
import { Ajv2020, type ValidateFunction } from "ajv/dist/2020.js";

/** Every operation of the API with good and bad requests: each answer is one that the description names, in its shape. */

type Json = Record<string, unknown>;
interface Operation {
  requestBody?: unknown;
  parameters?: { name: string }[];
  responses: Record<string, { content?: Record<string, { schema: unknown }> }>;
}

const sample = (name: string) => JSON.parse(readFileSync(new URL(`../../core/model/demo/${name}.json`, import.meta.url), "utf8")) as Json;
const van = sample("puppet-stage");
const trike = sample("book-delivery-trike");
const drill = { document: trike, scene: "ride", level: 3, seed: 1 };
const work = { document: trike, day: "2026-11-27", now: 1140, done: [{ step: "fit", at: 1130 }] };
const part = {
  id: "my-led",
  name: "My LED",
  figures_from: "its datasheet",
  what: { kind: "led", led: { colour: "red", vf_v: 2, if_a: 0.02, if_max_a: 0.03, n: null, rs_ohm: null } },
};
const ride = { id: "01900000-0000-7000-8000-000000000001", at: "2026-05-02T18:40:00+02:00", kind: "ride", data: { minutes: 40 } };
const lived = { ...ride, data: { minutes: { ride: 40 }, temperature_c: 3 } };
const pack = Object.fromEntries(Object.entries(trike["source"] as Json).filter(([name]) => name !== "kind"));
const PHOTO = Buffer.from([0xff, 0xd8, 0xff, 0xe0, 1, 2, 3]);
/** What takes bytes that are no JSON. */
const BYTES = ["PUT /api/v1/builds/{id}/photos/{event}", "POST /api/v1/workshop/look", "POST /api/v1/workshop/restore"];
const whatIf = { brightness_factor: 0.5, capacity_factor: 2, temperature_c: 10, hours_factor: 1 };

/** Good bodies by operation; those that need none are named with null. `{id}` is a build that is there. */
const GOOD: Record<string, unknown[]> = {
  "GET /api/v1/builds": [null],
  "GET /api/v1/samples": [null],
  "POST /api/v1/builds": [van],
  "GET /api/v1/builds/{id}": [null],
  "PUT /api/v1/builds/{id}": [{ ...trike, name: "Saved" }],
  "DELETE /api/v1/builds/{id}": [null],
  "POST /api/v1/builds/{id}/undelete": [null],
  "GET /api/v1/builds/{id}/text": [null],
  "POST /api/v1/builds/{id}/rename": [{ name: "Renamed" }],
  "POST /api/v1/builds/{id}/duplicate": [null],
  "GET /api/v1/builds/{id}/revisions": [null],
  "POST /api/v1/builds/{id}/revisions/{revision}/restore": [null],
  "PUT /api/v1/builds/{id}/revisions/{revision}/label": [{ label: "as drawn first" }],
  "GET /api/v1/builds/{id}/journal": [null],
  "POST /api/v1/builds/{id}/journal": [{ events: [ride] }],
  "GET /api/v1/builds/{id}/journal/export": [null],
  "POST /api/v1/builds/{id}/journal/import": [
    { format: "jsonl", text: `${JSON.stringify(ride)}\n` },
    { format: "csv", text: `id,at,kind,replaces,data\r\n${ride.id},${ride.at},note,,"{""text"":""dry""}"\r\n` },
  ],
  "GET /api/v1/builds/{id}/sheet": [null],
  "GET /api/v1/instruments": [null],
  "PUT /api/v1/instruments": [{ on: false }],
  "PUT /api/v1/instruments/bench": [{ document: van, scene: "show", state: "half", faults: ["tired@source"] }],
  "GET /api/v1/me": [null],
  "GET /api/v1/garage": [null],
  "POST /api/v1/garage/code": [null],
  "POST /api/v1/garage/door": [{ address: "127.0.0.2" }],
  "DELETE /api/v1/garage/door": [null],
  "POST /api/v1/garage/pair": [{ code: "ABCDEF", name: "Phone" }],
  "PUT /api/v1/garage/devices/{id}": [{ may_edit: true }],
  "DELETE /api/v1/garage/devices/{id}": [null],
  "POST /api/v1/starter": [{ name: "New", vehicle: "drone", chemistry: "lipo", series: 4, capacity_ah: 1.5 }],
  "POST /api/v1/verdict": [{ document: van }, { document: sample("owl-hexacopter") }],
  "POST /api/v1/solve": [{ document: van }, { document: trike, scene: "ride", state: "half" }, { document: sample("owl-hexacopter") }],
  "POST /api/v1/remedies": [{ document: van }, { document: sample("camp-rover") }],
  "POST /api/v1/jobs": [
    { kind: "mend", document: van },
    { kind: "mend", document: sample("trail-deck") },
  ],
  "GET /api/v1/jobs/{job}": [null],
  "GET /api/v1/jobs/{job}/events": [null],
  "DELETE /api/v1/jobs/{job}": [null],
  "POST /api/v1/report": [{ document: van }, { document: sample("choir-chair") }],
  "POST /api/v1/apply": [{ document: trike, changes: [{ op: "replace", path: "/name", value: "Other" }] }],
  "POST /api/v1/remove": [
    { document: trike, part: { kind: "light", id: "tail" } },
    { document: trike, part: { kind: "converter", id: "step-down-12v" } },
  ],
  "POST /api/v1/adding": [
    { document: trike, part: { kind: "leds", colour: "red", count: 5, place: "rear", length_m: 1 } },
    { document: trike, part: { kind: "step_down", set_v: 5 } },
  ],
  "POST /api/v1/add": [
    { document: trike, part: { kind: "leds", colour: "red", count: 4, place: "rear", length_m: 1 } },
    { document: trike, part: { kind: "step_down", set_v: 5 } },
    { document: trike, part: { kind: "copy_light", id: "tail" } },
    { document: trike, part: { kind: "junction", from: "source" } },
    { document: trike, part: { kind: "scene", like: "ride" } },
    { document: trike, part: { kind: "standing" } },
    { document: trike, part: { kind: "own_bulb", draw: "filament", holder: "BA15s", volts: 12, watts: 5, lumens: 50, colour_k: 2700 } },
    { document: trike, part: { kind: "rail" } },
    { document: trike, part: { kind: "light", part, count: 3, place: "rear", length_m: 1 } },
  ],
  "POST /api/v1/choose": [
    { document: trike, question: { kind: "strings", light: "tail", series: "e24" } },
    { document: trike, question: { kind: "supply", light: "tail" } },
    { document: trike, question: { kind: "wire", feed: "tail" } },
    { document: trike, question: { kind: "fuse", feed: "step-down-12v" } },
    { document: van, question: { kind: "strip", light: "stage-edge" } },
  ],
  "POST /api/v1/size": [{ document: van }],
  "POST /api/v1/label": [{ text: "36V 14Ah" }],
  "POST /api/v1/designs": [
    {
      wish: {
        format: "orthavis.wish/1",
        vehicle: { kind: "bicycle" },
        battery: null,
        own_pack: "must",
        lights: [{ place: "handlebar", for: "see", colour: "white", count: 1 }],
        hours: 2,
        hands: "plug",
      },
    },
  ],
  "POST /api/v1/measures": [{ document: van }],
  "POST /api/v1/night/scenery": [{ document: trike, from: "behind", wide: 64, high: 36 }],
  "POST /api/v1/night": [{ document: trike, from: "behind", sky: "street", wide: 64, high: 36 }],
  "POST /api/v1/measured": [{ document: trike, volts: 38 }],
  "GET /api/v1/reference": [null],
  "GET /api/v1/parts": [null],
  "PUT /api/v1/parts/{id}": [part],
  "DELETE /api/v1/parts/{id}": [null],
  "POST /api/v1/drain": [{ document: van }, { document: sample("owl-hexacopter") }],
  "POST /api/v1/discharge": [{ document: van, scene: "show" }],
  "POST /api/v1/what-if": [{ document: trike, scene: "ride", change: whatIf }],
  "POST /api/v1/what-if/csv": [{ document: trike, scene: "ride", change: whatIf }],
  "POST /api/v1/tables": [{ document: van }, { document: sample("owl-hexacopter") }],
  "POST /api/v1/csv": [{ document: van, table: "discharge" }],
  "POST /api/v1/faults": [{ document: van }],
  "POST /api/v1/probe": [
    { document: van, scene: "show" },
    { document: trike, scene: "ride", state: "half", faults: ["weak_joint@tail:to+=3"], ohms: [["source+", "source-"]], meter: 5, aftermath: true },
  ],
  "POST /api/v1/pinch": [{ document: trike, feed: "tail", at: 0.5 }],
  "POST /api/v1/expect": [{ document: van }, { document: trike, state: "half" }],
  "POST /api/v1/correct": [
    {
      document: trike,
      read: [
        { check: "rest", state: "half", value: 37.1 },
        { check: "light-tail", state: "half", value: 12.4 },
        { check: "scene-ride-source", state: "half", value: 0.07 },
      ],
    },
  ],
  "POST /api/v1/diagnose": [
    {
      document: trike,
      scene: "ride",
      saw: [{ light: "tail", symptom: "dark" }],
      read: [
        { setting: "volts", probes: ["tail:to+", "tail:to-"], value: 0 },
        { setting: "ohms", probes: ["tail:from+", "tail:to+"], value: null },
      ],
      pairs: true,
    },
  ],
  "POST /api/v1/practice": [{ document: trike, done: [{ topic: "level-1", day: 20000, good: false }], today: 20003 }],
  "POST /api/v1/lesson": [{ lesson: "strip" }],
  "POST /api/v1/drill": [drill],
  "POST /api/v1/measure": [
    {
      drill,
      power: true,
      setting: "volts",
      probes: ["source+", "source-"],
      meter: { serial: 7, amps_fuse: true, milliamps_fuse: true, zeroed: false },
    },
  ],
  "POST /api/v1/answer": [{ drill, guess: null }],
  "POST /api/v1/drawings": [{ kind: "drone", variant: "quadcopter" }],
  "POST /api/v1/light": [{ document: trike, around: "dark" }],
  "POST /api/v1/look": [{ document: trike, air: "fog" }],
  "POST /api/v1/make": [work],
  "POST /api/v1/make/csv": [{ of: { document: trike, stock: { "cable tie": 80 } }, table: "parts" }],
  "POST /api/v1/make/calendar": [{ work, made: "20261126T120000Z" }],
  "POST /api/v1/cuts": [{ document: van }],
  "POST /api/v1/shopping": [{ document: van, stock: { "cable tie": 80 } }],
  "POST /api/v1/diagram": [{ document: van }],
  "POST /api/v1/diagram/svg": [{ document: van }],
  "POST /api/v1/diagram/dot": [{ document: van }],
  "POST /api/v1/fit": [{ document: van }],
  "GET /api/v1/controller": [null],
  "PUT /api/v1/controller": [{ play: { document: sample("owl-hexacopter"), scene: "homing", inputs: { turn: "left" }, speed: 0.5 } }, { play: null }],
  "POST /api/v1/show": [{ document: sample("owl-hexacopter"), scene: "gauge", inputs: { battery: 0.4 } }],
  "POST /api/v1/show/frames": [{ document: sample("owl-hexacopter"), scene: "homing", frames: 5, delivered: true }],
  "POST /api/v1/show/arrives": [{ document: sample("owl-hexacopter"), scene: "landing" }],
  "POST /api/v1/show/cards": [{ document: sample("owl-hexacopter") }],
  "POST /api/v1/show/sort": [{ document: sample("owl-hexacopter"), output: "owl-brain/D2", seen: [{ lights: ["left"], far: true }] }],
  "POST /api/v1/show/json": [{ document: sample("owl-hexacopter"), scene: "homing", frames: 2 }],
  "POST /api/v1/show/csv": [{ document: sample("owl-hexacopter"), scene: "homing", frames: 2 }],
  "POST /api/v1/show/map": [{ document: sample("owl-hexacopter") }],
  "POST /api/v1/show/header": [{ document: sample("owl-hexacopter"), scene: "homing" }],
  "POST /api/v1/show/source": [{ document: sample("owl-hexacopter"), scene: "homing" }],
  "POST /api/v1/circuit": [{ document: sample("railway-coach"), circuit: "window-keeper" }],
  "POST /api/v1/circuit/view": [{ document: sample("railway-coach"), circuit: "window-keeper" }],
  "POST /api/v1/circuit/choose": [{ document: sample("railway-coach"), circuit: "window-keeper", wanted: { half_s: 1 } }],
  "POST /api/v1/circuit/board": [{ document: sample("railway-coach"), circuit: "window-keeper" }],
  "POST /api/v1/pins": [{ pins: 3, logic_v: 3.3, vf_v: 2, pin_max_a: 0.02, ohm: 50 }],
  "POST /api/v1/circuit/netlist": [{ document: sample("railway-coach"), circuit: "window-keeper", state: "track" }],
  "POST /api/v1/circuit/csv": [{ document: sample("railway-coach"), circuit: "window-keeper" }],
  "POST /api/v1/netlist": [{ document: van, scene: "show" }],
  "POST /api/v1/labels": [{ document: van }],
  "POST /api/v1/journal": [{ document: trike, events: [lived], now: "2026-05-12T08:00:00+02:00" }],
  "POST /api/v1/journal/proven": [{ document: trike, events: [lived], now: "2026-05-12T08:00:00+02:00" }],
  "POST /api/v1/journal/due": [{ document: trike, events: [lived], now: "2026-05-12T08:00:00+02:00" }],
  "POST /api/v1/journal/csv": [{ document: trike, events: [lived], now: "2026-05-12T08:00:00+02:00" }],
  "POST /api/v1/journal/calendar": [{ document: trike, events: [lived], now: "2026-05-12T08:00:00+02:00" }],
  "POST /api/v1/journal/svg": [{ document: trike, events: [lived], now: "2026-05-12T08:00:00+02:00", chart: "temperature" }],
  "POST /api/v1/journal/said": [{ document: trike, text: "ride 40 min, 3 °C", now: "2026-05-12T08:00:00+02:00" }],
  "POST /api/v1/journal/pack": [{ pack: "mine", battery: pack, builds: [{ document: trike, events: [lived] }], now: "2026-05-12T08:00:00+02:00" }],
  "GET /api/v1/packs/{pack}": [null],
  "GET /api/v1/builds/{id}/due": [null],
  "GET /api/v1/builds/{id}/photos/{event}": [null],
  "PUT /api/v1/builds/{id}/photos/{event}": [PHOTO],
  "GET /api/v1/drawer/csv": [null],
  "POST /api/v1/drawer/csv": [{ text: "name,count\r\nclip,3\r\n" }],
  "GET /api/v1/workshop/backup": [null],
  "POST /api/v1/workshop/look": ["a backup"],
  "POST /api/v1/workshop/restore": ["a backup"],
  "GET /api/v1/workshop/export": [null],
  "POST /api/v1/workshop/import": [{ format: "orthavis.workshop/1", builds: [], parts: [], stock: { clip: 4 } }],
  "GET /api/v1/stock": [null],
  "PUT /api/v1/stock": [{ part: "cable tie", count: 80 }],
};

/** What is refused here, with its status: it is for devices on the network, or the instruments are off. */
const HERE: Record<string, number> = { "POST /api/v1/garage/pair": 409, "PUT /api/v1/instruments/bench": 409 };

/** Bad bodies by operation, each with the status that it must get. */
const BAD: Record<string, [unknown, number][]> = {
  "POST /api/v1/solve": [
    [{ document: trike, state: "banana" }, 422],
    [{ document: { ...trike, lights: "none" } }, 422],
  ],
  "POST /api/v1/choose": [
    [{ document: trike, question: { kind: "strings", light: "tail", series: "banana" } }, 422],
    [{ document: trike, question: { kind: "banana", light: "tail" } }, 400],
    [{ document: trike, question: { kind: "wire", feed: "nowhere" } }, 422],
  ],
  "POST /api/v1/show": [
    [{ document: sample("owl-hexacopter"), scene: "nap" }, 422],
    [{ document: sample("owl-hexacopter"), scene: "gauge", inputs: { banana: 1 } }, 422],
    [{ document: sample("owl-hexacopter"), scene: "gauge", inputs: { turn: "up" } }, 422],
  ],
  "PUT /api/v1/controller": [
    [{ play: { document: sample("owl-hexacopter"), scene: "nap" } }, 422],
    [{ play: { document: sample("owl-hexacopter"), scene: "gauge", speed: 99 } }, 422],
  ],
  "POST /api/v1/starter": [[{ name: "New", vehicle: "banana", chemistry: "lipo", series: 4, capacity_ah: 1.5 }, 422]],
  "POST /api/v1/label": [[{ text: "hello" }, 422]],
  "POST /api/v1/designs": [[{ wish: { format: "orthavis.wish/1" } }, 422]],
  "POST /api/v1/night": [[{ document: trike, from: "moon", sky: "street", wide: 64, high: 36 }, 422]],
  "POST /api/v1/apply": [
    [{ document: trike, changes: [{ op: "remove", path: "/nowhere" }] }, 422],
    [{ document: trike, changes: Array.from({ length: 40 }, (_, n) => ({ op: "copy", from: "", path: `/c${n}` })) }, 422],
  ],
  "POST /api/v1/what-if": [
    [{ document: trike, scene: "banana", change: whatIf }, 422],
    [{ document: trike, scene: "ride", change: { ...whatIf, hours_factor: 1000 } }, 422],
  ],
  "POST /api/v1/discharge": [[{ document: van, scene: "banana" }, 422]],
  "POST /api/v1/csv": [[{ document: van, table: "banana" }, 422]],
  "POST /api/v1/measured": [[{ document: sample("owl-hexacopter"), volts: 5 }, 422]],
  "POST /api/v1/remove": [
    [{ document: trike, part: { kind: "light", id: "nobody" } }, 422],
    [{ document: trike, part: { kind: "banana", id: "tail" } }, 400],
  ],
  "POST /api/v1/adding": [[{ document: trike, part: { kind: "leds", colour: "plaid", count: 4, place: "rear", length_m: 1 } }, 422]],
  "POST /api/v1/add": [
    [{ document: trike, part: { kind: "leds", colour: "plaid", count: 4, place: "rear", length_m: 1 } }, 422],
    [{ document: trike, part: { kind: "banana" } }, 422],
  ],
  "POST /api/v1/journal": [
    [{ document: trike, events: [{ ...ride, kind: "A party" }], now: ride.at }, 422],
    [{ document: trike, events: [], now: "now" }, 422],
  ],
  "POST /api/v1/journal/said": [[{ document: trike, text: "danced", now: ride.at }, 422]],
  "POST /api/v1/journal/svg": [[{ document: trike, events: [lived], now: ride.at, chart: "banana" }, 422]],
  "POST /api/v1/workshop/look": [["Dear aunt", 422]],
  "POST /api/v1/workshop/restore": [["Dear aunt", 422]],
  "POST /api/v1/workshop/import": [[{ format: "orthavis.workshop/9", builds: [], parts: [], stock: {} }, 422]],
  "PUT /api/v1/instruments": [[{ on: true }, 422]],
  "PUT /api/v1/instruments/bench": [
    [{ document: van, scene: "banana" }, 422],
    [{ document: van, state: "rail" }, 422],
    [{ document: van, faults: ["open@nowhere:to+"] }, 422],
  ],
  "GET /api/v1/builds": [],
};

test("every operation answers as it is described", async ({ request, playwright }) => {
  test.setTimeout(120_000);
  const api = (await (await request.get("/api/v1/openapi.json")).json()) as { paths: Record<string, Record<string, Operation>> };
  const ajv = new Ajv2020({ strict: false, validateFormats: false, allErrors: true });
  ajv.addSchema(api, "api");
  const shapes = new Map<string, ValidateFunction>();
  const shape = (path: string, method: string, status: string, kind: string) => {
    const pointer = ["paths", path, method, "responses", status, "content", kind, "schema"]
      .map((key) => encodeURIComponent(key.replaceAll("~", "~0").replaceAll("/", "~1")))
      .join("/");
    const known = shapes.get(pointer) ?? ajv.compile({ $ref: `api#/${pointer}` });
    shapes.set(pointer, known);
    return known;
  };
  /** A device that was let in by a code, as one on the network is. */
  const paired = async () => {
    const { code, address } = (await (await request.post("/api/v1/garage/code")).json()) as { code: string; address: string };
    const phone = await playwright.request.newContext({ baseURL: new URL(address).origin });
    expect((await phone.post("/api/v1/garage/pair", { data: { code, name: "Phone" } })).status()).toBe(201);
    await phone.dispose();
    return ((await (await request.get("/api/v1/garage")).json()) as { devices: { id: number }[] }).devices[0]!.id;
  };
  // References within the description are relative to it.
  const wrong: string[] = [];
  const seen = new Set<string>();

  const ask = async (path: string, method: string, at: string, options: Parameters<APIRequestContext["fetch"]>[1], expected?: number) => {
    const response = await request.fetch(at, { method: method.toUpperCase(), ...options });
    const status = String(response.status());
    const name = `${method.toUpperCase()} ${path} ${status}`;
    seen.add(`${method.toUpperCase()} ${path}`);
    if (expected !== undefined && response.status() !== expected) wrong.push(`${name}: expected ${expected}: ${(await response.text()).slice(0, 300)}`);
    const described = api.paths[path]![method]!.responses[status];
    if (!described) {
      wrong.push(`${name} is not described`);
      return response;
    }
    if (response.headers()["cache-control"] !== "no-store") wrong.push(`${name} may be stored`);
    const kind = (response.headers()["content-type"] ?? "").split(";")[0]!;
    const kinds = Object.keys(described.content ?? {});
    if (kinds.length === 0) return response;
    if (!kinds.includes(kind)) wrong.push(`${name}: answers in ${kind}, described as ${kinds.join()}`);
    else if (kind.endsWith("json")) {
      const valid = shape(path, method, status, kind);
      if (!valid(await response.json())) wrong.push(`${name}: ${JSON.stringify(valid.errors?.slice(0, 3))}`);
    }
    return response;
  };

  const mending = async () => ((await (await request.post("/api/v1/jobs", { data: { kind: "mend", document: van } })).json()) as { id: number }).id;
  for (const [path, methods] of Object.entries(api.paths))
    for (const [method, operation] of Object.entries(methods)) {
      const name = `${method.toUpperCase()} ${path}`;
      const goods = GOOD[name];
      expect(goods, `no good request for ${name}`).toBeDefined();
      for (const one of goods!) {
        // A build of its own for each, so that one does not hang on another.
        const made = (await (await request.post("/api/v1/builds", { data: trike })).json()) as { id: number };
        // Nothing is newer than a backup that was just made.
        const good = one === "a backup" ? await (await request.get("/api/v1/workshop/backup")).body() : one;
        if (name.endsWith("/undelete")) await request.delete(`/api/v1/builds/${made.id}`, { headers: { "if-match": '"1"' } });
        if (name === "DELETE /api/v1/parts/{id}") await request.put(`/api/v1/parts/${part.id}`, { data: part });
        const job = path.includes("{job}") ? await mending() : 0;
        const thing = path.includes("/parts/") ? part.id : path.includes("/devices/") ? await paired() : made.id;
        const rest = (text: string) => text.replace("{revision}", "1").replace("{event}", ride.id);
        if (name.startsWith("GET") && path.includes("{event}")) await request.put(`/api/v1/builds/${made.id}/photos/${ride.id}`, { data: PHOTO });
        const at = rest(path.replace("{id}", String(thing)).replace("{job}", String(job)));
        const headers: Record<string, string> = operation.parameters?.some((one) => one.name === "If-Match") ? { "if-match": '"1"' } : {};
        const answered = await ask(path, method, at, good === null ? { headers } : { headers, data: good });
        if (answered.status() === HERE[name]) continue;
        if (!answered.ok()) wrong.push(`${name} refuses a good request: ${(await answered.text()).slice(0, 300)}`);
        if (path.includes("{job}")) for (const other of ["999999", "banana"]) await ask(path, method, path.replace("{job}", other), {}, 404);
        // A part that is not there yet is kept.
        if (path.includes("{id}") && name !== "PUT /api/v1/parts/{id}") {
          const nowhere = rest(path.replace("{id}", "999999"));
          await ask(path, method, nowhere, good === null ? { headers } : { headers, data: good }, 404);
          if (!path.includes("/parts/"))
            await ask(path, method, rest(path.replace("{id}", "banana")), good === null ? { headers } : { headers, data: good }, 404);
        }
        if (headers["if-match"]) {
          await ask(path, method, at, { data: good }, 428);
          await ask(path, method, at, { headers: { "if-match": '"77"' }, data: good }, 412);
        }
        if (operation.requestBody && !BYTES.includes(name)) {
          const json = { ...headers, "content-type": "application/json" };
          await ask(path, method, at, { headers: { ...headers, "content-type": "text/plain" }, data: "words" }, 415);
          await ask(path, method, at, { headers: json, data: Buffer.from('{"document": ') }, 400);
          const empty = await ask(path, method, at, { headers: json, data: Buffer.from("{}") });
          // Of the door's body everything may be left out; where there is no local network that is said.
          expect(name.endsWith("/garage/door") ? [200, 409] : [400, 422], name).toContain(empty.status());
          const twice = JSON.stringify(good).replace(/^\{/, '{"name": "one", "name": "two", ');
          await ask(path, method, at, { headers: json, data: Buffer.from(twice) });
        }
        await ask(path, method, at, { headers: { ...headers, "sec-fetch-site": "cross-site" }, ...(good === null ? {} : { data: good }) }, 403);
      }
      for (const [bad, status] of BAD[name] ?? []) await ask(path, method, path, { data: bad }, status);
    }
  const diary = (await (await request.post("/api/v1/builds", { data: trike })).json()) as { id: number };
  const journal = "/api/v1/builds/{id}/journal";
  for (const [query, status] of [
    ["kind=banana", 422],
    ["from=banana", 422],
    ["limit=0", 400],
    ["after=banana", 400],
  ] as const)
    await ask(journal, "get", `/api/v1/builds/${diary.id}/journal?${query}`, {}, status);
  for (const [events, status] of [
    ["none", 422],
    [[{ ...ride, kind: "party" }], 422],
    [[{ ...ride, at: "2026-13-41T00:00:00Z" }], 422],
    [[ride, { ...ride, data: { minutes: 99 } }], 409],
  ] as const)
    await ask(journal, "post", `/api/v1/builds/${diary.id}/journal`, { data: { events } }, status);
  await ask(`${journal}/export`, "get", `/api/v1/builds/${diary.id}/journal/export?format=csv`, {}, 200);
  await ask(`${journal}/import`, "post", `/api/v1/builds/${diary.id}/journal/import`, { data: { format: "csv", text: "id,when" } }, 422);
  const photo = "/api/v1/builds/{id}/photos/{event}";
  await ask(photo, "put", `/api/v1/builds/${diary.id}/photos/banana`, { data: PHOTO }, 422);
  await ask(photo, "put", `/api/v1/builds/${diary.id}/photos/${ride.id}`, { data: Buffer.from("GIF89a") }, 422);
  await ask(photo, "put", `/api/v1/builds/${diary.id}/photos/${ride.id}`, { data: Buffer.alloc(3 << 20) }, 413);
  await ask(photo, "get", `/api/v1/builds/${diary.id}/photos/01900000-0000-7000-8000-0000000000ff`, {}, 404);
  await ask("/api/v1/builds/{id}/due", "get", `/api/v1/builds/${diary.id}/due?now=banana`, {}, 422);
  const mixed = [JSON.stringify(ride), "broken", JSON.stringify({ ...ride, id: ride.id.replace("0001", "0002"), build: 424242 })].join("\n");
  const taken = await ask(`${journal}/import`, "post", `/api/v1/builds/${diary.id}/journal/import`, { data: { format: "jsonl", text: mixed } }, 200);
  expect(await taken.json()).toMatchObject({ kept: 1, bad: [{ line: 2 }, { line: 3 }] });
  for (const query of ["limit=0", "limit=banana", "after=banana"]) await ask("/api/v1/builds", "get", `/api/v1/builds?${query}`, {}, 400);
  expect(wrong, wrong.join("\n")).toEqual([]);
  expect([...seen].sort()).toEqual(Object.keys(GOOD).sort());
});

test("repeated keys are refused in parts too", async ({ request }) => {
  const twice = JSON.stringify(part).replace('"vf_v":2', '"vf_v":2,"vf_v":3');
  const kept = await request.put(`/api/v1/parts/${part.id}`, { headers: { "content-type": "application/json" }, data: twice });
  expect(kept.status()).toBe(422);
  expect(await kept.text()).toContain("twice");
  const added = await request.post("/api/v1/add", {
    headers: { "content-type": "application/json" },
    data: `{"document": ${JSON.stringify(trike)}, "part": {"kind": "light", "part": ${twice}, "place": "", "length_m": 1}}`,
  });
  expect(added.status()).toBe(422);
});

test("the shelf comes in pages", async ({ request }) => {
  for (let n = 0; n < 5; n++) await request.post("/api/v1/builds", { data: { ...trike, name: `Page ${n}` } });
  const names: string[] = [];
  let after = "";
  for (let page = 0; page < 40; page++) {
    const shelf = (await (await request.get(`/api/v1/builds?limit=2${after}`)).json()) as {
      builds: { id: number; name: string; summary: { headline: string } }[];
      next?: string;
    };
    expect(shelf.builds.length).toBeLessThanOrEqual(2);
    names.push(...shelf.builds.map((build) => `${build.id}`));
    for (const build of shelf.builds) expect(build.summary.headline).toBeTruthy();
    if (!shelf.next) break;
    after = `&after=${encodeURIComponent(shelf.next)}`;
  }
  expect(new Set(names).size).toBe(names.length);
  expect(names.length).toBeGreaterThanOrEqual(5);
});
