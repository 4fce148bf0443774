/**
 * Starts the page where its server does not answer. What is kept is all of one version: a page, its scripts and its core come
 * from the same keeping or none of them does, so that no page meets a core of another version.
 */
const KEPT = `orthavis-${VERSION}`;
/** What the server answered last, for looking at while it is away. */
const LAST = "orthavis-answers";
/** Answers kept at most; the oldest goes first. */
const MOST = 400;
const API = "/api/v1/";
const ME = "/api/v1/me";
const JOBS = "/api/v1/jobs";
/** Set on every answer of the server: which workshop it is. */
const WORKSHOP = "x-orthavis-workshop";
/** Set on an answer that is not of this moment: when it was. */
const OF = "x-orthavis-of";

self.addEventListener("install", (event) => {
  event.waitUntil(
    (async () => {
      const kept = await caches.open(KEPT);
      await kept.addAll(FILES.map((file) => new Request(file, { cache: "no-cache" })));
      // Between two files the server may have become another one.
      const page = await (await kept.match("/")).text();
      if (page.includes(`name="orthavis-version" content="${PAGE}"`)) return;
      await caches.delete(KEPT);
      throw new Error("another version was put in place meanwhile");
    })(),
  );
});

/** A page of this version says that none of another is open. */
self.addEventListener("message", (event) => {
  if (event.data === PAGE) event.waitUntil(self.skipWaiting());
});

/** Nobody looks at an older version any more once this one is active. */
self.addEventListener("activate", (event) => {
  event.waitUntil(
    caches.keys().then((names) => {
      const old = names.filter((name) => name.startsWith("orthavis-") && name !== KEPT && name !== LAST);
      return Promise.all(old.map((name) => caches.delete(name)));
    }),
  );
});

/** Of this moment where the server answers, else as it was answered last. */
async function answered(request) {
  let last = await caches.open(LAST);
  try {
    const response = await fetch(request);
    const kind = response.headers.get("content-type") ?? "";
    if (response.status !== 200 || !kind.startsWith("application/json")) return response;
    // Every page begins by asking who it is: of another workshop at this address nothing is to be mixed with this one's.
    if (new URL(request.url).pathname === ME) {
      const before = await last.match(ME);
      if (before && before.headers.get(WORKSHOP) !== response.headers.get(WORKSHOP)) {
        await caches.delete(LAST);
        last = await caches.open(LAST);
      }
    }
    const headers = new Headers(response.headers);
    headers.set(OF, new Date().toISOString());
    await last.put(request, new Response(await response.clone().arrayBuffer(), { headers }));
    const known = await last.keys();
    await Promise.all(known.slice(0, Math.max(0, known.length - MOST)).map((old) => last.delete(old)));
    return response;
  } catch (error) {
    const known = await last.match(request);
    if (known) return known;
    throw error;
  }
}

/** The page: the server's own, which may be newer, and what is kept of it where there is none. */
async function page(request) {
  try {
    return await fetch(request);
  } catch (error) {
    const known = await (await caches.open(KEPT)).match("/");
    if (known) return known;
    throw error;
  }
}

/** A file by its very address, version and all; what is not kept here is another version's, and the server's. */
async function file(request) {
  return (await (await caches.open(KEPT)).match(request)) ?? fetch(request);
}

self.addEventListener("fetch", (event) => {
  const { request } = event;
  const { origin, pathname } = new URL(request.url);
  if (request.method !== "GET" || origin !== self.location.origin) return;
  if (pathname.startsWith(API)) {
    // What is opened as a page of its own, as a download is, is the server's alone; so is long work, which whoever leaves calls off.
    if (request.mode !== "navigate" && !pathname.startsWith(JOBS)) event.respondWith(answered(request));
  } else if (request.mode === "navigate") event.respondWith(page(request));
  else event.respondWith(file(request));
});
