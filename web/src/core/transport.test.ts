import { beforeAll, beforeEach, expect, test } from "vitest";
import type { FromWorker, ToWorker } from "./protocol";

type Transport = typeof import("./transport");
type Asked = Extract<ToWorker, { kind: "ask" }>;

/** A worker that answers when it is told to. */
class Stand {
  static all: Stand[] = [];
  /** The worker that was asked this last. */
  static at(name: string) {
    return Stand.all.findLast((one) => !one.ended && one.asked.at(-1)?.name === name)!;
  }

  onmessage: ((event: { data: FromWorker }) => void) | null = null;
  onerror: ((event: { message: string }) => void) | null = null;
  asked: Asked[] = [];
  ended = false;

  constructor() {
    Stand.all.push(this);
  }

  postMessage(message: ToWorker) {
    if (message.kind === "ask") this.asked.push(message);
  }

  terminate() {
    this.ended = true;
  }

  answers(text: string, took = 1) {
    const { id } = this.asked.at(-1)!;
    this.onmessage?.({ data: { id, status: 200, answer: new TextEncoder().encode(text), took } });
  }
}

const read = (answered: { answer: Uint8Array } | null) => answered && new TextDecoder().decode(answered.answer);
const body = (text: string) => new TextEncoder().encode(text);
const turn = () => new Promise<void>((done) => setImmediate(done));

let transport: Transport;
/** What went over the network. */
const network: string[] = [];
/** The core is not built yet; and what is done when it is looked for again, after so many milliseconds. */
let building = false;
/** The server is not answering. */
let away = false;
/** When an answer was given, where the server does not answer now. */
let of: string | undefined;
let again: { run: () => void; after: number } | undefined;

/** The core as it is fetched, with workers that the test answers for. */
beforeAll(async () => {
  const own = globalThis as unknown as Record<string, unknown>;
  Object.assign(own, {
    Worker: Stand,
    document: { documentElement: { dataset: {} }, querySelector: () => ({ content: "of this page" }) },
    localStorage: { getItem: () => null },
    fetch: async (request: Request | string) => {
      const { pathname, search } = new URL(typeof request === "string" ? request : request.url, "http://workshop");
      network.push(pathname + search);
      if (away && pathname.startsWith("/api/")) throw new TypeError("Failed to fetch");
      if (pathname === "/core.wasm" && building) return new Response("not yet", { status: 404, headers: { "retry-after": "15" } });
      const headers: Record<string, string> = of ? { "x-orthavis-of": of } : {};
      return new Response("from the server", { status: pathname.endsWith("forbidden") ? 403 : 200, headers });
    },
  });
  WebAssembly.compileStreaming = async () => ({}) as WebAssembly.Module;
  // The core beside the page: it breaks where it is asked to.
  const memory = { buffer: new ArrayBuffer(1 << 16) };
  let asked = "";
  const exports = {
    memory,
    room: () => 0,
    ask: (name: number) => {
      asked = new TextDecoder().decode(new Uint8Array(memory.buffer, 0, name));
      if (asked === "verdict") throw new WebAssembly.RuntimeError("unreachable");
      new Uint8Array(memory.buffer, 100).set(body(`beside: ${asked}`));
      return 200;
    },
    answer: () => 100,
    answer_len: () => body(`beside: ${asked}`).length,
  };
  WebAssembly.instantiate = (async () => ({ exports })) as unknown as typeof WebAssembly.instantiate;
  transport = await import("./transport");
});

beforeEach(async ({ task: { name: title } }) => {
  if (!title.startsWith("until the core is here")) await transport.fetchCore();
  network.length = 0;
});

