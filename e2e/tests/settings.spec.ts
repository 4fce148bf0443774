import type { Page } from "@playwright/test";
import { expect, open, saved, step, test, verdict } from "./workshop";

const TRIKE = "Book-delivery trike";
const heading = (page: Page) => page.locator(".step-heading h2");

test("what a person sets is how everything reads, and stays", async ({ page }) => {
  await page.emulateMedia({ colorScheme: "light" });
  await page.goto("/");
  await page.getByRole("button", { name: "Settings" }).click();
  const dialog = page.getByRole("dialog", { name: "Settings" });
  const html = page.locator("html");
  await expect(html).toHaveClass(/dark/);
  await dialog.getByRole("radiogroup", { name: "Theme" }).getByRole("radio", { name: "As the system" }).click();
  await expect(html).toHaveClass(/light/);
  await page.emulateMedia({ colorScheme: "dark" });
  await dialog.getByRole("radiogroup", { name: "Lengths" }).getByRole("radio", { name: "inches", exact: true }).click();
  await dialog.getByRole("radiogroup", { name: "Wire sizes" }).getByRole("radio", { name: "mm²" }).click();
  await dialog
    .getByRole("radiogroup", { name: /^Single keys/ })
    .getByRole("radio", { name: "No" })
    .click();
  await page.keyboard.press("Escape");
  await expect(dialog).toHaveCount(0);
  await page.reload();
  await expect(html).toHaveClass(/dark/);
  await page.getByRole("link", { name: TRIKE }).click();
  await step(page, "Wires");
  await open(page, /→ tail/);
  await expect(page.getByLabel("Length, one way")).toHaveValue(/^\d+\.\d+$/);
  // Typed in feet and inches all the same, and read in inches.
  await page.getByLabel("Length, one way").fill("2' 6\"");
  await page.keyboard.press("Tab");
  await expect(page.getByLabel("Length, one way")).toHaveValue("30");
  // A digit is a digit, no step.
  await heading(page).click();
  await page.keyboard.press("1");
  await expect(heading(page)).toHaveText("Wires");
});

test("Escape leaves a figure as it was, and back goes to the step before", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: TRIKE }).click();
  await step(page, "Battery");
  await expect(page).toHaveTitle(`Battery · ${TRIKE} · Orthavis`);
  const capacity = page.getByLabel("Capacity", { exact: true });
  const before = await capacity.inputValue();
  await capacity.fill("3");
  await page.keyboard.press("Escape");
  await expect(capacity).toHaveValue(before);
  await capacity.fill("many");
  await expect(page.getByText("Type a number, for example 7 Ah or 700 mAh")).toBeVisible();
  await page.keyboard.press("Escape");
  await expect(capacity).toHaveValue(before);
  await step(page, "Power");
  await expect(page).toHaveTitle(`Power · ${TRIKE} · Orthavis`);
  await step(page, "Wires");
  await page.goBack();
  await expect(heading(page)).toHaveText("Power");
  await page.goBack();
  await expect(heading(page)).toHaveText("Battery");
  await page.goForward();
  await expect(heading(page)).toHaveText("Power");
});

test("what is removed comes back by a button, and the focus stays where it was", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: TRIKE }).click();
  await expect(verdict(page)).toContainText("of light");
  await step(page, "Lights");
  const lights = page.getByRole("article").filter({ has: page.getByRole("button", { name: /^Remove / }) });
  const count = await lights.count();
  expect(count).toBeGreaterThan(1);
  await open(page, /^tail/);
  await page.getByRole("button", { name: "Remove tail" }).press("Enter");
  await expect(page.getByText("“tail” removed")).toBeVisible();
  await expect(page.getByRole("button", { name: "Remove tail" })).toHaveCount(0);
  // Somewhere among the cards, not at the top of the page.
  await expect.poll(() => page.evaluate(() => document.activeElement?.closest("article.card, .step-heading") !== null)).toBe(true);
  await page.getByRole("button", { name: "Undo", exact: true }).last().click();
  await expect(page.getByRole("button", { name: "Remove tail" })).toBeVisible();
  await saved(page);
});

test("the palette finds what people call it", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: TRIKE }).click();
  await expect(verdict(page)).toContainText("Not safe to build yet");
  await page.keyboard.press("Control+k");
  const box = page.getByRole("combobox", { name: "Command or word" });
  for (const [typed, found] of [
    ["solder", "Go to Steps"],
    ["print", "Print the build sheet"],
    ["share", "Export the build as a file"],
    ["units", "Settings"],
    ["switch", "Go to Power"],
    ["help", "Shortcuts"],
    ["shopping", "Go to Parts"],
  ] as const) {
    await box.fill(typed);
    await expect(page.getByRole("option", { name: found }).first()).toBeVisible();
  }
  await box.fill("shoping lst");
  await expect(page.getByText("No match for “shoping lst”.")).toBeVisible();
  await page.getByRole("button", { name: "Go to Parts" }).click();
  await expect(heading(page)).toHaveText("Parts");
});

test("a long shelf is searched, narrowed and put in order", async ({ page }) => {
  await page.goto("/");
  const cards = page.getByRole("main").getByRole("listitem");
  await expect(page.getByRole("link", { name: TRIKE })).toBeVisible();
  const all = await cards.count();
  expect(all).toBeGreaterThan(6);
  const search = page.getByRole("searchbox", { name: "Search your builds" });
  await search.fill("trike");
  await expect(cards.filter({ hasText: TRIKE })).toHaveCount(1);
  await expect(cards.filter({ hasText: "Trail deck" })).toHaveCount(0);
  await search.fill("no such build");
  await expect(page.getByText("No build here fits.")).toBeVisible();
  await search.fill("");
  await page.getByRole("radiogroup", { name: "Vehicle" }).getByRole("radio", { name: "Skateboard" }).click();
  await expect(cards).toHaveCount(1);
  await page.getByRole("radiogroup", { name: "Vehicle" }).getByRole("radio", { name: "All" }).click();
  await page.getByRole("radiogroup", { name: "Order" }).getByRole("radio", { name: "Dangers first" }).click();
  await expect(cards).toHaveCount(all);
  await expect(cards.first()).toContainText("✕");
});
