import type { Page } from "@playwright/test";
import { expect, saved, step, test, verdict } from "./workshop";

/** The workshop that stops answering, and a core that stops: what the page goes on with. For pages with the core in them. */

const light = (page: Page) => page.getByRole("button", { name: /^Time of light/ });

async function opened(page: Page, name: string) {
  await page.goto("/");
  await page.getByRole("link", { name }).click();
  await step(page, "Battery");
  await expect.poll(() => page.evaluate(() => document.documentElement.dataset.core)).toBe("page");
  await expect(light(page)).toBeVisible();
}

test("an open page plans, undoes and exports while the workshop is away, and saves once it answers", async ({ page, context }) => {
  await opened(page, "Camp rover");
  const first = await light(page).textContent();
  // What is fetched when there is time is fetched before the lights go out.
  await page.waitForLoadState("networkidle");
  await context.setOffline(true);
  await page.getByLabel("Capacity").fill("9");
  await expect(light(page)).not.toHaveText(first!);
  await expect(page.locator("[data-save]")).toHaveText("Kept in this browser only");
  await expect(page.getByRole("alert")).toContainText("planning, undo and export go on");
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(light(page)).toHaveText(first!);
  await page.getByRole("button", { name: "Redo" }).click();
  await step(page, "Drain");
  await page.getByRole("radio", { name: "What if" }).click();
  await expect(page.getByRole("row", { name: /^Time of light/ })).toContainText("the same");
  const leaving = page.waitForEvent("download");
  await page.getByRole("button", { name: "Export the build as a file" }).click();
  expect((await leaving).suggestedFilename()).toBe("camp-rover.json");
  await context.setOffline(false);
  await saved(page);
  await page.reload();
  await step(page, "Battery");
  await expect(page.getByLabel("Capacity")).toHaveValue("9");
});

test("a core that breaks is said, started anew, and nothing typed is lost", async ({ page }) => {
  // One question claims more bytes than the module can have: it traps for good.
  await page.addInitScript(() => {
    const post = Worker.prototype.postMessage as (message: unknown, transfer?: Transferable[]) => void;
    let asked = 0;
    Worker.prototype.postMessage = function (this: Worker, message: { kind: string; name?: string }, transfer: Transferable[] = []) {
      const breaks = message.kind === "ask" && message.name === "solve" && ++asked === 3;
      post.call(this, breaks ? { ...message, request: { length: 2 ** 32 - 100 } } : message, breaks ? [] : transfer);
    } as Worker["postMessage"];
  });
  await opened(page, "Trail deck");
  for (const value of ["5", "6", "7", "8"]) {
    const before = await light(page).textContent();
    await page.getByLabel("Capacity").fill(value);
    await expect(light(page)).not.toHaveText(before!);
  }
  await expect(page.getByText("was started anew")).toBeVisible();
  await saved(page);
  await expect(page.getByLabel("Capacity")).toHaveValue("8");
  const before = await light(page).textContent();
  await page.getByLabel("Capacity").fill("4");
  await expect(light(page)).not.toHaveText(before!);
  await expect(verdict(page)).toContainText("of light");
});
