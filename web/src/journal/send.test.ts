import { expect, test } from "vitest";
import type { JournalEvent, Problem } from "../api/client";

const event = (id: string) => ({ id, kind: "note", at: "2026-11-27T10:00:00+00:00", data: { text: id } }) as unknown as JournalEvent;

/** A journal that takes all of a batch or nothing, and some events never. */
async function journal(refuses: (id: string) => number) {
  const { ApiProblem } = await import("../api/client");
  const { sendEvents } = await import("./send");
  const [taken, asked] = [new Set<string>(), [] as string[]];
  const post = async (events: readonly JournalEvent[]) => {
    asked.push(events.map(({ id }) => id).join(" "));
    for (const { id } of events) {
      const status = refuses(id);
      if (status !== 200) throw new ApiProblem({ type: "x", title: "No", status, detail: `${id} is not taken` } as Problem);
    }
    events.forEach(({ id }) => taken.add(id));
  };
  return { taken, asked, send: (...ids: string[]) => sendEvents(ids.map(event), post) };
}

test("events that wait go in one batch", async () => {
  const { taken, asked, send } = await journal(() => 200);
  await send();
  await send("a", "b", "c");
  expect([[...taken], asked]).toEqual([["a", "b", "c"], ["a b c"]]);
});

for (const status of [409, 422])
  test(`an event that the journal never takes (${status}) takes none of the others with it`, async () => {
    const { taken, asked, send } = await journal((id) => (id === "b" ? status : 200));
    await send("a", "b", "c");
    expect([[...taken], asked]).toEqual([
      ["a", "c"],
      ["a b c", "a b", "a", "b", "c"],
    ]);
    // By itself it is asked once, and let go.
    await send("b");
    expect(asked.at(-1)).toBe("b");
  });

for (const status of [0, 401, 403, 429, 500, 503])
  test(`what stands in the way for now (${status}) lets nothing go`, async () => {
    const { taken, asked, send } = await journal(() => status);
    await expect(send("a", "b")).rejects.toThrow("a is not taken");
    expect([taken.size, asked]).toEqual([0, ["a b"]]);
    // Also in the middle of sending one by one.
    const later = await journal((id) => (id === "b" ? 422 : id === "c" ? status : 200));
    await expect(later.send("a", "b", "c")).rejects.toThrow("c is not taken");
    expect([...later.taken]).toEqual(["a"]);
  });

test("a build that is gone takes nothing, and nothing waits for it", async () => {
  const { taken, asked, send } = await journal(() => 404);
  await send("a", "b");
  expect([taken.size, asked]).toEqual([0, ["a b"]]);
});
