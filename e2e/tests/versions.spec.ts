import { type ChildProcess, spawn } from "node:child_process";
import { appendFileSync, cpSync, mkdtempSync, readFileSync, statSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { createInterface } from "node:readline";
import type { Page } from "@playwright/test";
import { expect, step, test } from "./workshop";

/** A page that starts without its server, and two versions in a row: no page meets a core of another version. */

test.use({ serviceWorkers: "allow" });

const folder = mkdtempSync(join(tmpdir(), "orthavis-versions-"));
const built = new URL("../../web/dist", import.meta.url).pathname;

/** A page as it was built, and another version of it with another core. */
function versionOf(name: string, next: boolean): string {
  const place = join(folder, name);
  cpSync(built, place, { recursive: true });
  if (next) {
    const index = join(place, "index.html");
    writeFileSync(index, readFileSync(index, "utf8").replace("<title>Orthavis</title>", "<title>Orthavis, the next</title>"));
    // A section that no engine reads: id 0, five bytes, a name of four.
    appendFileSync(join(place, "core.wasm"), Buffer.from([0, 5, 4, ...Buffer.from("next")]));
  }
  return place;
}

const bytesOf = (place: string) => statSync(join(place, "core.wasm")).size;

class Server {
  private constructor(
    private readonly child: ChildProcess,
    readonly port: string,
  ) {}

  static async of(place: string, port = "0"): Promise<Server> {
    const child = spawn(process.env.ORTHAVIS_BIN!, ["demo", "--db", join(folder, "builds.db"), "--port", port, "--page", place], {
      stdio: ["ignore", "pipe", "inherit"],
      env: { ...process.env, RUST_LOG: "warn" },
    });
    for await (const line of createInterface(child.stdout!)) {
      const at = /http:\/\/127\.0\.0\.1:(\d+)/.exec(line);
      if (at) return new Server(child, at[1]!);
    }
    throw new Error("the server said no address");
  }

  async stop() {
    const over = new Promise((settle) => this.child.once("exit", settle));
    this.child.kill("SIGTERM");
    await over;
  }
}

/** The version of an open page, and the bytes of the core that it would be given. */
const pair = (page: Page) =>
  page.evaluate(async () => {
    const version = document.querySelector<HTMLMetaElement>('meta[name="orthavis-version"]')!.content;
    const core = await fetch(`/core.wasm?page=${version}`);
    // Before the last point stands what of the build is looked at.
    return { version, title: document.title.split(" · ").at(-1), bytes: core.ok ? (await core.arrayBuffer()).byteLength : 0 };
  });

/** Waits until all of this version is kept, and nothing of another. */
const kept = (page: Page) =>
  expect
    .poll(
      () =>
        page.evaluate(async () => {
          const { active, waiting, installing } = (await navigator.serviceWorker.getRegistration()) ?? {};
          return active?.state === "activated" && !waiting && !installing ? (await caches.keys()).filter((name) => !name.endsWith("answers")).length : 0;
        }),
      { timeout: 60_000 },
    )
    .toBe(1);

const here = (page: Page) => expect.poll(() => page.evaluate(() => document.documentElement.dataset.core)).toBe("page");

test("the page can be put on a home screen: its name, its colours, and pictures of the sizes that they say", async ({ page }) => {
  await page.goto("/");
  const link = await page.locator('link[rel="manifest"]').getAttribute("href");
  const manifest = (await (await page.request.get(link!)).json()) as {
    name: string;
    start_url: string;
    display: string;
    icons: { src: string; sizes: string; type: string; purpose: string }[];
  };
  expect(manifest).toMatchObject({ name: "Orthavis", start_url: "/", display: "standalone" });
  expect(manifest.icons.map((icon) => icon.purpose)).toContain("maskable");
  for (const { src, sizes, type } of manifest.icons) {
    expect((await page.request.get(src)).headers()["content-type"]).toBe(type);
    const size = await page.evaluate(async (address) => {
      const picture = new Image();
      picture.src = address;
      await picture.decode();
      return `${picture.naturalWidth}x${picture.naturalHeight}`;
    }, src);
    // A drawing is sharp at any size.
    expect(sizes === "any" ? "any" : size).toBe(sizes);
  }
});

test("the page starts without its server, and never with a core of another version", async ({ page, browser }) => {
  const [one, two] = [versionOf("one", false), versionOf("two", true)];
  let server = await Server.of(one);
  const at = `http://127.0.0.1:${server.port}`;
  await page.goto(at);
  await here(page);
  await kept(page);
  // What is looked at once is there later.
  await page.reload();
  await page.getByRole("link", { name: "Camp rover" }).click();
  await expect(page.getByRole("button", { name: /^Time of light/ })).toBeVisible();
  const first = await pair(page);
  expect(first.bytes).toBe(bytesOf(one));

  await server.stop();
  // The build's own address, where the first question is asked before the core is here.
  await page.reload();
  await expect(page.getByText("The server is not answering. What you see is as it was on")).toBeVisible();
  await expect(page.getByRole("button", { name: /^Time of light/ })).toBeVisible();
  await page.goto(at);
  await expect(page.getByText("The server is not answering. What you see is as it was on")).toBeVisible();
  await page.getByRole("link", { name: "Camp rover" }).click();
  await here(page);
  await step(page, "Battery");
  const light = page.getByRole("button", { name: /^Time of light/ });
  const before = await light.textContent();
  await page.getByLabel("Capacity", { exact: true }).fill("9");
  await expect(light).not.toHaveText(before!);
  expect(await pair(page)).toEqual(first);

  server = await Server.of(two, server.port);
  // The page that stayed open keeps its own core; who has none kept gets none, and the server answers.
  expect(await pair(page)).toEqual(first);
  const stranger = await browser.newContext({ serviceWorkers: "block" });
  const refused = await stranger.request.get(`${at}/core.wasm?page=${first.version}`);
  expect(refused.status()).toBe(404);
  await stranger.close();
  // What was typed while it was away is saved now.
  await expect(page.locator("[data-save]")).toHaveAttribute("data-save", "saved");

  const next = await page.context().newPage();
  await next.goto(at);
  const second = await pair(next);
  expect(second).toEqual({ version: expect.not.stringMatching(first.version), title: "Orthavis, the next", bytes: bytesOf(two) });
  await here(next);
  await expect.poll(() => next.evaluate(async () => !!(await navigator.serviceWorker.getRegistration())?.waiting), { timeout: 60_000 }).toBe(true);
  expect(await pair(page)).toEqual(first);
  // Once nobody looks at the first version any more, the second is what starts.
  await page.goto(at);
  await kept(next);
  await server.stop();
  await next.goto(at);
  expect(await pair(next)).toEqual(second);
  await here(next);
});
