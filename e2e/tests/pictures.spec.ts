import { expect, step, test, verdict } from "./workshop";

/** The pictures in the documentation, from the sample builds. */
const FOLDER = "../../docs/screenshots";
const file = (name: string) => ({ path: new URL(`${FOLDER}/${name}.png`, `file://${import.meta.dirname}/`).pathname });

test("pictures", async ({ page }) => {
  await page.goto("/");
  await expect(page.getByRole("link", { name: "Book-delivery trike" })).toBeVisible();
  await page.screenshot(file("shelf"));
  await page.getByRole("link", { name: "Book-delivery trike" }).click();
  await expect(verdict(page)).toContainText("Not safe to build yet");
  await step(page, "Power");
  await page.screenshot(file("build-power"));
  await page.getByRole("button", { name: /Add a 1 A blade fuse/ }).click();
  await expect(page.getByRole("group", { name: "What it changes" })).toBeVisible();
  await page.getByRole("button", { name: /^step-down-12v: / }).press("Enter");
  await page.screenshot(file("build-remedy"));
  await page.evaluate(() => localStorage.setItem("orthavis.theme", "light"));
  await page.reload();
  await step(page, "Lights");
  await expect(verdict(page)).toContainText("Not safe to build yet");
  await page.screenshot(file("build-lights-paper"));
  await page.setViewportSize({ width: 390, height: 844 });
  await step(page, "Verdict");
  await expect(verdict(page)).toBeInViewport();
  await page.screenshot(file("phone-verdict"));
});
