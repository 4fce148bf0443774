import { expect, test } from "vitest";
import type { Build, Problem, StoredBuild } from "../api/client";
import type { Saver } from "./saver";

/** A clock that only the test moves. */
class Clock {
  private now = 0;
  private number = 0;
  private readonly due = new Map<number, { at: number; what: () => void }>();

  readonly set = (what: () => void, ms = 0) => {
    this.due.set(++this.number, { at: this.now + ms, what });
    return this.number;
  };

  readonly clear = (id?: number) => void (id !== undefined && this.due.delete(id));

  /** Lets so much time go by; `quiet` is awaited after everything that came due. */
  async pass(ms: number, quiet: () => Promise<void>) {
    const until = this.now + ms;
    for (;;) {
      await quiet();
      const [next] = [...this.due].filter(([, one]) => one.at <= until).sort((a, b) => a[1].at - b[1].at || a[0] - b[0]);
      if (!next) break;
      this.due.delete(next[0]);
      this.now = next[1].at;
      next[1].what();
    }
    this.now = until;
  }
}

/** The workshop as far as one build goes. */
class Workshop {
  stored = stored(1, document(0));
  does: "answers" | "is away" | "breaks" | "refuses" = "answers";

  take(text: string): StoredBuild {
    return (this.stored = stored(this.stored.revision + 1, JSON.parse(text) as Build));
  }

  readonly fetch = async (request: Request): Promise<Response> => {
    const say = (status: number, body: object) => new Response(JSON.stringify(body), { status, headers: { "content-type": "application/json" } });
    const problem = (status: number, more: Partial<Problem> = {}) => say(status, { type: "x", title: "No", status, detail: "Not like this.", ...more });
    if (this.does === "is away") throw new TypeError("fetch failed");
    if (this.does === "breaks") return problem(500);
    if (this.does === "refuses") return problem(422);
    if (request.headers.get("if-match") !== `"${this.stored.revision}"`) return problem(412, { current: this.stored });
    return say(200, this.take(await request.text()));
  };
}

const document = (number: number) => ({ format: "orthavis.build/1", name: `build ${number}` }) as unknown as Build;
const stored = (revision: number, document: Build) => ({ id: 7, revision, document, saved_at: `at ${revision}` }) as unknown as StoredBuild;

/** What the page stands in, as far as saving needs it; taken away again afterwards. */
async function inPage<T>(
  what: (at: { open: () => Saver; workshop: Workshop; drafts: Map<string, string>; pass: (ms: number) => Promise<void> }) => Promise<T>,
): Promise<T> {
  const own = globalThis as unknown as Record<string, unknown>;
  const names = ["setTimeout", "clearTimeout", "fetch", "Request", "localStorage", "addEventListener", "removeEventListener"];
  const before = names.map((name) => own[name]);
  const { Request: Plain, setImmediate: turn } = globalThis;
  const [clock, workshop, drafts] = [new Clock(), new Workshop(), new Map<string, string>()];
  let saver: Saver | undefined;
  const quiet = async () => {
    do await new Promise<void>((done) => turn(done));
    while (saver?.now().save.kind === "saving");
  };
  try {
    own.Request = class extends Plain {
      constructor(input: string | URL | Request, init?: RequestInit) {
        super(typeof input === "string" && input.startsWith("/") ? `http://workshop${input}` : input, init);
      }
    };
    // The client keeps the classes that it finds when it is made.
    const { Saver: Made } = await import("./saver");
    Object.assign(own, { setTimeout: clock.set, clearTimeout: clock.clear, fetch: workshop.fetch, addEventListener: () => {}, removeEventListener: () => {} });
    own.localStorage = {
      getItem: (key: string) => drafts.get(key) ?? null,
      setItem: (key: string, value: string) => void drafts.set(key, value),
      removeItem: (key: string) => void drafts.delete(key),
    };
    return await what({ open: () => (saver = new Made(workshop.stored)), workshop, drafts, pass: (ms) => clock.pass(ms, quiet) });
  } finally {
    names.forEach((name, at) => (before[at] === undefined ? delete own[name] : (own[name] = before[at])));
  }
}

test("an edit is kept in the browser at once and saved after a pause", () =>
  inPage(async ({ open, workshop, drafts, pass }) => {
    const saver = open();
    const stop = saver.start(true);
    expect(saver.now()).toMatchObject({ save: { kind: "saved" }, revision: 1 });
    saver.edited(document(1));
    expect(saver.now().save.kind).toBe("unsaved");
    await pass(50);
    expect(drafts.size, "written before it is saved").toBe(1);
    // Whoever types on is not interrupted.
    saver.edited(document(2));
    await pass(290);
    expect(workshop.stored.revision).toBe(1);
    await pass(20);
    expect(workshop.stored).toMatchObject({ revision: 2, document: document(2) });
    expect(saver.now()).toMatchObject({ save: { kind: "saved" }, revision: 2, savedAt: "at 2" });
    expect(drafts.size, "nothing is left behind").toBe(0);
    stop();
  }));

