import { readFileSync } from "node:fs";
import type { Page } from "@playwright/test";
import { expect, saved, step, test } from "./workshop";

/** From a plan that is safe to a vehicle that shines. */

test("steps: one after the other on a phone, ticked while the workshop is away, and planned anew from what is done", async ({ page, context }) => {
  await page.setViewportSize({ width: 390, height: 844 });
  await page.goto("/");
  await page.getByRole("link", { name: "Camp rover" }).click();
  await page.getByRole("button", { name: "Make" }).click();
  await page
    .getByRole("navigation", { name: "Steps" })
    .getByRole("button", { name: /Steps$/ })
    .click();
  const next = page.getByRole("region", { name: "Next step" });
  await expect(next.getByRole("heading", { name: "Try every light in its place" })).toBeVisible();
  const done = next.getByRole("button", { name: "Done" });
  expect((await done.boundingBox())!.height).toBeGreaterThanOrEqual(48);
  await done.click();
  await expect(next.getByRole("heading", { name: "Measure every way with a string" })).toBeVisible();
  // The workshop goes away: ticks wait in the browser, and go out once it answers.
  await context.route("**/api/v1/builds/*/journal", (route) => (route.request().method() === "POST" ? route.abort() : route.continue()));
  await next.getByRole("button", { name: "Done" }).click();
  await expect(page.getByText("2 of", { exact: false }).first()).toBeVisible();
  await expect(page.getByText("1 tick waits for the server")).toBeVisible();
  await context.unroute("**/api/v1/builds/*/journal");
  await expect(page.getByText("1 tick waits for the server")).toBeHidden();
  await page.reload();
  await expect(page.getByRole("heading", { name: /^2 of \d+ steps done$/ })).toBeVisible();
  // A tick taken back, and one that went wrong.
  await page.getByRole("checkbox", { name: "Done: Measure every way with a string" }).click();
  await expect(page.getByRole("heading", { name: /^1 of \d+ steps done$/ })).toBeVisible();
  await next.getByRole("button", { name: "Went wrong" }).click();
  await expect(page.getByRole("heading", { name: "Trouble" })).toBeVisible();
});

test("steps: evenings of one's own move the plan, a fixing changes its step, and what cures is counted down", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Camp rover" }).click();
  await step(page, "Make");
  await step(page, "Steps");
  await page.getByRole("button", { name: "Change" }).click();
  const ready = page.getByText(/of work left, ready on/);
  const before = await ready.textContent();
  for (let times = 0; times < 4; times++) await page.getByRole("button", { name: "Take out time 1" }).click();
  await expect(ready).not.toHaveText(before!);
  await expect(page.getByRole("figure", { name: "The evenings" })).toContainText("Sun");
  // Two times that overlap are refused, and stay as they were typed.
  await page.getByRole("button", { name: "Add a time" }).click();
  await page.getByRole("combobox", { name: "Day" }).nth(1).selectOption("sunday");
  await page.getByRole("textbox", { name: "From" }).nth(1).fill("15:00");
  await page.getByRole("textbox", { name: "From" }).nth(1).press("Enter");
  await expect(page.getByText(/overlaps with sunday 14:00/).first()).toBeVisible();
  await page.getByRole("button", { name: "Take out time 2" }).click();
  await expect(page.getByText(/overlaps with/)).toHaveCount(0);
  const fixing = page.getByRole("button", { name: /^tail/ });
  await fixing.click();
  await page.getByLabel("Fixed with").selectOption("slow_epoxy");
  await expect(page.getByText("Fasten tail", { exact: false }).first()).toContainText("slow epoxy");
  await saved(page);
  // Module set, varnish dries: it is told how long still.
  const set = page.getByRole("checkbox", { name: /^Done: Set / }).first();
  await set.click();
  await expect(page.getByRole("timer")).toContainText("the varnish dries");
  await expect(page.getByRole("timer")).toContainText(/29:\d\d/);
  await page.reload();
  await expect(page.getByRole("timer")).toContainText(/2\d:\d\d/);
  const file = page.waitForEvent("download");
  await page.getByRole("button", { name: "Add to calendar" }).click();
  const text = readFileSync(await (await file).path(), "utf8");
  expect(text).toMatch(/^BEGIN:VCALENDAR\r\n/);
  expect(text).toContain("SUMMARY:Camp rover");
});

test("a build that is not safe shows its steps up to the bench, and why", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Book-delivery trike" }).click();
  await step(page, "Make");
  await step(page, "Steps");
  await expect(page.getByText("What goes onto the vehicle waits until this is fixed", { exact: false })).toBeVisible();
  await expect(page.getByRole("region", { name: "On the bench" })).toBeVisible();
  await expect(page.getByRole("region", { name: "Power" })).toBeHidden();
  await page.getByRole("button", { name: "Look at the rest all the same" }).click();
  await expect(page.getByRole("region", { name: "Power" })).toContainText("waits for a safe build");
});

