import { readFileSync } from "node:fs";
import { pathToFileURL } from "node:url";
import { expect, step, test, verdict } from "./workshop";

/** A build taken along as one page: it opens from a file, without any server, and works its figures out itself. */

test("a sheet opens from a file and answers on its own", async ({ page, browser }, info) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Travelling puppet stage" }).click();
  const light = await verdict(page)
    .getByRole("button", { name: /^Time of light/ })
    .textContent();
  const leaving = page.waitForEvent("download");
  await page.getByRole("button", { name: /^Save as one page/ }).click();
  const path = info.outputPath("sheet.html");
  await (await leaving).saveAs(path);
  expect(readFileSync(path).length).toBeLessThan(2.5e6);

  const context = await browser.newContext({ offline: true, viewport: { width: 390, height: 844 } });
  const sheet = await context.newPage();
  const complaints: string[] = [];
  sheet.on("pageerror", (error) => complaints.push(error.message));
  sheet.on("console", (message) => message.type() === "error" && complaints.push(message.text()));
  sheet.on("request", (request) => !/^(file|data|blob):/.test(request.url()) && complaints.push(request.url()));
  await sheet.goto(pathToFileURL(path).href);
  await expect(sheet.getByRole("heading", { level: 1 })).toHaveText("Travelling puppet stage");
  const figure = verdict(sheet).getByRole("button", { name: /^Time of light/ });
  await expect(figure).toHaveText(light!);
  await figure.click();
  await expect(sheet.getByRole("dialog", { name: "Working" })).toContainText("Rule:");
  await sheet.keyboard.press("Escape");
  await sheet.getByLabel("Scene").selectOption({ index: 1 });
  await expect(figure).not.toHaveText(light!);
  // Told, not done: a sheet changes nothing.
  await expect(verdict(sheet).getByRole("button", { name: /…$/ })).toHaveCount(0);
  expect(await sheet.evaluate(() => document.documentElement.scrollWidth)).toBe(390);
  // It leads through the making too; what is ticked is kept by the browser.
  await sheet.getByRole("radio", { name: "Steps" }).click();
  const next = sheet.getByRole("region", { name: "Next step" });
  const first = await next.getByRole("heading").textContent();
  await next.getByRole("button", { name: "Done" }).click();
  await expect(next.getByRole("heading")).not.toHaveText(first!);
  await sheet.reload();
  await sheet.getByRole("radio", { name: "Steps" }).click();
  await expect(sheet.getByRole("heading", { name: /^1 of \d+ steps done$/ })).toBeVisible();
  const saving = sheet.waitForEvent("download");
  await sheet.getByRole("button", { name: "Save the ticks as a file" }).click();
  const ticks = info.outputPath("ticks.jsonl");
  await (await saving).saveAs(ticks);
  await sheet.getByRole("radio", { name: "Wiring" }).click();
  await expect(sheet.getByRole("region", { name: "Wiring diagram" })).toBeVisible();
  await expect(sheet.getByRole("button", { name: "Print the labels" })).toBeEnabled();
  expect(await sheet.evaluate(() => document.documentElement.scrollWidth)).toBe(390);
  expect(complaints).toEqual([]);
  // Back in the workshop they are taken in, once however often.
  await step(page, "Make");
  await step(page, "Steps");
  for (let times = 0; times < 2; times++) {
    await page.getByLabel("File of ticks").setInputFiles(ticks);
    await expect(page.getByText("✓ 1 tick is in the journal.")).toBeVisible();
    await expect(page.getByRole("heading", { name: /^1 of \d+ steps done$/ })).toBeVisible();
  }
  await page.getByLabel("File of ticks").setInputFiles({ name: "notes.txt", mimeType: "text/plain", buffer: Buffer.from("no event\n") });
  await expect(page.getByRole("alert")).toContainText("Line 1 of notes.txt is not an event");
  await context.close();
});
