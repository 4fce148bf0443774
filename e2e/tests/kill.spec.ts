import { expect, saved, startBuild, step, test } from "./workshop";

test("before: an edit is saved", async ({ page }) => {
  await startBuild(page, "Survivor");
  await step(page, "Battery");
  await page.getByRole("textbox", { name: "Highest current" }).fill("17.5");
  await saved(page);
});

test("after: nothing saved is missing", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Survivor" }).click();
  await step(page, "Battery");
  await expect(page.getByRole("textbox", { name: "Highest current" })).toHaveValue("17.5");
});

test("offline: what is typed while the server is gone waits", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Survivor" }).click();
  await step(page, "Battery");
  await page.route("**/api/v1/builds/**", (route) => route.abort());
  await page.getByRole("textbox", { name: "Highest current" }).fill("21");
  await expect(page.getByRole("alert")).toContainText("kept in this browser");
  await page.unroute("**/api/v1/builds/**");
  // A reload finds the draft and saves it by itself.
  await page.reload();
  await saved(page);
  await expect(page.getByRole("textbox", { name: "Highest current" })).toHaveValue("21");
  await page.reload();
  await expect(page.getByRole("textbox", { name: "Highest current" })).toHaveValue("21");
});
