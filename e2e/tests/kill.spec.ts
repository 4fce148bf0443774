import { expect, saved, startBuild, step, test } from "./workshop";

test("before: an edit is saved", async ({ page }) => {
  await startBuild(page, "Survivor");
  await step(page, "Battery");
  await page.getByLabel("Discharge limit").fill("17.5");
  await saved(page);
});

test("after: nothing saved is missing", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Survivor" }).click();
  await step(page, "Battery");
  await expect(page.getByLabel("Discharge limit")).toHaveValue("17.5");
});

test("offline: what is typed while the server is gone waits", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Survivor" }).click();
  await step(page, "Battery");
  await page.route("**/api/v1/builds/**", (route) => route.abort());
  await page.getByLabel("Discharge limit").fill("21");
  await expect(page.getByRole("alert")).toContainText("kept in this browser");
  await page.unroute("**/api/v1/builds/**");
  // A reload finds the draft and saves it by itself.
  await page.reload();
  await saved(page);
  await expect(page.getByLabel("Discharge limit")).toHaveValue("21");
  await page.reload();
  await expect(page.getByLabel("Discharge limit")).toHaveValue("21");
});
