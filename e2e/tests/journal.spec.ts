import { readFileSync } from "node:fs";
import type { Download, Page } from "@playwright/test";
import { expect, saved, step, test } from "./workshop";

/** What happened, kept: written in a tap or two, read back, taken along and restored. */

const open = async (page: Page, name: string) => {
  await page.goto("/");
  await page.getByRole("link", { name, exact: true }).click();
  await step(page, "Use");
  await expect(page.getByRole("region", { name: "Next charge" })).toBeVisible();
};
const part = (page: Page, name: string) => page.getByRole("radio", { name, exact: true }).click();
const textOf = async (download: Download) => readFileSync(await download.path(), "utf8");
const entries = (page: Page) => page.getByRole("region", { name: /^\d+ entries$/ }).getByRole("listitem");

test("a ride in two taps, a charge as it is said, and what comes of them", async ({ page }) => {
  await open(page, "Book-delivery trike");
  const next = page.getByRole("region", { name: "Next charge" });
  const full = page.getByRole("button", { name: /^How full it is: / });
  // Charged by a line: full, and the day of the next one is told.
  const line = page.getByRole("textbox", { name: "Say what happened" });
  await line.fill("charged 36.4 to 42, 9.1 Ah");
  await expect(page.getByText("✓", { exact: false }).filter({ hasText: "36.4 V to 42 V, 9.1 Ah" })).toBeVisible();
  await line.press("Enter");
  await expect(full).toHaveText("100 %");
  await expect(next).not.toContainText("Charge now");
  // Out for as long as usual: two taps.
  await page.getByRole("button", { name: /^Out An/ }).click();
  await page.getByRole("button", { name: "Write it down" }).click();
  await expect(full).not.toHaveText("100 %");
  await part(page, "Entries");
  await expect(entries(page).first()).toContainText("min out");
  await expect(entries(page).nth(1)).toContainText("Charged from 36.4 to 42 V, 9.1 Ah");
  // What is not understood says how to write it, and stays as it was typed.
  await line.fill("ride 40 parsecs");
  await line.press("Enter");
  await expect(page.getByText("`40 parsecs` has no unit that is known here")).toBeVisible();
  await expect(line).toHaveValue("ride 40 parsecs");
  // The figure opens to how it came about.
  await part(page, "Now");
  await full.click();
  await expect(page.getByRole("dialog", { name: "Working" })).toContainText("From the last charge or rested voltage on");
});

test("what cannot be is asked about, and struck out without being lost", async ({ page }) => {
  await open(page, "Trail deck");
  await page.getByRole("button", { name: /^Charged/ }).click();
  await page.getByRole("textbox", { name: "Put in" }).fill("95");
  await page.getByRole("button", { name: "Write it down" }).click();
  const asked = page.getByRole("region", { name: "Asked about" });
  await expect(asked).toContainText("95 Ah went in, and a battery of 7.5 Ah takes");
  await expect(asked).toContainText("It is kept as it was written");
  await asked.getByRole("button", { name: /^Delete/ }).click();
  await expect(asked).toHaveCount(0);
  // Out as a file: both the entry and what strikes it out are in it.
  await part(page, "Entries");
  const [download] = await Promise.all([page.waitForEvent("download"), page.getByRole("button", { name: "JSON Lines" }).click()]);
  const lines = (await textOf(download)).trim().split("\n");
  const wrong = lines
    .map((text) => JSON.parse(text) as { id: string; data: { ah?: number; struck?: boolean }; replaces?: string })
    .filter((event) => event.data.ah === 95);
  expect(wrong).toHaveLength(2);
  expect(wrong.find((event) => event.replaces)?.data.struck).toBe(true);
  // In again: all is there already, a broken line is named, a good one beside it taken.
  const note = { id: "01900000-0000-7000-8000-00000000abcd", at: "2026-05-02T18:40:00+02:00", kind: "note", data: { text: "From another journal" } };
  await page.getByLabel("Journal file").setInputFiles({
    name: "journal.jsonl",
    mimeType: "application/jsonl",
    buffer: Buffer.from([...lines, "broken", JSON.stringify(note)].join("\n")),
  });
  await expect(page.getByText(`1 taken in, ${lines.length} were here already.`)).toBeVisible();
  await expect(page.getByText(`Line ${lines.length + 1}:`)).toBeVisible();
});

