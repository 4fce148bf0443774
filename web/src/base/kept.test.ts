import { afterEach, expect, test, vi } from "vitest";
import { STORE_FULL, kept } from "./kept";

const said: string[] = [];
const stub = (store: unknown) => {
  said.length = 0;
  vi.stubGlobal("localStorage", store);
  vi.stubGlobal("window", { dispatchEvent: (event: Event) => said.push(event.type) });
};
const refusing = (name: string) => () => {
  throw new DOMException("", name);
};
afterEach(() => vi.unstubAllGlobals());

test("what is kept is there again, until it is dropped", () => {
  const store = new Map<string, string>();
  stub({
    getItem: (key: string) => store.get(key) ?? null,
    setItem: (key: string, text: string) => store.set(key, text),
    removeItem: (key: string) => store.delete(key),
  });
  kept.set("a", "1");
  expect(kept.get("a")).toBe("1");
  kept.drop("a");
  expect([kept.get("a"), said]).toEqual([null, []]);
});

test("a page without a store keeps nothing and says nothing; a full one is said", () => {
  const none = refusing("SecurityError");
  stub({ getItem: none, setItem: none, removeItem: none });
  kept.set("a", "1");
  kept.drop("a");
  expect([kept.get("a"), said]).toEqual([null, []]);
  stub({ getItem: () => "old", setItem: refusing("QuotaExceededError"), removeItem: none });
  kept.set("a", "1");
  expect([kept.get("a"), said]).toEqual(["old", [STORE_FULL]]);
});