test("what the workshop does not take is tried again, and a refused edit once it is another", () =>
  inPage(async ({ open, workshop, pass }) => {
    const saver = open();
    saver.start(true);
    for (const [does, kind] of [
      ["is away", "away"],
      ["breaks", "failed"],
    ] as const) {
      workshop.does = does;
      saver.edited(document(workshop.stored.revision));
      await pass(400);
      expect(saver.now().save.kind).toBe(kind);
      workshop.does = "answers";
      await pass(2500);
      expect(saver.now().save.kind, "not all the time").toBe(kind);
      await pass(600);
      expect(saver.now().save.kind).toBe("saved");
    }
    workshop.does = "refuses";
    saver.edited(document(8));
    await pass(400);
    expect(saver.now().save).toMatchObject({ kind: "refused", problem: { detail: "Not like this." } });
    workshop.does = "answers";
    await pass(60_000);
    expect(saver.now().save.kind, "the same again would be refused again").toBe("refused");
    saver.edited(document(9));
    await pass(400);
    expect(workshop.stored.document).toEqual(document(9));
  }));

test("an edit made while the one before is refused is saved", () =>
  inPage(async ({ open, workshop, pass }) => {
    const saver = open();
    saver.start(true);
    workshop.does = "refuses";
    saver.edited(document(1));
    await pass(400);
    expect(saver.now().save.kind).toBe("refused");
    // And now the answer comes after the next edit.
    let answers = () => {};
    const late = new Promise<void>((done) => (answers = done));
    const answer = workshop.fetch;
    globalThis.fetch = async (request) => {
      workshop.does = "refuses";
      const refusal = await answer(request as Request);
      await late;
      return refusal;
    };
    saver.edited(document(3));
    const slow = pass(300);
    while (saver.now().save.kind !== "saving") await new Promise<void>((done) => setImmediate(done));
    saver.edited(document(4));
    globalThis.fetch = answer as typeof fetch;
    workshop.does = "answers";
    answers();
    await slow;
    await pass(400);
    expect([saver.now().save.kind, workshop.stored.document]).toEqual(["saved", document(4)]);
  }));

test("what was saved elsewhere is never written over unasked", () =>
  inPage(async ({ open, workshop, drafts, pass }) => {
    const saver = open();
    saver.start(true);
    workshop.take(JSON.stringify(document(50)));
    saver.edited(document(1));
    await pass(60_000);
    expect(saver.now().save).toMatchObject({ kind: "stale", theirs: { document: document(50) } });
    // Typing on does not change that.
    saver.edited(document(2));
    await pass(60_000);
    expect([saver.now().save.kind, workshop.stored.document]).toEqual(["stale", document(50)]);
    // Neither does opening it anew.
    const again = open();
    expect(again.recovered).toEqual(document(2));
    expect(again.now().save.kind).toBe("stale");
    again.start(true);
    again.keepMine();
    await pass(0);
    expect([again.now().save.kind, workshop.stored.document, drafts.size]).toEqual(["saved", document(2), 0]);
  }));

test("a device that may only look keeps what is tried on it", () =>
  inPage(async ({ open, workshop, drafts, pass }) => {
    const saver = open();
    saver.start(false);
    saver.edited(document(1));
    await pass(60_000);
    expect([saver.now().save.kind, workshop.stored.revision, drafts.size]).toEqual(["local", 1, 1]);
    saver.start(true);
    await pass(400);
    expect([saver.now().save.kind, workshop.stored.document]).toEqual(["saved", document(1)]);
  }));

/** The same numbers every time. */
function dice(seed: number) {
  let state = seed;
  return (sides: number) => {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
    return Math.floor((state / 2 ** 32) * sides);
  };
}

test("whatever happens, nothing that was typed is lost", async () => {
  for (let seed = 1; seed <= Number(process.env.ORTHAVIS_SEEDS ?? 150); seed++)
    await inPage(async ({ open, workshop, pass }) => {
      const roll = dice(seed);
      const told: string[] = [];
      let saver = open();
      let stop = saver.start(true);
      let typed = document(0);
      for (let turn = 1; turn <= 30; turn++) {
        const what = roll(10);
        told.push(String(what));
        if (what < 4) saver.edited((typed = document(turn)));
        else if (what < 6) await pass(roll(4000));
        else if (what === 6) workshop.does = (["answers", "is away", "breaks", "refuses"] as const)[roll(4)]!;
        else if (what === 7) workshop.take(JSON.stringify(document(1000 + turn)));
        else if (what === 8) saver.keepMine();
        else {
          // The page is closed and opened again.
          await pass(0);
          stop();
          saver = open();
          stop = saver.start(true);
          const here = saver.recovered ?? workshop.stored.document;
          const taken = saver.recovered === null && JSON.stringify(workshop.stored.document) !== JSON.stringify(typed);
          // Somebody else's is there only after what was typed here had been saved.
          if (taken) typed = workshop.stored.document;
          expect(here, `seed ${seed}: ${told.join(" ")}`).toEqual(typed);
        }
      }
      workshop.does = "answers";
      // A refused document is looked at anew once it is another.
      saver.edited((typed = document(99)));
      await pass(10_000);
      // Once for each that was saved elsewhere: what nobody has seen yet is asked about again.
      for (let asked = 0; asked < 2; asked++) {
        saver.keepMine();
        await pass(10_000);
      }
      expect([saver.now().save.kind, workshop.stored.document], `seed ${seed}: ${told.join(" ")}`).toEqual(["saved", typed]);
      stop();
    });
});