test("a year is read: health, outings against the plan, the joint that failed twice", async ({ page }) => {
  await open(page, "Firefly bicycle");
  await expect(page.getByRole("region", { name: "The same again" })).toContainText("failed twice");
  const outings = page.getByRole("region", { name: "Outings against the plan" });
  await expect(outings.getByRole("row")).not.toHaveCount(0);
  // Update the plan from your readings is shown with what it does, and taken by hand.
  const learn = page.getByRole("region", { name: "Update the plan from your readings" });
  await expect(learn).toContainText("Capacity left through age: 100 % →");
  await learn.getByRole("button", { name: "What the plan then says" }).click();
  await learn.getByRole("button", { name: "Do it" }).click();
  await saved(page);
  await expect(learn).not.toContainText("Capacity left through age");
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(learn).toContainText("Capacity left through age");
  await part(page, "Battery");
  await expect(page.getByRole("region", { name: "How the battery is" })).toContainText("of what is printed on it");
  await expect(page.getByRole("img", { name: /^Capacity, / })).toBeVisible();
  // Charts by keyboard, with a table beside, and as files.
  await part(page, "Over time");
  const chart = page.getByRole("img", { name: /^How full/ });
  await chart.focus();
  // At first the last quarter; all of it by a key.
  const quarter = await chart.getAttribute("aria-label");
  await page.keyboard.press("Home");
  await expect(chart).not.toHaveAttribute("aria-label", quarter!);
  const whole = await chart.getAttribute("aria-label");
  await page.keyboard.press("+");
  await page.keyboard.press("+");
  await expect(chart).not.toHaveAttribute("aria-label", whole!);
  const near = await chart.getAttribute("aria-label");
  await page.keyboard.press("ArrowLeft");
  await expect(chart).not.toHaveAttribute("aria-label", near!);
  await page.keyboard.press("Home");
  await expect(chart).toHaveAttribute("aria-label", whole!);
  await page.getByRole("button", { name: /^As a table/ }).click();
  await expect(page.getByRole("group", { name: "Entries in this time" }).getByRole("row").nth(1)).toBeVisible();
  const over = page.getByRole("region", { name: "Over time" });
  const [svg] = await Promise.all([page.waitForEvent("download"), over.getByRole("button", { name: "SVG" }).click()]);
  expect(await textOf(svg)).toMatch(/^<svg[\s\S]*<\/svg>\n$/);
  const [csv] = await Promise.all([page.waitForEvent("download"), over.getByRole("button", { name: "CSV" }).click()]);
  expect((await textOf(csv)).split("\r\n")[0]).toBe("at,kind,words,minutes,temperature_c,from_v,to_v,ah,measured,computed");
});

test("upkeep begins anew when it was looked at, and what is due goes into a calendar", async ({ page }) => {
  await open(page, "Choir singer's chair");
  await part(page, "Upkeep");
  const wears = page.getByRole("region", { name: "What wears" });
  const first = wears.getByRole("listitem").filter({ hasText: "365 days" }).first();
  const what = (await first.locator("b").textContent())!;
  await first.getByRole("button", { name: /^Looked at: / }).click();
  await expect(wears.getByRole("listitem").filter({ hasText: what })).toContainText("0 days since");
  const dry = page.getByRole("checkbox", { name: /Dry it, wipe the contacts/ });
  await dry.check();
  await expect(dry).toBeChecked();
  await part(page, "Now");
  const due = page.getByRole("region", { name: "Due" });
  const [calendar] = await Promise.all([page.waitForEvent("download"), due.getByRole("button", { name: "Add to calendar" }).click()]);
  const text = await textOf(calendar);
  expect(text).toMatch(/^BEGIN:VCALENDAR\r\n[\s\S]*END:VCALENDAR\r\n$/);
  expect(text.match(/BEGIN:VEVENT/g)).toHaveLength(await due.getByRole("listitem").count());
});

