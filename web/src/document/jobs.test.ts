import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { type Task, api } from "../api/client";
import { type Progress, work } from "./jobs";

/** Events of a job, as the test sends them. */
class Events {
  static last: Events;
  static CLOSED = 2;
  readyState = 1;
  onerror: () => void = () => undefined;
  private heard: (event: { data: string }) => void = () => undefined;
  constructor(readonly url: string) {
    Events.last = this;
  }
  addEventListener(_: string, heard: (event: { data: string }) => void) {
    this.heard = heard;
  }
  close() {
    this.readyState = Events.CLOSED;
  }
  say(job: object) {
    this.heard({ data: JSON.stringify(job) });
  }
}

const task = { kind: "mend", document: {}, and_fixes: true } as unknown as Task;
let ended: string[];
let progress: Progress[];

beforeEach(() => {
  [ended, progress] = [[], []];
  vi.stubGlobal("EventSource", Events);
  vi.spyOn(api, "POST").mockResolvedValue({ data: { id: "7" }, response: new Response() } as never);
  vi.spyOn(api, "DELETE").mockImplementation(((path: string) => {
    ended.push(path);
    return Promise.resolve({});
  }) as never);
});
afterEach(() => vi.unstubAllGlobals());

const begun = async (signal: AbortSignal) => {
  const found = work(task, signal, (one) => progress.push(one));
  found.catch(() => undefined);
  await vi.waitFor(() => expect(Events.last?.readyState).toBe(1));
  return found;
};
const start = (signal = new AbortController().signal) => {
  Events.last = undefined as unknown as Events;
  const found = begun(signal);
  return vi.waitFor(() => expect(Events.last).toBeDefined()).then(() => ({ found }));
};

test("long work is told of as it goes on, and its answer is what is waited for", async () => {
  const { found } = await start();
  expect(Events.last.url).toBe("/api/v1/jobs/7/events");
  Events.last.say({ state: "running", done: 2, of: 9 });
  Events.last.say({ state: "done", answer: { applied: [] } });
  await expect(found).resolves.toEqual({ applied: [] });
  expect([progress.map(({ done, of }) => [done, of]), Events.last.readyState]).toEqual([[[2, 9]], Events.CLOSED]);
});

test("a refusal, a lost connection and a search that is called off are told apart", async () => {
  const { found: refused } = await start();
  Events.last.say({ state: "failed", problem: { type: "document", title: "No", status: 422, detail: "It has no source." } });
  await expect(refused).rejects.toThrow("It has no source.");
  const { found: lost } = await start();
  // While the browser tries again by itself nothing is lost.
  Events.last.onerror();
  Events.last.readyState = Events.CLOSED;
  Events.last.onerror();
  await expect(lost).rejects.toThrow("lost on the way");
  const calling = new AbortController();
  const { found: off } = await start(calling.signal);
  calling.abort();
  await expect(off).rejects.toThrow("called off");
  expect(ended).toEqual(["/api/v1/jobs/{job}"]);
});