test("parts: the drawer is taken off what is bought, for every build, and a change of the plan counts at once", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Camp rover" }).click();
  await step(page, "Make");
  await step(page, "Parts");
  const ties = page.getByRole("row", { name: /^cable tie/ });
  await expect(ties).toContainText("100");
  const drawer = page.getByLabel("In the drawer: cable tie");
  await drawer.fill("200");
  await drawer.press("Tab");
  await expect(ties).toContainText("–");
  await page.reload();
  await expect(page.getByLabel("In the drawer: cable tie")).toHaveValue("200");
  const cuts = page.getByRole("region", { name: "Cut list" });
  await expect(cuts.getByText(/left over/).first()).toBeVisible();
  const file = page.waitForEvent("download");
  await page.getByRole("button", { name: "CSV of cuts" }).click();
  expect(readFileSync(await (await file).path(), "utf8").split("\r\n")[0]).toContain("of,roll,name");
});

test("fit: a cavity is measured, what has no place is told with how much, and finds one once it is larger", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Camp rover" }).click();
  await step(page, "Make");
  await step(page, "Parts");
  await page.getByRole("button", { name: "Add a cavity" }).click();
  await page.getByRole("textbox", { name: "Name", exact: true }).fill("roof-locker");
  const sides = page.getByRole("group", { name: "Free inside" });
  const length = sides.getByRole("textbox", { name: "length" });
  await length.fill("30");
  const fits = page.getByRole("region", { name: "What goes where" });
  await expect(fits).toContainText("has no place");
  await expect(fits).toContainText(/`roof-locker` is \d+\.\d mm too (short|narrow|low)/);
  await length.fill("400");
  await sides.getByRole("textbox", { name: "width" }).fill("300");
  await sides.getByRole("textbox", { name: "height" }).fill("90");
  await expect(fits).toContainText(/✓ all \d+ parts have a place/);
  await expect(fits.getByRole("img", { name: /^roof-locker from above: / })).toBeVisible();
  // Nothing large goes through a small slot.
  await page.getByRole("button", { name: "Add an opening" }).click();
  await page.getByRole("textbox", { name: "Opening" }).fill("8");
  await expect(fits).toContainText("too large for the opening of `roof-locker`");
  await page.getByRole("button", { name: "Take out opening 1 of roof-locker" }).click();
  // A cavity of no size is none: it stays as typed and is told.
  await length.fill("0");
  await expect(page.getByText("Give more than 0 mm")).toBeVisible();
  await length.fill("350");
  // What sits where moves the centre of mass.
  await page.getByLabel("Add a part").selectOption("tail");
  const sits = page.getByRole("group", { name: "Sits at" });
  await sits.getByRole("textbox", { name: "forward" }).fill("-2000");
  const balance = page.getByRole("region", { name: "Balance" });
  await expect(balance.getByRole("button", { name: /^Centre of mass moves forward by/ })).toContainText("-");
  await saved(page);
  const file = page.waitForEvent("download");
  await page.getByRole("button", { name: "CSV of what goes where" }).click();
  expect(readFileSync(await (await file).path(), "utf8")).toContain("roof-locker");
});

test("two devices tick one build, and both know of every step", async ({ page, browser }) => {
  const open = async (page: Page) => {
    await page.goto("/");
    await page.getByRole("link", { name: "Choir singer" }).click();
    await step(page, "Make");
    await step(page, "Steps");
    await expect(page.getByRole("heading", { name: /steps done$/ })).toBeVisible();
  };
  await open(page);
  const other = await browser.newPage();
  await open(other);
  const box = (page: Page, name: string) => page.getByRole("checkbox", { name: `Done: ${name}` });
  // The other one has lost the workshop meanwhile; both tick, one of them the same step and takes it back.
  await other.route("**/api/v1/builds/*/journal", (route) => (route.request().method() === "POST" ? route.abort() : route.continue()));
  await box(page, "Try every light in its place").click();
  await box(other, "Try every light in its place").click();
  await box(other, "Measure every way with a string").click();
  await expect(other.getByText("2 ticks wait for the server")).toBeVisible();
  await other.unroute("**/api/v1/builds/*/journal");
  await expect(other.getByText("wait for the server")).toBeHidden();
  for (const one of [page, other]) {
    await one.reload();
    await expect(one.getByRole("heading", { name: /^2 of \d+ steps done$/ })).toBeVisible();
  }
  await box(other, "Measure every way with a string").click();
  await expect(other.getByRole("heading", { name: /^1 of / })).toBeVisible();
  await page.reload();
  await expect(box(page, "Measure every way with a string")).not.toBeChecked();
  await expect(box(page, "Try every light in its place")).toBeChecked();
  await other.close();
});