test("on a phone, with the workshop away, an entry and its picture wait and go out", async ({ page, context }) => {
  await page.setViewportSize({ width: 390, height: 844 });
  await open(page, "Trail deck");
  await context.route(/\/api\/v1\/builds\/\d+\/(journal|photos)/, (route) => (route.request().method() === "GET" ? route.continue() : route.abort()));
  await page.getByRole("button", { name: /^Note/ }).click();
  await page.getByRole("textbox", { name: "What is to be remembered" }).fill("Seal lifted at the tail");
  await page.getByLabel("Picture").setInputFiles({ name: "letter.txt", mimeType: "text/plain", buffer: Buffer.from("no picture") });
  await expect(page.getByRole("alert")).toContainText("letter.txt is not a picture");
  const shot = await page.screenshot();
  await page.getByLabel("Picture").setInputFiles({ name: "seal.png", mimeType: "image/png", buffer: shot });
  await expect(page.getByRole("img", { name: "Chosen" })).toBeVisible();
  await page.getByRole("button", { name: "Write it down" }).click();
  await expect(page.getByText("One entry waits in this browser")).toBeVisible();
  await part(page, "Entries");
  await expect(entries(page).first()).toContainText("Seal lifted at the tail");
  await context.unroute(/\/api\/v1\/builds\/\d+\/(journal|photos)/);
  await expect(page.getByText("One entry waits in this browser")).toHaveCount(0);
  await page.reload();
  const picture = entries(page).first().getByRole("img");
  await expect(picture).toBeVisible();
  expect(await picture.getAttribute("src")).toContain("/api/v1/builds/");
  await expect.poll(() => picture.evaluate((image: HTMLImageElement) => image.naturalWidth)).toBeGreaterThan(100);
});

