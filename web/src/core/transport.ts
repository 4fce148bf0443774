/**
 * Where questions are answered: by the core in the page, once it has arrived, else by the server. A request for an
 * operation of the core goes to a worker and comes back as the response that the server would give; everything else,
 * and whatever the worker cannot do, goes over the network.
 */
import { OPERATIONS } from "./operations";
import { type Ask, asker } from "./module";
import type { FromWorker, ToWorker } from "./protocol";

/** A question whose last answer took no longer may be answered at once: less than a frame is left of what the eye sees, ms. */
const SHORT = 12;

/** A called-off search that takes no longer is left to end: a fresh worker is not there sooner, ms. */
const SOON = 60;

const PREFIX = "/api/v1/";

/** What answers here at the moment, and why. */
export interface Place {
  core: "page" | "server";
  /** Set once the core in the page broke: what is said about it. */
  trouble?: string;
  /** The server is away, and what it says was said at this moment. */
  of?: string;
}

/** 200 and the answer, or the status of a refusal and its problem. */
type Answered = ReturnType<Ask>;

/** Who answers questions here. */
interface Answerer {
  /** `null` where there is no answer here. */
  ask(name: string, request: Uint8Array): Promise<Answered | null>;
  /** Ends a search that nobody waits for any more, by what was asked. */
  callOff(request: Uint8Array): void;
}

interface Waiting {
  name: string;
  /** Kept, so that it can be asked again of a fresh worker. */
  request: Uint8Array;
  settle: (answer: Answered | null) => void;
}

/** A worker with its questions, one after another. */
class Line implements Answerer {
  private worker: Worker | undefined;
  private waiting: Waiting[] = [];
  /** What the worker is at. */
  private asked: Waiting | undefined;
  private number = 0;

  constructor(
    private readonly module: WebAssembly.Module,
    private readonly onBroken: (why: string) => void,
  ) {}

  private start(): Worker {
    if (this.worker) return this.worker;
    const worker = new Worker(new URL("./worker.ts", import.meta.url), { type: "module" });
    worker.onmessage = ({ data }: MessageEvent<FromWorker>) => {
      // What an ended worker had still sent is nobody's.
      if (worker !== this.worker || data.id !== this.number) return;
      const { asked } = this;
      this.asked = undefined;
      if ("broken" in data) {
        asked?.settle(null);
        this.broke(data.broken);
        return;
      }
      if (asked) took.set(asked.name, data.took);
      asked?.settle(data);
      this.next();
    };
    worker.onerror = (event) => this.broke(event.message);
    worker.postMessage({ kind: "module", module: this.module } satisfies ToWorker);
    return (this.worker = worker);
  }

  private next() {
    if (this.asked) return;
    this.asked = this.waiting.shift();
    if (!this.asked) return;
    const { name, request } = this.asked;
    this.start().postMessage({ kind: "ask", id: ++this.number, name, request } satisfies ToWorker);
  }

  private end() {
    this.worker?.terminate();
    this.worker = undefined;
    this.asked = undefined;
  }

  /** Who still waits is answered by the server. */
  private broke(why: string) {
    const left = [...(this.asked ? [this.asked] : []), ...this.waiting];
    this.end();
    this.waiting = [];
    for (const one of left) one.settle(null);
    this.onBroken(why);
  }

  ask(name: string, request: Uint8Array): Promise<Answered | null> {
    return new Promise((settle) => {
      this.waiting.push({ name, request, settle });
      this.next();
    });
  }

  /** What waits is taken out. A worker cannot be interrupted: one that will not be done soon is ended, and a fresh one goes on. */
  callOff(request: Uint8Array) {
    const off = (one: Waiting) => one.request === request;
    for (const one of this.waiting.filter(off)) one.settle(null);
    this.waiting = this.waiting.filter((one) => !off(one));
    if (!this.asked || !off(this.asked)) return;
    this.asked.settle(null);
    if (!((took.get(this.asked.name) ?? Infinity) <= SOON)) this.end();
    this.next();
  }
}

let lines: { quick: Answerer; long: Answerer } | undefined;
/** The core beside the page's own scripts, for short questions. */
let beside: Ask | undefined;
/** Makes it anew after it broke. */
let revive: (() => Promise<void>) | undefined;
/** What the last answer to a question took, ms. */
const took = new Map<string, number>();
/** No server is behind this page: what the core does not know, nobody does. */
let alone = false;
let place: Place = { core: "server" };
const listeners = new Set<() => void>();

function settle(next: Place) {
  place = { of: place.of, ...next };
  document.documentElement.dataset.core = next.core;
  for (const listener of listeners) listener();
}

/** What answers here, to be drawn. */
export const placeNow = () => place;

