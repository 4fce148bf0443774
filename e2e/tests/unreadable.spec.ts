import { readFile } from "node:fs/promises";
import { expect, saved, startBuild, test } from "./workshop";

test("before: a build with a history", async ({ page }) => {
  await startBuild(page, "Of today");
  await saved(page);
  await page.getByRole("textbox", { name: "Name of the build" }).fill("Of tomorrow");
  await saved(page);
});

test("after: it is shown as text, exported, taken away and put back", async ({ page }) => {
  await page.goto("/");
  const card = page.getByRole("listitem").filter({ hasText: "Of tomorrow" });
  await expect(card).toContainText("Cannot be read");
  await expect(card.getByRole("button")).toHaveCount(1);
  await card.getByRole("link").click();

  await expect(page.getByRole("alert")).toContainText("nothing of it is lost");
  await expect(page.getByRole("listitem").first()).toContainText("orthavis.build/9 is not a format this version reads. Use orthavis.build/1.");
  const text = page.getByLabel("Its text");
  await expect(text).toHaveText(/"format": "orthavis.build\/9"/);
  const download = page.waitForEvent("download");
  await page.getByRole("button", { name: "Export it" }).click();
  const exported = await readFile(await (await download).path(), "utf8");
  expect(exported).toBe('{"format":"orthavis.build/9","kept":1.0}');

  await page.getByRole("button", { name: "Delete it" }).click();
  await expect(
    page
      .getByRole("button", { name: "New build" })
      .or(page.getByRole("button", { name: "Start your first build" }))
      .first(),
  ).toBeVisible();
  await expect(card).toHaveCount(0);
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(card).toContainText("Cannot be read");
});

test("restored: an earlier revision opens as ever", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Of tomorrow" }).click();
  await page.getByRole("button", { name: "Earlier revisions" }).click();
  const restore = page.getByRole("button", { name: "Restore" });
  await restore.last().click();
  await expect(page.getByRole("textbox", { name: "Name of the build" })).toHaveValue("Of today");
  await page.goto("/");
  await expect(page.getByRole("listitem").filter({ hasText: "Of today" })).not.toContainText("Cannot be read");
});