test("until the core is here the server answers, and then the core does", async () => {
  const post = (name: string) => transport.transport(new Request(`http://workshop/api/v1/${name}`, { method: "POST", body: "{}" }));
  expect(await transport.askHere("solve", body("{}"))).toBeNull();
  expect(await (await post("solve")).text()).toBe("from the server");
  expect([transport.placeNow().core, network]).toEqual(["server", ["/api/v1/solve"]]);
  // One that is being built is looked for again when the server says, and the server goes on answering.
  building = true;
  const wait = globalThis.setTimeout;
  globalThis.setTimeout = ((run: () => void, after: number) => void (again = { run, after })) as unknown as typeof setTimeout;
  await transport.fetchCore();
  globalThis.setTimeout = wait;
  expect([transport.placeNow().core, again?.after]).toEqual(["server", 15_000]);
  building = false;
  // Where the server is not answering, a question waits for the core that is on its way.
  away = true;
  const late = post("solve");
  while (!Stand.at("solve")) await turn();
  Stand.at("solve").answers("late, from the core");
  expect(await (await late).text()).toBe("late, from the core");
  away = false;
  // Once it is here it is not fetched again.
  again!.run();
  await transport.fetchCore();
  expect(transport.placeNow().core).toBe("page");
  const before = Stand.at("solve").asked.length;
  const answer = post("solve");
  // The body of a request is read first.
  while (Stand.at("solve").asked.length === before) await turn();
  expect(new TextDecoder().decode(Stand.at("solve").asked.at(-1)!.request)).toBe("{}");
  Stand.at("solve").answers("from the core");
  const response = await answer;
  expect([response.status, response.headers.get("content-type"), await response.text()]).toEqual([200, "application/json", "from the core"]);
  // What the core does not know goes on over the network.
  expect(await (await post("builds")).text()).toBe("from the server");
  const core = "/core.wasm?page=of this page";
  expect(network.map(decodeURIComponent)).toEqual(["/api/v1/solve", core, "/api/v1/solve", core, "/api/v1/builds"]);
});

test("quick questions are answered one after another, in their order", async () => {
  const answers = ["one", "two", "three"].map(async (text) => read(await transport.askHere("size", body(text))));
  for (const text of ["one", "two", "three"]) {
    await turn();
    expect(new TextDecoder().decode(Stand.at("size").asked.at(-1)!.request)).toBe(text);
    Stand.at("size").answers(`${text} is answered`);
  }
  expect(await Promise.all(answers)).toEqual(["one is answered", "two is answered", "three is answered"]);
  expect(Stand.at("size").asked.filter(({ name }) => name === "size")).toHaveLength(3);
});

test("a search that nobody waits for ends with its worker, and what waits behind it goes on", async () => {
  const [first, third] = [new AbortController(), new AbortController()];
  const long = transport.askHere("mend", body("first"), first.signal);
  const waits = transport.askHere("mend", body("second"));
  const gone = transport.askHere("mend", body("third"), third.signal);
  const other = transport.askHere("drain", body("other"));
  await turn();
  const worker = Stand.at("mend");
  expect(new TextDecoder().decode(worker.asked.at(-1)!.request), "one after another").toBe("first");
  third.abort();
  await expect(gone).rejects.toMatchObject({ name: "AbortError" });
  expect(worker.ended, "it is not at that yet").toBe(false);
  first.abort();
  await expect(long).rejects.toMatchObject({ name: "AbortError" });
  expect(worker.ended).toBe(true);
  // What an ended worker had still sent is nobody's.
  worker.answers("too late");
  // A newer search of the same name is answered here, also where no server is.
  Stand.at("mend").answers("the second");
  expect(read(await waits)).toBe("the second");
  await turn();
  Stand.at("drain").answers("the other");
  expect(read(await other)).toBe("the other");
  const late = new AbortController();
  late.abort();
  await expect(transport.askHere("mend", body("late"), late.signal)).rejects.toMatchObject({ name: "AbortError" });
});

