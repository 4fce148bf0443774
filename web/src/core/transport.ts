/**
 * Where questions are answered: by the core in the page, once it has arrived, else by the server. A request for an
 * operation of the core goes to a worker and comes back as the response that the server would give; everything else,
 * and whatever the worker cannot do, goes over the network.
 */
import type { Ask } from "./module";
import type { FromWorker, ToWorker } from "./protocol";

/** Questions that a person waits for at every keystroke. */
const QUICK = ["solve", "label", "measured", "starter", "add", "remove", "apply", "choose", "size", "probe", "pinch", "faults", "expect"];
/** Questions that search; a newer one of the same name ends the one before. */
const LONG = ["remedies", "mend", "drain", "discharge", "what-if", "what-if/csv", "tables", "csv", "report", "diagnose", "correct"];

const CSV = ["csv", "what-if/csv"];
const PREFIX = "/api/v1/";

/** What answers here at the moment, and why. */
export interface Place {
  core: "page" | "server";
  /** Set once the core in the page broke: what is said about it. */
  trouble?: string;
}

/** 200 and the answer, or the status of a refusal and its problem. */
type Answered = ReturnType<Ask>;

/** Who answers questions here. */
interface Answerer {
  /** `null` where there is no answer here. */
  ask(name: string, request: Uint8Array): Promise<Answered | null>;
  /** Ends a search that nobody waits for any more. */
  callOff(name: string): void;
}

interface Waiting {
  name: string;
  /** Kept, so that it can be asked again of a fresh worker. */
  request: Uint8Array;
  settle: (answer: Answered | null) => void;
}

class Line implements Answerer {
  private worker: Worker | undefined;
  private readonly waiting = new Map<number, Waiting>();
  private last = 0;

  constructor(
    private readonly module: WebAssembly.Module,
    private readonly onBroken: (why: string) => void,
  ) {}

  private start(): Worker {
    if (this.worker) return this.worker;
    const worker = new Worker(new URL("./worker.ts", import.meta.url), { type: "module" });
    worker.onmessage = ({ data }: MessageEvent<FromWorker>) => {
      const asked = this.waiting.get(data.id);
      this.waiting.delete(data.id);
      if ("broken" in data) {
        asked?.settle(null);
        this.broke(data.broken);
      } else asked?.settle(data);
    };
    worker.onerror = (event) => this.broke(event.message);
    worker.postMessage({ kind: "module", module: this.module } satisfies ToWorker);
    return (this.worker = worker);
  }

  /** Ends what runs; who still waits is answered by the server. */
  private end() {
    this.worker?.terminate();
    this.worker = undefined;
    const left = [...this.waiting.values()];
    this.waiting.clear();
    for (const one of left) one.settle(null);
  }

  private broke(why: string) {
    this.end();
    this.onBroken(why);
  }

  ask(name: string, request: Uint8Array): Promise<Answered | null> {
    const worker = this.start();
    const id = ++this.last;
    return new Promise((settle) => {
      this.waiting.set(id, { name, request, settle });
      worker.postMessage({ kind: "ask", id, name, request } satisfies ToWorker);
    });
  }

  /** A worker cannot be interrupted: it is ended, and what else waited for it is asked of a fresh one. */
  callOff(name: string) {
    const left = [...this.waiting];
    if (left.every(([, one]) => one.name !== name)) return;
    this.worker?.terminate();
    this.worker = undefined;
    this.waiting.clear();
    for (const [id, one] of left) {
      if (one.name === name) {
        one.settle(null);
        continue;
      }
      this.waiting.set(id, one);
      this.start().postMessage({ kind: "ask", id, name: one.name, request: one.request } satisfies ToWorker);
    }
  }
}

let lines: { quick: Answerer; long: Answerer } | undefined;
/** No server is behind this page: what the core does not know, nobody does. */
let alone = false;
let place: Place = { core: "server" };
const listeners = new Set<() => void>();

function settle(next: Place) {
  place = next;
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

/** Fetches the core; until it is here, and where it cannot be had, the server answers. */
export async function fetchCore(): Promise<void> {
  if (lines || typeof WebAssembly === "undefined" || typeof Worker === "undefined" || localStorage.getItem("orthavis.core") === "server") return;
  try {
    const module = await WebAssembly.compileStreaming(fetch("/core.wasm"));
    const broken = (why: string) => settle({ core: lines ? "page" : "server", trouble: `The core in the page stopped (${why}) and was started anew.` });
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
  alone = true;
  settle({ core: "page" });
}

const lineOf = (name: string) => (QUICK.includes(name) ? lines?.quick : LONG.includes(name) ? lines?.long : undefined);

/** Answers an operation in the page; `null` where it cannot, and the server is to be asked. */
export async function askHere(name: string, request: Uint8Array, signal?: AbortSignal): Promise<Answered | null> {
  const line = lineOf(name);
  if (!line) return null;
  const long = line === lines?.long;
  const callOff = () => long && line.callOff(name);
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

const refused = new Set<() => void>();

/** Hears of a request that the server did not take from this browser. */
export function onRefused(listener: () => void): () => void {
  refused.add(listener);
  return () => void refused.delete(listener);
}

async function overNetwork(...request: Parameters<typeof fetch>): Promise<Response> {
  const response = await fetch(...request);
  if (response.status === 401 || response.status === 403) for (const listener of refused) listener();
  return response;
}

/** `fetch` for the client of the API. */
export async function transport(request: Request): Promise<Response> {
  const path = new URL(request.url).pathname;
  const name = path.startsWith(PREFIX) ? path.slice(PREFIX.length) : "";
  if (alone && name === "reference") return responseOf(name, (await lines!.quick.ask(name, new TextEncoder().encode("{}")))!);
  if (request.method !== "POST" || !lineOf(name)) return overNetwork(request);
  const body = await request.arrayBuffer();
  const answered = await askHere(name, new Uint8Array(body.slice(0)), request.signal);
  if (!answered) return overNetwork(request.url, { method: request.method, headers: request.headers, body, signal: request.signal });
  return responseOf(name, answered);
}

/** The response that the server would give. */
function responseOf(name: string, answered: Answered): Response {
  const kind = answered.status !== 200 ? "application/problem+json" : CSV.includes(name) ? "text/csv; charset=utf-8; header=present" : "application/json";
  return new Response(answered.answer as Uint8Array<ArrayBuffer>, { status: answered.status, headers: { "content-type": kind } });
}
