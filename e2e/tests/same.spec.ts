import { readFileSync, readdirSync } from "node:fs";
import { type APIRequestContext, expect, test } from "@playwright/test";
import { type Ask, asker } from "../../web/src/core/module";
import type { Build } from "../../web/src/api/client";

/**
 * The core in the page answers as the one in the server does: word for word, and in every figure to 1e-12 of itself. The last
 * digits differ because logarithms and powers come from other libraries, and because the processor's own multiply-and-add
 * rounds once where the module's two steps round twice.
 */

const file = (path: string) => new URL(`../../${path}`, import.meta.url);
const wasm = () => readFileSync(file("web/dist/core.wasm"));
const builds = ["core/model/demo", "core/testing/cases"].flatMap((folder) =>
  readdirSync(file(folder))
    .filter((name) => name.endsWith(".json") && !name.includes("expected"))
    .map((name) => JSON.parse(readFileSync(file(`${folder}/${name}`), "utf8")) as Build),
);

/** The same dice every time: a linear congruence (Numerical Recipes). */
function dice(seed: number) {
  let state = seed;
  return () => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 2 ** 32;
}

/** A build that nobody wrote: every figure of one that somebody did, pulled about. */
function shaken(build: Build, throwDice: () => number): Build {
  const pull = (value: unknown, key: string): unknown => {
    if (Array.isArray(value)) return value.map((one) => pull(one, key));
    if (value && typeof value === "object") return Object.fromEntries(Object.entries(value).map(([name, one]) => [name, pull(one, name)]));
    const gentle = /^(length_m|capacity_ah|max_current_a|resistance_ohm|if_a|power_w|idle_a|level|resistor_ohm|mass_kg)$/.test(key);
    return typeof value === "number" && gentle && value > 0 ? Math.min(value * (0.6 + 0.8 * throwDice()), key === "level" ? 1 : Infinity) : value;
  };
  return pull(build, "") as Build;
}

/** Part of itself by which a figure may differ. */
const SAME = 1e-12;
/** Below this a figure is what rounding leaves of nothing. */
const NOTHING = 1e-12;

/** Where two answers differ; `null` where they do not. */
function difference(a: unknown, b: unknown, at = ""): string | null {
  if (typeof a === "number" && typeof b === "number") {
    const size = Math.max(Math.abs(a), Math.abs(b));
    return size < NOTHING || Math.abs(a - b) <= SAME * size ? null : `${at}: ${a} and ${b}`;
  }
  if (a && b && typeof a === "object" && typeof b === "object") {
    const names = new Set([...Object.keys(a), ...Object.keys(b)]);
    for (const name of names) {
      const found = difference((a as Record<string, unknown>)[name], (b as Record<string, unknown>)[name], `${at}/${name}`);
      if (found) return found;
    }
    return null;
  }
  return a === b ? null : `${at}: ${String(a)} and ${String(b)}`;
}

/** A table's cells are figures too. */
const read = (text: string): unknown => {
  try {
    return JSON.parse(text);
  } catch {
    return text.split(/\r\n|,/).map((cell) => (cell !== "" && !Number.isNaN(Number(cell)) ? Number(cell) : cell));
  }
};

const encoder = new TextEncoder();
const decoder = new TextDecoder();

/** What the server says, and what the module says, as text. */
async function both(request: APIRequestContext, ask: Ask, name: string, body: unknown) {
  const server = await request.post(`/api/v1/${name}`, { data: body as object });
  const here = ask(name, encoder.encode(JSON.stringify(body)));
  const theirs = await server.text();
  // Only a server numbers its requests.
  const plain = server.ok() ? theirs : JSON.stringify({ ...(JSON.parse(theirs) as object), request: undefined });
  const found = server.status() === here.status ? difference(read(plain), read(decoder.decode(here.answer))) : `${server.status()} and ${here.status}`;
  return { status: here.status, found };
}

test("every question on every case and sample is answered alike", async ({ request }) => {
  const ask = asker(new WebAssembly.Instance(new WebAssembly.Module(wasm())));
  for (const build of builds) {
    const scene = build.scenes[0]!.id;
    const light = build.lights[0]!.id;
    const change = { brightness_factor: 0.5, capacity_factor: 1.5, temperature_c: 8, hours_factor: 1 };
    const questions: [string, unknown][] = [
      ["verdict", { document: build }],
      ["solve", { document: build }],
      ["report", { document: build }],
      ["remedies", { document: build }],
      ["size", { document: build }],
      ["drain", { document: build }],
      ["tables", { document: build }],
      ["discharge", { document: build, scene }],
      ["what-if", { document: build, scene, change }],
      ["what-if/csv", { document: build, scene, change }],
      ["csv", { document: build, table: "lights" }],
      ["choose", { document: build, question: { kind: "wire", feed: light } }],
      ["add", { document: build, part: { kind: "copy_light", id: light } }],
      ["remove", { document: build, part: { kind: "light", id: light } }],
      ["solve", { document: { ...build, converters: 7 } }],
      ["solve", { document: build, state: "banana" }],
    ];
    for (const [name, body] of questions) {
      const { found } = await both(request, ask, name, body);
      expect(found, `${name} of ${build.name}`).toBeNull();
    }
  }
});

test("three hundred builds that nobody wrote are solved alike", async ({ request }) => {
  const ask = asker(new WebAssembly.Instance(new WebAssembly.Module(wasm())));
  const throwDice = dice(20261126);
  let solved = 0;
  for (let n = 0; n < 300; n++) {
    const build = shaken(builds[n % builds.length]!, throwDice);
    const { status, found } = await both(request, ask, "report", { document: build });
    expect(found, `build ${n} of ${build.name}`).toBeNull();
    if (status === 200) solved++;
  }
  expect(solved).toBeGreaterThan(200);
});

test("a browser computes as Node does", async ({ page, request }) => {
  await page.goto("/");
  const trike = builds[0]!;
  const body = JSON.stringify({ document: trike });
  const here = await page.evaluate(async (body) => {
    const { instance } = await WebAssembly.instantiateStreaming(fetch("/core.wasm"));
    const core = instance.exports as Record<string, (n?: number) => number> & { memory: WebAssembly.Memory };
    const [word, bytes] = [new TextEncoder().encode("report"), new TextEncoder().encode(body)];
    const at = core.room!(word.length + bytes.length);
    const room = new Uint8Array(core.memory.buffer, at, word.length + bytes.length);
    room.set(word);
    room.set(bytes, word.length);
    core.ask!(word.length);
    return new TextDecoder().decode(new Uint8Array(core.memory.buffer, core.answer!(), core.answer_len!()));
  }, body);
  expect(difference(JSON.parse(here), await (await request.post("/api/v1/report", { data: { document: trike } })).json())).toBeNull();
});

test("a thousand questions leave the memory of the module where it was", () => {
  const module = new WebAssembly.Module(wasm());
  const instance = new WebAssembly.Instance(module, {});
  const { memory, room, ask } = instance.exports as unknown as { memory: WebAssembly.Memory; room: (n: number) => number; ask: (n: number) => number };
  const request = encoder.encode(`solve${JSON.stringify({ document: builds[0] })}`);
  const once = () => {
    const at = room(request.length);
    new Uint8Array(memory.buffer, at, request.length).set(request);
    expect(ask(5)).toBe(200);
  };
  for (let n = 0; n < 50; n++) once();
  const before = memory.buffer.byteLength;
  for (let n = 0; n < 1000; n++) once();
  expect(memory.buffer.byteLength).toBe(before);
});
