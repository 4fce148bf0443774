import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { holdPhoto, photoOf, sendPhotos } from "./photos";

const store = new Map<string, string>();
let room = true;
/** The browser's own database, as far as it is used here. */
vi.mock("idb-keyval", () => ({
  get: (key: string) => Promise.resolve(store.get(key)),
  keys: () => Promise.resolve([...store.keys()]),
  del: (key: string) => Promise.resolve(void store.delete(key)),
  set: (key: string, value: string) => (room ? Promise.resolve(void store.set(key, value)) : Promise.reject(new DOMException("", "QuotaExceededError"))),
}));
const address = (bytes: string) => `data:image/jpeg;base64,${btoa(bytes)}`;
let sent: [string, string][];
/** What the server says to each picture, by its event. */
let says: Record<string, number>;

beforeEach(() => {
  store.clear();
  [sent, says, room] = [[], {}, true];
  vi.stubGlobal("fetch", (url: string, { body }: { body: Uint8Array }) => {
    const event = url.split("/").at(-1)!;
    sent.push([url, new TextDecoder().decode(body)]);
    const status = says[event] ?? 204;
    return Promise.resolve({ ok: status < 300, status, json: () => Promise.resolve({ type: "busy", title: "Busy", status, detail: "It is busy." }) });
  });
});
afterEach(() => vi.unstubAllGlobals());

test("a picture is shown from here while it waits, and from the server once it is sent", async () => {
  await holdPhoto(3, "a", address("joint"));
  expect(await photoOf(3, "a")).toBe(address("joint"));
  await sendPhotos(3);
  expect(sent).toEqual([["/api/v1/builds/3/photos/a", "joint"]]);
  expect([await photoOf(3, "a"), store.size]).toEqual(["/api/v1/builds/3/photos/a", 0]);
});

test("what the server will never take is let go, and what it cannot take now waits", async () => {
  for (const event of ["a", "b", "c"]) await holdPhoto(3, event, address(event));
  says = { a: 422, b: 503 };
  await expect(sendPhotos(3)).rejects.toThrow("It is busy.");
  expect(sent.map(([, bytes]) => bytes)).toEqual(["a", "b"]);
  // Another build's pictures are apart.
  await holdPhoto(4, "d", address("d"));
  says = {};
  sent = [];
  await sendPhotos(3);
  expect([sent.map(([, bytes]) => bytes), await photoOf(4, "d")]).toEqual([["b", "c"], address("d")]);
});

test("a browser without room says so, and the note is not written without its picture", async () => {
  room = false;
  await expect(holdPhoto(3, "a", address("a"))).rejects.toThrow("no room for the picture");
  expect(await photoOf(3, "a")).toBe("/api/v1/builds/3/photos/a");
});