test("a pack of one's own is added, measured, fitted into a build, and keeps its history", async ({ page }) => {
  await page.goto("/");
  const id = Number(/builds\/(\d+)/.exec((await page.getByRole("link", { name: "Trail deck", exact: true }).getAttribute("href"))!)![1]);
  interface Kept {
    document: { source: Record<string, unknown> };
    revision: number;
  }
  const stored = async () => (await (await page.request.get(`/api/v1/builds/${id}`)).json()) as Kept;
  const deck = async () => {
    const { capacity_ah, tap, tap_limit_a, used_while_charging } = (await stored()).document.source;
    return { capacity_ah, tap, tap_limit_a, used_while_charging };
  };
  const plan = await stored();
  Object.assign(plan.document.source, { tap: "accessory", tap_limit_a: 2, used_while_charging: true });
  expect((await page.request.put(`/api/v1/builds/${id}`, { headers: { "if-match": `"${plan.revision}"` }, data: plan.document })).ok()).toBe(true);
  const before = await deck();
  await page.getByRole("link", { name: "Drawer" }).click();
  await page.getByRole("button", { name: "Add a part of your own" }).click();
  await page.getByRole("combobox", { name: "Most like" }).selectOption({ label: "Board pack 36 V 7.5 Ah" });
  await page.getByRole("textbox", { name: "What you call it" }).fill("Deck pack B");
  await page.getByRole("button", { name: "Add it" }).click();
  const pack = page.getByRole("region", { name: "Deck pack B" });
  await pack.getByRole("textbox", { name: "Capacity" }).fill("7.1");
  await pack.getByRole("button", { name: "I measured it" }).click();
  await pack.getByRole("button", { name: "Keep" }).click();
  await expect(page.getByRole("button", { name: /^Deck pack B/ })).toContainText("measured by hand");
  const life = page.getByRole("region", { name: "Its life" });
  await expect(life).toContainText("It was in no build yet");
  await life.getByRole("combobox", { name: "Put it into" }).selectOption({ label: "Trail deck" });
  await life.getByRole("button", { name: "Fit it" }).click();
  await expect(life.getByRole("listitem")).toContainText("Trail deck");
  await expect(life.getByRole("listitem")).toContainText("to now");
  // Its plan has the pack's figures; where the lights are tapped stays the build's own.
  await expect.poll(async () => (await deck()).capacity_ah).toBe(7.1);
  expect(await deck()).toEqual({ ...before, capacity_ah: 7.1 });
  // Counted by the name of the shopping list, out and in as CSV with a broken line named.
  await page.getByRole("combobox", { name: "Put in" }).fill("cable tie, 2.5 × 100 mm");
  await page.getByRole("textbox", { name: "Pieces, m" }).fill("60");
  await page.getByRole("button", { name: "Put in", exact: true }).click();
  await expect(page.getByRole("textbox", { name: "How many: cable tie, 2.5 × 100 mm" })).toHaveValue("60");
  const [csv] = await Promise.all([page.waitForEvent("download"), page.getByRole("button", { name: "CSV", exact: true }).click()]);
  const text = await textOf(csv);
  expect(text).toContain("own-deck-pack-b,Deck pack B");
  await page.getByLabel("Drawer file").setInputFiles({ name: "drawer.csv", mimeType: "text/csv", buffer: Buffer.from(`${text},clip,many,,,,,,,,\r\n`) });
  await expect(page.getByRole("alert")).toContainText("count: `many` is not a figure");
  await pack.getByRole("button", { name: "Retire it" }).click();
  await expect(page.getByRole("button", { name: /^Deck pack B/ })).toContainText("retired");
});

test("a backup is looked at before it is restored, and everything goes out and comes in", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("button", { name: "Backup" }).click();
  const [file] = await Promise.all([page.waitForEvent("download"), page.getByRole("button", { name: "Back up" }).click()]);
  const backup = { name: "workshop.orthavis", mimeType: "application/vnd.sqlite3", buffer: readFileSync(await file.path()) };
  const [all] = await Promise.all([page.waitForEvent("download"), page.getByRole("button", { name: "Export everything" }).click()]);
  const whole = await textOf(all);
  expect((JSON.parse(whole) as { format: string; builds: unknown[] }).builds.length).toBeGreaterThanOrEqual(8);
  await page.getByLabel("Backup file").setInputFiles({ ...backup, buffer: Buffer.from("Dear aunt") });
  await expect(page.getByRole("alert")).toContainText("not a backup of Orthavis");
  await page.getByRole("button", { name: "Close" }).click();
  // A copy that is made after the backup would go.
  await page.getByRole("button", { name: "Duplicate Camp rover" }).click();
  await expect(page.getByRole("link", { name: /^Camp rover/ })).toHaveCount(2);
  await page.getByRole("button", { name: "Backup" }).click();
  await page.getByLabel("Backup file").setInputFiles(backup);
  const look = page.getByRole("region", { name: "What it would change" });
  await expect(look).toContainText("goes: it is not in the backup");
  await look.getByRole("button", { name: "Restore all the same" }).click();
  await expect(page.getByText("Everything is as it was")).toBeVisible();
  await expect(page.getByRole("link", { name: /^Camp rover/ })).toHaveCount(1);
  await page.getByRole("button", { name: "Backup" }).click();
  await page.getByLabel("Exported file").setInputFiles({ name: "workshop.json", mimeType: "application/json", buffer: Buffer.from(whole) });
  await expect(page.getByText(/^0 builds, 0 events/)).toBeVisible();
});
