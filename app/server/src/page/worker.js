
/**
 * Starts the page where its server does not answer. What is kept is all of one version: a page, its scripts and its core come
 * from the same keeping or none of them does, so that no page meets a core of another version.
 */
const KEPT = `orthavis-${VERSION}`;
/** What the server answered last, for looking at while it is away. */
const LAST = "orthavis-answers";
const API = "/api/v1/";
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

/** Nobody looks at an older version any more once this one is active. */
self.addEventListener("activate", (event) => {
  event.waitUntil(
    caches.keys().then((names) => Promise.all(names.filter((name) => name.startsWith("orthavis-") && name !== KEPT && name !== LAST).map((name) => caches.delete(name)))),
  );
});

/** Of this moment where the server answers, else as it was answered last. */
async function answered(request) {
  const last = await caches.open(LAST);
  try {
    const response = await fetch(request);
    const kind = response.headers.get("content-type") ?? "";
    if (response.status === 200 && kind.startsWith("application/json")) {
      const headers = new Headers(response.headers);
      headers.set(OF, new Date().toISOString());
      await last.put(request, new Response(await response.clone().arrayBuffer(), { headers }));
    }
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
  if (request.mode === "navigate") event.respondWith(page(request));
  else if (pathname.startsWith(API)) event.respondWith(answered(request));
  else event.respondWith(file(request));
});