test("a search that is done soon is left to end", async () => {
  const one = transport.askHere("circuit", body("one"));
  await turn();
  Stand.at("circuit").answers("one", 20);
  await one;
  const off = new AbortController();
  const gone = transport.askHere("circuit", body("two"), off.signal);
  const next = transport.askHere("circuit", body("three"));
  await turn();
  const worker = Stand.at("circuit");
  const two = worker.asked.at(-1)!;
  off.abort();
  await expect(gone).rejects.toMatchObject({ name: "AbortError" });
  await turn();
  // It is left to end, its answer is nobody's, and the next question follows.
  expect([worker.ended, Stand.at("circuit") === worker]).toEqual([false, true]);
  worker.onmessage?.({ data: { id: two.id, status: 200, answer: body("two"), took: 20 } });
  worker.answers("three");
  expect(read(await next)).toBe("three");
});

test("whoever waits for a worker that breaks is answered by the server, and a fresh one goes on", async () => {
  const said: (string | undefined)[] = [];
  const stop = transport.onPlace(() => said.push(transport.placeNow().trouble));
  const both = [transport.askHere("probe", body("one")), transport.askHere("probe", body("two"))];
  await turn();
  const worker = Stand.at("probe");
  worker.onmessage?.({ data: { id: worker.asked.at(-1)!.id, broken: "out of memory" } });
  expect(await Promise.all(both)).toEqual([null, null]);
  expect(said).toEqual(["The core in the page stopped (out of memory) and was started anew."]);
  const again = transport.askHere("probe", body("three"));
  await turn();
  expect([worker.ended, Stand.at("probe") === worker]).toEqual([true, false]);
  Stand.at("probe").answers("three");
  expect(read(await again)).toBe("three");
  stop();
  Stand.at("probe").onerror?.({ message: "gone" });
  expect(said).toHaveLength(1);
  expect(transport.placeNow().trouble).toContain("gone");
});

test("only what was short is answered before the event ends", async () => {
  const ask = () => transport.askAtOnce("what-if", body("{}"));
  expect(ask(), "nobody knows yet how long it takes").toBeNull();
  for (const [took, at] of [
    [40, null],
    [5, "beside: what-if"],
  ] as const) {
    const asked = transport.askHere("what-if", body("{}"));
    await turn();
    Stand.at("what-if").answers("from the worker", took);
    await asked;
    expect(read(ask())).toBe(at);
  }
  // By another question whose answer takes no less.
  expect(read(transport.askAtOnce("label", body("{}"), "what-if"))).toBe("beside: label");
});

test("a trap beside the page is said, and does not repeat", async () => {
  const asked = transport.askHere("verdict", body("{}"));
  await turn();
  Stand.at("verdict").answers("from the worker", 1);
  await asked;
  expect(transport.askAtOnce("verdict", body("{}"))).toBeNull();
  expect(transport.placeNow().trouble).toMatch(/The core in the page stopped \(.*unreachable.*\) and was started anew\./);
  await turn();
  expect(read(transport.askAtOnce("label", body("{}"), "what-if")), "a fresh one answers").toBe("beside: label");
});

test("what the server forbids is heard of", async () => {
  let heard = 0;
  const stop = transport.onRefused(() => heard++);
  const get = (path: string) => transport.transport(new Request(`http://workshop/api/v1/${path}`));
  await get("builds");
  expect(heard).toBe(0);
  expect((await get("forbidden")).status).toBe(403);
  expect(heard).toBe(1);
  stop();
  await get("forbidden");
  expect([heard, network]).toEqual([1, ["/api/v1/builds", "/api/v1/forbidden", "/api/v1/forbidden"]]);
});

test("what was answered earlier is said to be so, until the server answers again", async () => {
  const read = () => transport.transport(new Request("http://workshop/api/v1/builds"));
  const heard: (string | undefined)[] = [];
  const leave = transport.onPlace(() => heard.push(transport.placeNow().of));
  of = "2026-05-01T10:00:00Z";
  await read();
  await read();
  of = undefined;
  await read();
  await read();
  leave();
  expect(heard).toEqual(["2026-05-01T10:00:00Z", undefined]);
  expect(transport.placeNow().core).toBe("page");
});