/** Hears of a change of it. */
export function onPlace(listener: () => void) {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

const broken = (why: string) => settle({ core: lines ? "page" : "server", trouble: `The core in the page stopped (${why}) and was started anew.` });

/** What this page is a version of, as the server wrote it into the page. */
const version = () => document.querySelector<HTMLMetaElement>('meta[name="orthavis-version"]')?.content ?? "";

/**
 * Fetches the core of this page's version; until it is here, and where it cannot be had, the server answers. One that is
 * being built is asked for again when the server says, and taken as it comes.
 */
export function fetchCore(): Promise<void> {
  return (arriving ??= takeCore().finally(() => (arriving = undefined)));
}

/** The core on its way. */
let arriving: Promise<void> | undefined;

async function takeCore(): Promise<void> {
  if (lines || typeof WebAssembly === "undefined" || typeof Worker === "undefined" || localStorage.getItem("orthavis.core") === "server") return;
  try {
    const response = await fetch(`/core.wasm?page=${version()}`);
    const later = Number(response.headers.get("retry-after"));
    if (!response.ok && later > 0) setTimeout(() => void fetchCore(), later * 1000);
    if (!response.ok) return;
    const module = await WebAssembly.compileStreaming(response);
    revive = async () => void (beside = asker(await WebAssembly.instantiate(module)));
    await revive();
    lines = { quick: new Line(module, broken), long: new Line(module, broken) };
    settle({ core: "page" });
  } catch {
    // This binary was built without it, or the browser has no such thing: the server answers.
  }
}

/** Answers everything by a core that came with the page itself, without workers and without a server. */
export function answerAlone(ask: Ask): void {
  const here: Answerer = { ask: (name, request) => Promise.resolve(ask(name, request)), callOff: () => undefined };
  lines = { quick: here, long: here };
  beside = ask;
  alone = true;
  settle({ core: "page" });
}

/** A search has a line of its own, in which a newer one of its name ends the one before. */
const lineOf = (name: string) => (OPERATIONS[name]?.pace === "search" ? lines?.long : OPERATIONS[name] && lines?.quick);

/** Answers an operation in the page; `null` where it cannot, and the server is to be asked. */
export async function askHere(name: string, request: Uint8Array, signal?: AbortSignal): Promise<Answered | null> {
  const line = lineOf(name);
  if (!line) return null;
  const long = line === lines?.long;
  const callOff = () => long && line.callOff(request);
  if (signal?.aborted) throw new DOMException("called off", "AbortError");
  signal?.addEventListener("abort", callOff);
  try {
    const answered = await line.ask(name, request);
    if (signal?.aborted) throw new DOMException("called off", "AbortError");
    return answered;
  } finally {
    signal?.removeEventListener("abort", callOff);
  }
}

/**
 * Answers a short question before the event that asks it ends, so that what was typed and what comes of it are one picture;
 * `null` where it may take longer, or there is no core here. `like` is a question whose answer takes no less time.
 */
export function askAtOnce(name: string, request: Uint8Array, like = name): Answered | null {
  if (!beside || !((took.get(like) ?? Infinity) <= SHORT)) return null;
  const start = performance.now();
  try {
    return beside(name, request);
  } catch (error) {
    // A trap leaves the module's memory in no known state; the workers have their own.
    beside = undefined;
    void revive?.();
    broken(String(error));
    return null;
  } finally {
    took.set(like, performance.now() - start);
  }
}

const refused = new Set<() => void>();

/** Hears of a request that the server did not take from this browser. */
export function onRefused(listener: () => void): () => void {
  refused.add(listener);
  return () => void refused.delete(listener);
}

/** Set on an answer that the server gave earlier, where it does not answer now: when it did. */
const OF = "x-orthavis-of";

async function overNetwork(...request: Parameters<typeof fetch>): Promise<Response> {
  const response = await fetch(...request);
  const of = response.headers.get(OF) ?? undefined;
  if (of !== place.of) settle({ ...place, of });
  if (response.status === 401 || response.status === 403) for (const listener of refused) listener();
  return response;
}

/** `fetch` for the client of the API. */
export async function transport(request: Request): Promise<Response> {
  const path = new URL(request.url).pathname;
  const name = path.startsWith(PREFIX) ? path.slice(PREFIX.length) : "";
  if (alone && name === "reference") return responseOf(name, (await lines!.quick.ask(name, new TextEncoder().encode("{}")))!);
  if (request.method !== "POST" || !OPERATIONS[name]) return overNetwork(request);
  const body = await request.arrayBuffer();
  const asked = () => askHere(name, new Uint8Array(body.slice(0)), request.signal);
  const answered = await asked();
  if (answered) return responseOf(name, answered);
  try {
    return await overNetwork(request.url, { method: request.method, headers: request.headers, body, signal: request.signal });
  } catch (error) {
    if (request.signal.aborted) throw error;
    // Where the server is not answering the core may be on its way yet, or was started anew.
    await fetchCore();
    const late = await asked();
    if (!late) throw error;
    return responseOf(name, late);
  }
}

/** Held by every open page of a version. */
const OPEN = "orthavis page ";

/** Lets the page start where the server does not answer, in browsers that allow it: on this machine, in no private window. */
export async function startWithout(): Promise<void> {
  const [mine, locks] = [OPEN + version(), navigator.locks];
  try {
    const kept = await navigator.serviceWorker.register("/worker.js");
    void locks.request(mine, { mode: "shared" }, () => new Promise(() => undefined));
    // What starts this version takes over once no page of another is open.
    const take = async () => {
      if (!kept.waiting) return;
      const { held = [] } = await locks.query();
      const others = held.map((lock) => lock.name!).filter((name) => name.startsWith(OPEN) && name !== mine);
      await Promise.all(others.map((name) => locks.request(name, () => undefined)));
      kept.waiting?.postMessage(version());
    };
    kept.addEventListener("updatefound", () => kept.installing?.addEventListener("statechange", () => void take()));
    await take();
  } catch {
    // A browser that does not allow it goes without.
  }
}

/** The response that the server would give. */
function responseOf(name: string, answered: Answered): Response {
  const kind = answered.status !== 200 ? "application/problem+json" : (OPERATIONS[name]?.media ?? "application/json");
  return new Response(answered.answer as Uint8Array<ArrayBuffer>, { status: answered.status, headers: { "content-type": kind } });
}