test("diagram: walked by keyboard, one selection everywhere, labels that fit their paper", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Travelling puppet stage" }).click();
  await step(page, "Make");
  await step(page, "Diagram");
  const part = page.getByRole("button", { name: /^spot-left, 12 V/ });
  await part.focus();
  await page.keyboard.press("Enter");
  await expect(part).toHaveAttribute("aria-pressed", "true");
  await step(page, "Bench");
  await expect(page.getByLabel("Red probe on")).toHaveValue("spot-left:to+");
  await step(page, "Diagram");
  const file = page.waitForEvent("download");
  await page.getByRole("button", { name: "SVG" }).click();
  expect(readFileSync(await (await file).path(), "utf8")).toContain("spot-left");
  // What would be printed is looked at where it lies: printing itself waits for a person.
  await page.evaluate(() => {
    window.print = () => {
      const sheet = document.querySelector(".on-paper")!.cloneNode(true) as HTMLElement;
      sheet.id = "printed";
      document.body.append(sheet);
    };
  });
  await page.getByRole("button", { name: "Print the labels" }).click();
  await page.emulateMedia({ media: "print" });
  await page.setViewportSize({ width: 688, height: 900 });
  const cut = await page
    .locator("#printed .paper-label")
    .evaluateAll((all) =>
      all.filter(
        (label) =>
          label.getBoundingClientRect().right > window.innerWidth ||
          Array.from(label.querySelectorAll("b")).some((text) => text.scrollWidth > label.clientWidth),
      ),
    );
  expect(cut).toHaveLength(0);
  expect(await page.locator("#printed .paper-label").count()).toBe(46);
});

test("the build sheet says everything on paper, and nothing is cut at its edge", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Travelling puppet stage" }).click();
  await step(page, "Make");
  await step(page, "Steps");
  await page.evaluate(() => {
    window.print = () => {
      const sheet = document.querySelector(".on-paper")!.cloneNode(true) as HTMLElement;
      sheet.id = "printed";
      document.body.append(sheet);
      // The head of every page is there for as long as it is printed.
      document.body.dataset.head = [...document.adoptedStyleSheets]
        .flatMap((known) => Array.from(known.cssRules))
        .map((rule) => rule.cssText)
        .join(" ");
    };
  });
  await page.getByRole("button", { name: "Print the build sheet" }).click();
  const sheet = page.locator("#printed");
  await expect(sheet).toBeAttached();
  expect(await page.locator("body").getAttribute("data-head")).toMatch(/Travelling puppet stage · revision \d+/);
  await page.emulateMedia({ media: "print" });
  // A4 and letter without their margins, at 96 dots an inch.
  for (const width of [688, 710]) {
    await page.setViewportSize({ width, height: 900 });
    const wide = await sheet.evaluate((all) =>
      Array.from(all.querySelectorAll("h1, h2, p, table, td, figure, svg, li, .paper-label"))
        .filter((one) => one.getBoundingClientRect().right > window.innerWidth + 0.5)
        .map((one) => one.textContent?.slice(0, 40)),
    );
    expect(wide).toEqual([]);
  }
  for (const heading of ["Wiring", "Cut list", "Parts", "Steps", "Readings to expect", "Labels"])
    await expect(sheet.getByRole("heading", { name: heading, exact: true })).toBeVisible();
  await expect(sheet).toContainText("Not safe to build yet");
  await expect(sheet.locator("figure")).toHaveCount(3);
  await expect(sheet.locator("li")).toHaveCount(57);
  await expect(sheet.getByText("☐ 1. Try every light in its place")).toBeVisible();
  await expect(sheet.getByText("This is advice, not a certificate", { exact: false }).first()).toBeVisible();
});

test("what cures tells when it is done, by sight, by sound and by a message where the browser may", async ({ page }) => {
  await page.clock.install({ time: new Date("2026-11-27T19:00:00") });
  await page.addInitScript(() => {
    const told: string[] = [];
    Object.assign(window, { told });
    class Told {
      static permission = "default";
      static requestPermission() {
        Told.permission = "granted";
        return Promise.resolve("granted");
      }
      constructor(words: string) {
        told.push(words);
      }
    }
    Object.assign(window, { Notification: Told });
  });
  await page.goto("/");
  await page.getByRole("link", { name: "Camp rover" }).click();
  await step(page, "Make");
  await step(page, "Steps");
  await page
    .getByRole("checkbox", { name: /^Done: Set / })
    .last()
    .click();
  const timer = page.getByRole("timer").last();
  await expect(timer).toContainText("the varnish dries");
  await timer.getByRole("button", { name: "Tell me" }).click();
  await page.clock.fastForward("29:00");
  await expect(timer).toContainText(/\b[01]:\d\d/);
  await page.clock.fastForward("02:00");
  await expect(timer).toContainText("✓ done");
  await expect.poll(() => page.evaluate(() => (window as unknown as { told: string[] }).told)).toEqual(["the varnish dries: done"]);
});
