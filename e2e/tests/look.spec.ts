import { readFileSync } from "node:fs";
import { expect, step, test } from "./workshop";

/** What a build looks like: its light in figures, its vehicle from all sides, names that can be read. */

type Page = import("@playwright/test").Page;

async function open(page: Page, name: string) {
  await page.goto("/");
  await page.getByRole("link", { name, exact: true }).click();
}

const editor = (page: Page) => page.getByRole("region", { name: "Look", exact: true });
const card = (page: Page, light: string) =>
  editor(page)
    .locator("article")
    .filter({ has: page.getByRole("button", { name: new RegExp(`^${light}`) }) });

/** Metres in a text like `seen 2100 m, noticed 76 m`. */
const seen = async (page: Page, light: string) => Number(/seen ([\d.]+) (k?)m/.exec((await card(page, light).textContent()) ?? "")?.[1] ?? "0");

test("a rider learns from how far a light is seen, and makes it half as bright", async ({ page }) => {
  await open(page, "Book-delivery trike");
  await step(page, "Look");
  const first = editor(page).locator("article header button").filter({ hasText: "noticed" }).first();
  const light = (await first.textContent())!.split("seen")[0]!.trim();
  await expect(card(page, light)).toContainText("noticed");
  const inStreet = await seen(page, light);
  await editor(page).getByRole("radio", { name: "dark country" }).click();
  await expect.poll(() => seen(page, light)).not.toBe(inStreet);
  await card(page, light)
    .getByRole("button", { name: new RegExp(`^${light}`) })
    .click();
  await card(page, light).getByRole("combobox", { name: "It is for" }).selectOption({ label: "Being seen" });
  // Each figure tells how it came about.
  await card(page, light)
    .getByRole("button", { name: /^Seen from: / })
    .click();
  await expect(page.getByRole("dialog")).toContainText("Allard");
  await page.keyboard.press("Escape");
  await card(page, light).getByRole("button", { name: "How bright it should look" }).click();
  await expect(card(page, light)).toContainText("Dim it to");
  const way = card(page, light).getByRole("listitem").filter({ hasText: "Dim it to" });
  await expect(way).toContainText(/Looks (49|50|51) % as bright/);
});

test("a diffuser is moved until single points are a line", async ({ page }) => {
  await open(page, "Trail deck");
  await step(page, "Look");
  const row = editor(page).locator("article").filter({ hasText: "single points; from" }).first();
  const light = (await row.locator("header button").textContent())!.split(/seen|dark/)[0]!.trim();
  await card(page, light)
    .getByRole("button", { name: new RegExp(`^${light}`) })
    .click();
  await card(page, light).getByRole("button", { name: "Add a diffuser" }).click();
  const distance = card(page, light).getByRole("textbox", { name: "Distance to the LEDs" });
  await distance.fill("6 mm");
  await expect(card(page, light)).toContainText("points show through the diffuser");
  await expect(page.getByRole("complementary").or(page.getByRole("region", { name: "Verdict" }))).toContainText("single points show");
  // What cannot be is said beside the field, and what was there stays in force.
  await distance.fill("-3 mm");
  await expect(card(page, light)).toContainText("Give more than 0");
  const slide = card(page, light).getByRole("slider", { name: "Distance to the LEDs: slide" });
  await slide.focus();
  await page.keyboard.press("End");
  await expect(card(page, light)).toContainText("one even line");
  await card(page, light).getByRole("textbox", { name: "Half angle", exact: true }).fill("0");
  await expect(card(page, light)).toContainText("Give more than 0");
  await card(page, light).getByRole("textbox", { name: "Half angle", exact: true }).fill("95");
  await expect(card(page, light)).toContainText("Give at most 90");
});

test("a vehicle is seen from all sides", async ({ page }) => {
  await open(page, "Choir singer's chair");
  const drawing = page.getByRole("region", { name: "The build" });
  for (const from of ["behind", "above", "beside"]) {
    await drawing.getByRole("radio", { name: from }).click();
    await expect(drawing.getByRole("heading").first()).toContainText(from === "beside" ? "right side" : `from ${from}`);
    expect(await drawing.locator("svg g[aria-hidden] path").count()).toBeGreaterThan(3);
  }
});

test("the picture takes the room it deserves: the verdict folds, and opens for a danger that is new", async ({ page }) => {
  await open(page, "Firefly bicycle");
  const verdict = page.getByRole("region", { name: "Verdict" });
  const drawing = page.getByRole("region", { name: "The build" });
  await expect(verdict).toContainText("No problems found");
  const wide = async () => (await drawing.boundingBox())!.width;
  const before = await wide();
  await verdict.getByRole("button", { name: "Fold the verdict" }).click();
  await expect.poll(wide).toBeGreaterThan(before + 100);
  await page.reload();
  await expect(verdict.getByRole("button", { name: "Show all of the verdict" })).toBeVisible();
  // The line between vehicle and river moves by keys, too, and stays where it was put.
  const line = page.getByRole("separator", { name: /Line between the vehicle and the river/ });
  const high = async () => (await drawing.locator("svg[role=group]").first().boundingBox())!.height;
  const low = await high();
  await line.focus();
  for (let press = 0; press < 4; press++) await page.keyboard.press("ArrowDown");
  await expect.poll(high).toBeGreaterThan(low + 20);
  const put = await line.getAttribute("aria-valuenow");
  await page.reload();
  await expect(line).toHaveAttribute("aria-valuenow", put!);
  // A battery of many more volts is a danger to the lights, and new.
  await step(page, "Battery");
  await page.getByLabel("Cells in series").fill("20");
  await expect(verdict.getByRole("button", { name: "Fold the verdict" })).toBeVisible();
  await expect(verdict).toContainText("Not safe to build yet");
});

