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
  await expect.poll(() => page.evaluate(() => document.documentElement.dataset.scripts)).toBe("all");
  await context.setOffline(true);
  await page.getByLabel("Capacity", { exact: true }).fill("9");
  await expect(light(page)).not.toHaveText(first!);
  await expect(page.locator("[data-save]")).toHaveText("Kept in this browser only");
  await expect(page.getByRole("alert")).toContainText("planning, undo and export go on");
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(light(page)).toHaveText(first!);
  await page.getByRole("button", { name: "Redo" }).click();
  await step(page, "Battery life");
  await page.getByRole("radio", { name: "What if" }).click();
  await expect(page.getByRole("row", { name: /^Time of light/ })).toContainText("the same");
  const leaving = page.waitForEvent("download");
  await page.getByRole("button", { name: "Export the build as a file" }).click();
  expect((await leaving).suggestedFilename()).toBe("camp-rover.json");
  await context.setOffline(false);
  await saved(page);
  await page.reload();
  await step(page, "Battery");
  await expect(page.getByLabel("Capacity", { exact: true })).toHaveValue("9");
});

/** How the core breaks after a question or two, by where it answers: in a worker, or beside the page's own scripts. */
const BREAKS = {
  // It claims more bytes than the module can have, and traps for good.
  "in its worker": () => {
    const post = Worker.prototype.postMessage as (message: unknown, transfer?: Transferable[]) => void;
    let asked = 0;
    Worker.prototype.postMessage = function (this: Worker, message: { kind: string; name?: string }, transfer: Transferable[] = []) {
      const breaks = message.kind === "ask" && message.name === "solve" && ++asked === 3;
      post.call(this, breaks ? { ...message, request: { length: 2 ** 32 - 100 } } : message, breaks ? [] : transfer);
    } as Worker["postMessage"];
  },
  "beside the page": () => {
    const made = WebAssembly.instantiate as unknown as (module: unknown) => Promise<{ exports: { ask: (name: number) => number } }>;
    let asked = 0;
    const broken = async (module: unknown) => {
      const { exports } = await made(module);
      const ask = (name: number) => {
        if (++asked === 2) throw new WebAssembly.RuntimeError("unreachable");
        return exports.ask(name);
      };
      return { exports: { ...exports, ask } };
    };
    Object.assign(WebAssembly, { instantiate: broken });
  },
};

for (const [where, breaks] of Object.entries(BREAKS))
  test(`a core that breaks ${where} is said, started anew, and nothing typed is lost`, async ({ page }) => {
    await page.addInitScript(breaks);
    await opened(page, "Trail deck");
    const said = page.getByText("was started anew");
    let value = 4;
    // Beside the page it answers once it has become quick.
    while (value < 40 && !(await said.isVisible())) {
      const before = await light(page).textContent();
      await page.getByLabel("Capacity", { exact: true }).fill(String(++value));
      await expect(light(page)).not.toHaveText(before!);
    }
    await expect(said).toBeVisible();
    await saved(page);
    await expect(page.getByLabel("Capacity", { exact: true })).toHaveValue(String(value));
    const before = await light(page).textContent();
    await page.getByLabel("Capacity", { exact: true }).fill("3");
    await expect(light(page)).not.toHaveText(before!);
    await expect(verdict(page)).toContainText("of light");
  });