/** Names that cover each other or a light, by their boxes on the screen. */
const covered = () => {
  const svg = document.querySelector("section.scene svg[role=group]");
  if (!svg) return ["no drawing"];
  const inner = (box: DOMRect, by: number) => ({ left: box.left + by, right: box.right - by, top: box.top + by, bottom: box.bottom - by });
  const names = Array.from(svg.querySelectorAll("text")).map((text) => ({ text: text.textContent ?? "", box: inner(text.getBoundingClientRect(), 2) }));
  const lamps = Array.from(svg.querySelectorAll("g[aria-label]")).map((lamp) => {
    const dots = Array.from(lamp.querySelectorAll("circle"));
    return { text: lamp.getAttribute("aria-label") ?? "", box: inner(dots.at(-1)?.getBoundingClientRect() ?? new DOMRect(), 1) };
  });
  const found: string[] = [];
  names.forEach((name, index) => {
    for (const other of [...names.slice(index + 1), ...lamps]) {
      const [a, b] = [name.box, other.box];
      if (a.left < b.right && b.left < a.right && a.top < b.bottom && b.top < a.bottom) found.push(`${name.text} over ${other.text}`);
    }
  });
  return found;
};

test("names on the drawings cover neither each other nor a light, on every sample and screen", async ({ page }) => {
  await page.goto("/");
  await expect(page.getByRole("link", { name: "Trail deck" })).toBeVisible();
  const builds = await page.locator("a[href^='/builds/']").evaluateAll((links) => [...new Set(links.map((link) => link.getAttribute("href")!.split("?")[0]!))]);
  expect(builds.length).toBeGreaterThan(6);
  for (const build of builds) {
    await page.goto(`${build}?step=battery`);
    await expect(page.locator("section.scene svg[role=group] g[aria-hidden] path").first()).toBeAttached();
    for (const [width, height] of [
      [1280, 800],
      [1920, 1080],
      [390, 844],
    ] as const) {
      await page.setViewportSize({ width, height });
      for (const from of ["beside", "behind", "above"]) {
        const choice = page.locator("section.scene").getByRole("radio", { name: from });
        if (await choice.isVisible()) await choice.click();
        await expect.poll(() => page.evaluate(covered), { timeout: 3000, message: `${build} from ${from} at ${width}` }).toEqual([]);
      }
    }
  }
});

const night = (page: Page, name: RegExp | string) => page.getByRole("region", { name: "At night" }).getByRole("img", { name });

/** How light a picture is in the mean, 0 to 255, and a text that changes with it. */
const pixels = (page: Page, name: RegExp | string) =>
  night(page, name).evaluate((canvas: HTMLCanvasElement) => {
    const plain = document.createElement("canvas");
    [plain.width, plain.height] = [canvas.width, canvas.height];
    const context = plain.getContext("2d")!;
    context.drawImage(canvas, 0, 0);
    const { data } = context.getImageData(0, 0, plain.width, plain.height);
    let sum = 0;
    let mixed = 0;
    for (let at = 0; at < data.length; at += 4) {
      sum += data[at]! + data[at + 1]! + data[at + 2]!;
      mixed = (31 * mixed + data[at]! + 7 * data[at + 1]!) | 0;
    }
    return { mean: sum / (0.75 * data.length), mixed };
  });

test("a rider sees the deck at night, beside itself at reserve, and keeps the picture", async ({ page }) => {
  await open(page, "Trail deck");
  await step(page, "Look");
  const name = /Trail deck at night: lit street, behind/;
  await expect(night(page, name)).toBeVisible();
  const near = await pixels(page, name);
  expect(near.mean).toBeGreaterThan(10);
  await page.getByRole("radio", { name: "Dark country", exact: true }).click();
  await page.getByRole("radio", { name: "Driver 10 m behind" }).click();
  await expect(night(page, /dark country, driver 10 m behind/)).toBeVisible();
  // What is far is small, and what surrounds it is dark.
  await expect.poll(async () => (await pixels(page, /driver 10 m/)).mean).toBeLessThan(0.7 * near.mean);
  await page.getByRole("combobox", { name: "Compare with" }).selectOption({ label: "reserve" });
  const line = page.getByRole("slider", { name: "Line between full and reserve" });
  await expect(line).toHaveAttribute("aria-valuenow", "50");
  await line.press("ArrowRight");
  await line.press("ArrowRight");
  await expect(line).toHaveAttribute("aria-valuetext", "54 % full, 46 % reserve");
  await expect(night(page, /driver 10 m behind: reserve/)).toBeVisible();
  const leaving = page.waitForEvent("download");
  await page.getByRole("button", { name: "Save the picture" }).click();
  const file = await leaving;
  expect(file.suggestedFilename()).toBe("trail-deck-at-night.png");
  const head = readFileSync(await file.path()).subarray(0, 8);
  expect([...head]).toEqual([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]);
});

test("a show plays in the night when it is asked to, and stands still before", async ({ page }) => {
  await open(page, "Owl-count hexacopter");
  await step(page, "Look");
  const name = /hexacopter at night/;
  await expect(night(page, name)).toBeVisible();
  const still = await pixels(page, name);
  expect((await pixels(page, name)).mixed).toBe(still.mixed);
  await page.getByRole("button", { name: "Play", exact: true }).click();
  await expect.poll(async () => (await pixels(page, name)).mixed).not.toBe(still.mixed);
  await page.getByRole("button", { name: "Hold still" }).click();
  await expect.poll(async () => (await pixels(page, name)).mixed).toBe(still.mixed);
});
